//! A whole move as firmware makes it: the intervals of a ramp, a run between, and the ramp from its end.

use serde::Serialize;

use super::climb::{Climb, LONGEST_TABLE};
use super::ideal::Ideal;
use super::table_word::TableWord;
use crate::error::{OrOverflow, Result};

/// What lies between the way up and the way down.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
pub struct SteadyRun {
    /// Ticks to the first edge after the way up.
    pub first: u64,
    /// Ticks from edge to edge after that, rounded down.
    pub interval: u64,
    /// What is added to a sum for each of them, in parts of `2^32`: each time the sum passes one, the interval is a tick longer.
    pub fraction: u32,
    /// The sum at the start.
    pub phase: u32,
    /// How many such intervals.
    pub count: u64,
    /// Ticks to the last edge before the way down, where there is another than the first.
    pub last: Option<u64>,
}

/// A way for firmware to make a move.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum Walk {
    /// Every interval of the move in a list.
    Listed {
        /// Those intervals, in ticks.
        #[serde(skip)]
        intervals: Vec<u64>,
        /// Their type.
        word: TableWord,
    },
    /// A ramp at either end.
    Ramped {
        /// The ramp; none where the rate never changes.
        climb: Option<Climb>,
        /// The run; none where the ramps meet.
        run: Option<SteadyRun>,
    },
}

impl Walk {
    /// The walk by a list of every interval; none where that would be too long.
    pub(super) fn listed(ideal: &Ideal) -> Result<Option<Self>> {
        if ideal.steps > LONGEST_TABLE {
            return Ok(None);
        }
        let intervals = ideal.intervals(ideal.steps).collect::<Result<Vec<u64>>>()?;
        let most = intervals.iter().copied().max().unwrap_or(0);
        Ok(Some(Self::Listed { word: TableWord::of(0, most.into()), intervals }))
    }

    /// The walk with a ramp at either end.
    pub(super) fn ramped(ideal: &Ideal, climb: Option<Climb>) -> Result<Self> {
        let up = climb.as_ref().map_or(0, |_| ideal.climb());
        let between = ideal.steps - 2 * up;
        let raised: u64 = climb.as_ref().map_or(0, Climb::length);
        // The way down takes as long as the way up; it begins so that the move ends when it should.
        let descent = ideal.nearest(ideal.floor(ideal.steps)?).saturating_sub(raised);
        let run = match between {
            0 => None,
            1 => Some(SteadyRun::alone(descent.saturating_sub(raised))),
            _ => Some(SteadyRun::of(ideal, [up + 1, up + between - 1], [raised, descent])?),
        };
        Ok(Self::Ramped { climb, run })
    }

    /// Every interval of the move, in ticks.
    pub fn intervals(&self) -> Box<dyn Iterator<Item = u64> + '_> {
        match self {
            Self::Listed { intervals, .. } => Box::new(intervals.iter().copied()),
            Self::Ramped { climb, run } => {
                let up = climb.iter().flat_map(Climb::up);
                let down = climb.iter().flat_map(Climb::down);
                Box::new(up.chain(run.iter().flat_map(SteadyRun::intervals)).chain(down))
            }
        }
    }

    /// Bytes of the data that the firmware carries for it.
    pub fn bytes(&self) -> u64 {
        match self {
            Self::Listed { intervals, word } => word.bytes(intervals.len()),
            Self::Ramped { climb, run } => {
                // First and last interval, the mean with its fraction, the phase and the count: six words of 32 bits.
                climb.as_ref().map_or(0, Climb::bytes) + run.map_or(0, |_| 24)
            }
        }
    }
}

impl SteadyRun {
    const fn alone(first: u64) -> Self {
        Self { first, interval: 0, fraction: 0, phase: 0, count: 0, last: None }
    }

    /// The run between two edges, which are its first and its last but one, after so many ticks and until the way down begins.
    fn of(ideal: &Ideal, [from, to]: [u64; 2], [raised, descent]: [u64; 2]) -> Result<Self> {
        let fineness = u64::from(ideal.fineness);
        let (begin, end) = (ideal.floor(from)?, ideal.floor(to)?);
        let count = to - from;
        // The mean interval, in parts of 2^32 of a tick.
        let parts = (u128::from(end - begin) << 32) / u128::from(fineness) / u128::from(count.max(1));
        let rounded = begin + fineness / 2;
        let phase = (u128::from(rounded % fineness) << 32) / u128::from(fineness);
        let (interval, fraction) = (parts >> 32, parts & u128::from(u32::MAX));
        let ran = interval * u128::from(count) + ((phase + fraction * u128::from(count)) >> 32);
        let whole = |number: u128| u64::try_from(number).ok().or_overflow("interval");
        Ok(Self {
            first: (rounded / fineness).saturating_sub(raised),
            interval: whole(interval)?,
            fraction: fraction as u32,
            phase: phase as u32,
            count,
            last: Some(descent.saturating_sub(rounded / fineness + whole(ran)?)),
        })
    }

    fn intervals(&self) -> impl Iterator<Item = u64> + '_ {
        let mut sum = u64::from(self.phase);
        let steady = (0..self.count).map(move |_| {
            sum += u64::from(self.fraction);
            let longer = sum >> 32;
            sum &= u64::from(u32::MAX);
            self.interval + longer
        });
        std::iter::once(self.first).chain(steady).chain(self.last)
    }
}

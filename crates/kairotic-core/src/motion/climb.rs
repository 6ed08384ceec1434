//! Ways for firmware to know the intervals of a ramp: a table, a few rates with a count each, or a root that is drawn anew for
//! each step. The way down is the way up, from its end.

use serde::Serialize;

use super::ideal::Ideal;
use super::table_word::TableWord;
use crate::error::Result;
use crate::load::StepRates;
use crate::quantity::{Rational, Time};

/// The most intervals in a table, and plateaus in a list of rates: more is no table that firmware would carry.
pub(super) const LONGEST_TABLE: u64 = 65_535;
const MOST_PLATEAUS: usize = 4_096;

/// The intervals of a ramp as firmware has them.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum Climb {
    /// Every interval, in ticks.
    Table {
        /// Those intervals.
        #[serde(skip)]
        intervals: Vec<u64>,
        /// How the table holds them.
        coding: Coding,
    },
    /// A few intervals, each for a number of steps.
    Plateaus {
        /// Those plateaus.
        #[serde(skip)]
        plateaus: Vec<Plateau>,
        /// The type of an interval.
        interval: TableWord,
        /// The type of a count.
        count: TableWord,
    },
    /// A root for each step.
    Root(StepRoots),
}

/// Edge `n` comes after the root of `offset * offset + n * slope`, less `offset`, over `2^shift`, rounded.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
pub struct StepRoots {
    /// What is squared and added, and taken away from the root.
    pub offset: u64,
    /// What the square grows by with each step.
    pub slope: u64,
    /// Bits after the point.
    pub shift: u32,
    /// How many steps the ramp has.
    pub steps: u64,
}

impl StepRoots {
    /// Ticks from the start to an edge. No number is as large as `2^63`: they are chosen so.
    pub const fn edge(&self, n: u64) -> u64 {
        let root = (self.offset * self.offset + n * self.slope).isqrt();
        (root - self.offset + ((1 << self.shift) >> 1)) >> self.shift
    }
}

/// How a table holds its intervals.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum Coding {
    /// As they are.
    Plain(TableWord),
    /// The first as it is, then of each the difference from the one before.
    Differences(TableWord),
}

/// One interval for a number of steps.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
pub struct Plateau {
    /// Ticks from edge to edge.
    pub interval: u64,
    /// How many.
    pub count: u64,
}

impl Climb {
    /// The intervals of the way up, in ticks.
    pub fn up(&self) -> Box<dyn Iterator<Item = u64> + '_> {
        match self {
            Self::Root(roots) => {
                let mut last = 0;
                Box::new((1..=roots.steps).map(move |n| {
                    let edge = roots.edge(n);
                    edge - std::mem::replace(&mut last, edge)
                }))
            }
            listed => Box::new(listed.listed()),
        }
    }

    /// The same intervals from the last to the first: those of the way down.
    pub fn down(&self) -> Box<dyn Iterator<Item = u64> + '_> {
        match self {
            Self::Root(roots) => {
                let mut last = roots.edge(roots.steps);
                Box::new((0..roots.steps).rev().map(move |n| {
                    let edge = roots.edge(n);
                    std::mem::replace(&mut last, edge) - edge
                }))
            }
            listed => Box::new(listed.listed().rev()),
        }
    }

    /// Ticks of the whole way up.
    pub(super) fn length(&self) -> u64 {
        match self {
            Self::Root(roots) => roots.edge(roots.steps),
            listed => listed.up().sum(),
        }
    }

    /// Intervals that stand in a table or as plateaus.
    fn listed(&self) -> impl DoubleEndedIterator<Item = u64> + '_ {
        let (table, plateaus) = match self {
            Self::Table { intervals, .. } => (intervals.as_slice(), [].as_slice()),
            Self::Plateaus { plateaus, .. } => ([].as_slice(), plateaus.as_slice()),
            Self::Root(_) => ([].as_slice(), [].as_slice()),
        };
        let plateaued = plateaus.iter().flat_map(|plateau| {
            std::iter::repeat_n(plateau.interval, usize::try_from(plateau.count).unwrap_or(usize::MAX))
        });
        table.iter().copied().chain(plateaued)
    }

    /// Bytes of the data that the firmware carries for it.
    pub fn bytes(&self) -> u64 {
        match self {
            Self::Table { intervals, coding: Coding::Plain(word) } => word.bytes(intervals.len()),
            Self::Table { intervals, coding: Coding::Differences(word) } => {
                word.bytes(intervals.len().saturating_sub(1)) + 4
            }
            Self::Plateaus { plateaus, interval, count } => {
                interval.bytes(plateaus.len()) + count.bytes(plateaus.len())
            }
            Self::Root(_) => 16,
        }
    }

    /// A table of a ramp's intervals; none for a ramp that is too long for one.
    pub(super) fn table(ideal: &Ideal, climb: u64) -> Result<Option<Self>> {
        if climb == 0 || climb > LONGEST_TABLE {
            return Ok(None);
        }
        let intervals = ideal.intervals(climb).collect::<Result<Vec<u64>>>()?;
        let largest = |values: &mut dyn Iterator<Item = i128>| {
            values.fold((0, 0), |(low, high), value| (value.min(low), value.max(high)))
        };
        let (_, high) = largest(&mut intervals.iter().map(|interval| (*interval).into()));
        let plain = TableWord::of(0, high);
        let pairs = intervals.iter().zip(intervals.iter().skip(1));
        let (low, high) = largest(&mut pairs.map(|(one, next)| i128::from(*one) - i128::from(*next)));
        let differences = TableWord::of(low, high);
        let coding = if differences.bytes(intervals.len() - 1) + 4 < plain.bytes(intervals.len()) {
            Coding::Differences(differences)
        } else {
            Coding::Plain(plain)
        };
        Ok(Some(Self::Table { intervals, coding }))
    }

    /// Plateaus with which every edge of a move is within `most` ticks of the ideal, each as long as that allows; none where
    /// that is not possible, or takes too many.
    pub(super) fn plateaus(ideal: &Ideal, climb: u64, most: Rational) -> Result<Option<Self>> {
        let fineness = i128::from(ideal.fineness);
        let Some(room) = most.times(Rational::from(ideal.fineness)).map(Rational::floor) else {
            return Ok(None);
        };
        let mut plateaus: Vec<Plateau> = Vec::new();
        let (mut from, mut begun) = (0_u64, 0_i128);
        let mut edge = 0;
        while edge < climb {
            // The interval that keeps every edge of the plateau within the room lies between these two.
            let (mut low, mut high) = (1_i128, i128::from(u64::MAX >> 1));
            let mut count = 0;
            while edge < climb {
                let floor = i128::from(ideal.floor(edge + 1)?);
                let parts = (count + 1) * fineness;
                let least = (floor + 1 - room - begun * fineness + parts - 1).div_euclid(parts).max(low);
                let most = (floor + room - begun * fineness).div_euclid(parts).min(high);
                if least > most {
                    break;
                }
                (low, high) = (least, most);
                count += 1;
                edge += 1;
            }
            if count == 0 || plateaus.len() >= MOST_PLATEAUS {
                return Ok(None);
            }
            let interval = i128::midpoint(low, high);
            begun += interval * count;
            let count = u64::try_from(count).unwrap_or(u64::MAX);
            plateaus.push(Plateau { interval: interval as u64, count });
            from += count;
        }
        if from == 0 {
            return Ok(None);
        }
        let most = |value: fn(&Plateau) -> u64| plateaus.iter().map(value).max().unwrap_or(0).into();
        let interval = TableWord::of(0, most(|plateau| plateau.interval));
        let count = TableWord::of(0, most(|plateau| plateau.count));
        Ok(Some(Self::Plateaus { plateaus, interval, count }))
    }

    /// A root for each step, in numbers of 64 bits; none for S-curves, and where no such numbers will do.
    pub(super) fn root(rates: &StepRates, climb: u64, tick: Time) -> Option<Self> {
        if climb == 0 || rates.jerk.is_some() {
            return None;
        }
        let tick = tick.value();
        let slope = rates.acceleration.value().times(tick)?.times(tick)?;
        // In ticks, edge n comes at sqrt(c^2 + n * b) - c, where c is the start rate over the acceleration.
        let offset = rates.start.value().times(tick)?.over(slope)?;
        let growth = Rational::whole(2).over(slope)?;
        (0..=16).rev().find_map(|shift| {
            let scale = Rational::new(1 << shift, 1)?;
            let rounded = |value: Rational| {
                let value = value.plus(Rational::new(1, 2)?)?.floor();
                u64::try_from(value).ok()
            };
            let offset = rounded(offset.times(scale)?)?;
            let slope = rounded(growth.times(scale)?.times(scale)?)?;
            let square = u128::from(offset) * u128::from(offset) + u128::from(slope) * u128::from(climb + 1);
            (square < 1 << 63).then_some(Self::Root(StepRoots { offset, slope, shift, steps: climb }))
        })
    }
}

//! Period measurement: a free-running counter, captured at each pulse.

use serde::Serialize;

use super::at_speed::SpeedReading;
use crate::error::{OrOverflow, Result};
use crate::part::Timer;
use crate::quantity::{Deviation, Frequency, Range, Rational, Speed, Time};
use crate::setting::FreeRunning;

/// A counter set up to time pulses.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct Interval {
    /// The counter and what is written for it.
    pub counter: FreeRunning,
    /// Its width in bits.
    pub counter_bits: u32,
    /// The most counts that it tells apart from none.
    pub largest: u64,
    /// The name of the base counter, where the timer can choose one.
    pub base: Option<String>,
    /// Counts between two pulses at the fastest and at the slowest speed: the fewest and the most.
    pub counts: (u64, u64),
    /// The slowest speed whose pulses the counter can tell apart.
    pub slowest: Speed,
    /// After so long without a pulse, the speed is below the slowest that is wanted.
    pub stop: Time,
    /// After so long without a pulse, the counter has come round.
    pub overflow: Time,
}

/// What is to be timed.
#[derive(Debug, Clone, Copy)]
pub(super) struct TimedPulses {
    /// Pulses a turn.
    pub pulses_per_turn: u32,
    /// The slowest and the fastest speed.
    pub speeds: Range<Speed>,
    /// The clock.
    pub clock: Frequency,
    /// How far it may be off.
    pub deviation: Deviation,
}

/// The time from one pulse to the next, at a speed greater than zero with so many pulses a turn.
///
/// # Errors
/// [`QuantityError::NotPositive`](crate::quantity::QuantityError::NotPositive) and
/// [`QuantityError::Overflow`](crate::quantity::QuantityError::Overflow).
pub fn gap(speed: Speed, pulses_per_turn: u32) -> Result<Time> {
    let rate = speed.positive()?.value().times(pulses_per_turn.into()).or_overflow("rate of pulses")?;
    Ok(Frequency::new(rate).period()?)
}

impl Interval {
    /// The finest tick with which the counter does not come round between two pulses of the slowest speed, the clock as
    /// fast as it may be; the longest tick where none is long enough.
    pub(super) fn of(timer: &Timer, wanted: &TimedPulses) -> Result<Self> {
        let inputs = timer.block.inputs.as_ref();
        let bits = inputs.and_then(|inputs| inputs.counter_bits).unwrap_or(timer.block.counter_bits);
        let largest = 1_u64.checked_shl(bits).map_or(u64::MAX, |size| size - 1);
        let fastest_clock = Rational::ONE.plus(wanted.deviation.value()).or_overflow("clock")?;
        let slowest_gap = gap(wanted.speeds.low, wanted.pulses_per_turn)?;
        let longest = slowest_gap.times(fastest_clock)?.value();
        // A gap of x ticks is counted as the whole number below or above x.
        let least = Time::new(longest.over(largest.into()).or_overflow("tick")?);
        let counter = FreeRunning::at_least(timer, wanted.clock, least)?;
        let tick = counter.tick.value();
        let most = longest.over(tick).or_overflow("counts between pulses")?.ceiling();
        let shortest = gap(wanted.speeds.high, wanted.pulses_per_turn)?.value();
        let fewest = shortest.over(tick).or_overflow("counts between pulses")?.floor();
        let room =
            tick.times(largest.into()).and_then(|room| room.over(fastest_clock)).or_overflow("counter")?;
        let slowest = room.times(wanted.pulses_per_turn.into()).and_then(|turn| Rational::ONE.over(turn));
        let round = tick.times(largest.into()).and_then(|room| room.plus(tick)).or_overflow("counter")?;
        let whole = |counts: i128| u64::try_from(counts).ok().or_overflow("counts between pulses");
        Ok(Self {
            counter_bits: bits,
            largest,
            base: timer.base.as_ref().map(|base| base.name.clone()),
            counts: (whole(fewest)?, whole(most)?),
            slowest: Speed::new(slowest.or_overflow("slowest speed")?),
            stop: slowest_gap,
            overflow: Time::new(round),
            counter,
        })
    }

    /// The reading at a speed where `together` pulses are timed as one.
    pub(super) fn at(&self, pulses: Rational, speed: Speed, together: u64) -> Result<SpeedReading> {
        let tick = self.counter.tick.value();
        let rate = speed.times(pulses)?.value();
        let takes = Rational::from(together).over(rate).or_overflow("time between pulses")?;
        let counts = takes.over(tick).or_overflow("counts between pulses")?.floor().max(1);
        let counts = Rational::new(counts, 1).or_overflow("counts between pulses")?;
        // What one count would mean, in speed times counts.
        let constant = Rational::from(together).over(pulses).and_then(|turns| turns.over(tick));
        let step = constant.and_then(|constant| constant.over(counts)?.over(counts.plus(Rational::ONE)?));
        Ok(SpeedReading {
            counts: u64::try_from(counts.floor()).ok().or_overflow("counts between pulses")?,
            step: Speed::new(step.or_overflow("step of the speed")?),
            takes: Time::new(takes),
        })
    }
}

//! A window: the pulses that come in a fixed time are counted.

use serde::Serialize;

use super::at_speed::SpeedReading;
use crate::error::{OrOverflow, Result};
use crate::quantity::{Range, Rational, Speed, Time};

/// Pulses counted in a fixed time.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct Window {
    /// The time.
    pub length: Time,
    /// From one reading to the next, at every speed.
    pub step: Speed,
    /// The fewest and the most pulses that a window can see.
    pub counts: (u64, u64),
    /// The bits that the most pulses need.
    pub needed_bits: u32,
    /// The slowest speed of which every window sees a pulse.
    pub slowest: Speed,
    /// From the last pulse of something that stops to the first window without any, at most.
    pub stop: Time,
}

impl Window {
    pub(super) fn of(length: Time, pulses: Rational, speeds: Range<Speed>) -> Result<Self> {
        let time = length.positive()?.value();
        let turns = pulses.times(time).or_overflow("window")?;
        let step = Speed::new(Rational::ONE.over(turns).or_overflow("step of the speed")?);
        let fewest = speeds.low.value().times(turns).or_overflow("pulses in a window")?.floor();
        let most = speeds.high.value().times(turns).or_overflow("pulses in a window")?.ceiling();
        let whole = |pulses: i128| u64::try_from(pulses).ok().or_overflow("pulses in a window");
        let most = whole(most)?;
        Ok(Self {
            length,
            step,
            counts: (whole(fewest)?, most),
            needed_bits: u64::BITS - most.leading_zeros(),
            slowest: step,
            stop: Time::new(time.plus(time).or_overflow("window")?),
        })
    }

    /// The reading at a speed.
    pub(super) fn at(&self, speed: Speed) -> Result<SpeedReading> {
        let counts = speed.ratio_to(self.step)?.floor();
        Ok(SpeedReading {
            counts: u64::try_from(counts).ok().or_overflow("pulses in a window")?,
            step: self.step,
            takes: self.length,
        })
    }
}

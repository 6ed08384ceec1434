//! What time does to a setting: the jitter of a fractional divider, and the error that the source clock brings.

use super::realise::Setting;
use crate::error::Result;
use crate::part::Timer;
use crate::quantity::{Deviation, Frequency, OrOverflow, Rational, Time};

/// How much one period differs from the next, because a fractional divider hands out whole source clocks.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Jitter {
    /// The longest period less the shortest: nought or one source clock.
    pub peak_to_peak: Time,
    /// Root mean square of a single period's deviation, in seconds.
    pub rms: f64,
    /// After so many periods the pattern repeats.
    pub repeats: u64,
}

impl Jitter {
    /// The jitter of a period of `clocks` source clocks from a first-order fractional divider; `None` where every divider
    /// of the timer is whole.
    ///
    /// # Errors
    /// [`Error::Overflow`](crate::Error::Overflow).
    pub(super) fn of(timer: &Timer, clock: Frequency, clocks: Rational) -> Result<Option<Self>> {
        if timer.block.dividers.iter().all(|stage| stage.steps.fraction_bits() == 0) {
            return Ok(None);
        }
        let clock = Rational::ONE.over(clock.value()).or_overflow("source clock's period")?;
        let whole = Rational::new(clocks.floor(), 1).or_overflow("period")?;
        let part = clocks.minus(whole).or_overflow("period")?.approx();
        Ok(Some(Self {
            peak_to_peak: Time::new(if clocks.is_whole() { Rational::ZERO } else { clock }),
            rms: (part * (1.0 - part)).sqrt() * clock.approx(),
            // The pattern is over when the accumulator has gone round: after as many periods as the fraction needs.
            repeats: u64::try_from(clocks.denominator()).ok().or_overflow("period")?,
        }))
    }
}

/// What the source clock's tolerance does to a setting; quantisation is not in it.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct ClockError {
    /// The clock's tolerance.
    pub deviation: Deviation,
    /// How far the frequency may be off either way.
    pub frequency: Frequency,
    /// How far the longest pulse may be off either way, where there is a signal.
    pub pulse: Option<Time>,
}

impl ClockError {
    /// The clock error of a setting; `None` for a clock without tolerance.
    ///
    /// # Errors
    /// [`Error::Overflow`](crate::Error::Overflow).
    pub(super) fn of(setting: &Setting, deviation: Deviation) -> Result<Option<Self>> {
        if deviation == Deviation::ZERO {
            return Ok(None);
        }
        let share = deviation.value();
        let longest = setting.outputs.iter().map(|output| output.pulse).max();
        let pulse = longest.map(|pulse| pulse.value().times(share).or_overflow("clock error")).transpose()?;
        Ok(Some(Self {
            deviation,
            frequency: Frequency::new(setting.frequency.value().times(share).or_overflow("clock error")?),
            pulse: pulse.map(Time::new),
        }))
    }
}

//! A counter that runs freely, without making a signal: its division and what is written for it.

use serde::Serialize;

use super::divider::Dividers;
use super::write::{self, FieldWrite};
use crate::error::{OrOverflow, Result};
use crate::part::Timer;
use crate::quantity::{Frequency, Rational, Time};

/// A counter that runs freely.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct FreeRunning {
    /// Everything between the clock and a counter tick.
    pub divider: Rational,
    /// One count.
    pub tick: Time,
    /// The fields that choose division and counter.
    pub writes: Vec<FieldWrite>,
}

impl FreeRunning {
    /// The shortest tick of a timer that is at least `least`; the longest there is where none is so long.
    ///
    /// # Errors
    /// [`QuantityError::Overflow`](crate::quantity::QuantityError::Overflow), and a part that contradicts itself.
    pub(crate) fn at_least(timer: &Timer, clock: Frequency, least: Time) -> Result<Self> {
        let dividers = Dividers::of(timer)?;
        let scale = Rational::new(1_i128 << dividers.fraction_bits, 1).or_overflow("divider")?;
        let clocks = least.in_ticks(clock)?;
        let wanted = clocks.times(scale).or_overflow("number of source clocks in a tick")?;
        let (numerator, denominator) =
            (wanted.numerator().unsigned_abs(), wanted.denominator().unsigned_abs());
        let index = dividers.at_least(numerator.div_ceil(denominator)).min(dividers.len().saturating_sub(1));
        let divider = Rational::from(dividers.scaled(index)).over(scale).or_overflow("divider")?;
        Ok(Self {
            divider,
            tick: Time::new(divider.over(clock.value()).or_overflow("tick")?),
            writes: write::counting_writes(timer, &dividers.written(index))?,
        })
    }
}

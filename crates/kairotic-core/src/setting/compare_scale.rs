//! How active times and compare values of a channel go together, at a setting: for levels that change while all else stays.

use super::active::{self, Ruler, Wanted};
use super::evaluate::{active_ticks, ruler};
use super::{Setting, undithered};
use crate::error::{Error, OrOverflow, Result};
use crate::part::{CompareLaw, LinearLaw, Mode, Timer};
use crate::quantity::{Duty, Rational, Time};
use crate::target::Active;

/// How active times and compare values of a channel go together, at a setting.
#[derive(Debug, Clone, Copy)]
pub struct CompareScale<'t> {
    mode: &'t Mode,
    law: &'t LinearLaw,
    limit: u64,
    ruler: Ruler,
    clock: Rational,
    tick: Rational,
}

/// The compare value for an active time.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct CompareFit {
    /// The one that would meet it if compare values were no whole numbers.
    pub exact: Rational,
    /// The legal one that is nearest; of two the one with the shorter pulse.
    pub nearest: u64,
}

impl Setting {
    /// The scale of a channel of the setting's timer.
    ///
    /// # Errors
    /// [`Error::UnknownName`] for another timer or channel; [`Error::NoLevels`] where the compare value has no say in the
    /// active time.
    pub fn compare_scale<'t>(&self, timer: &'t Timer, channel: &str) -> Result<CompareScale<'t>> {
        let mode = timer.mode(&self.plan.mode)?;
        let CompareLaw::Linear(law) = &mode.compare else {
            return Err(Error::NoLevels { timer: timer.path() });
        };
        Ok(CompareScale {
            mode,
            law,
            limit: timer.compare_limit(mode, timer.channel(channel)?)?,
            ruler: ruler(self.divider, self.dither_bits, self.plan.top, self.ticks)?,
            clock: self.clock.value(),
            tick: self.tick.value(),
        })
    }
}

impl CompareScale<'_> {
    /// The compare value for an active time.
    ///
    /// # Errors
    /// Numbers that do not fit.
    pub fn compare(&self, active: Active) -> Result<CompareFit> {
        let wanted = Wanted::of(active, self.clock)?;
        let exact = active::exact(self.law, self.ruler, wanted).or_overflow("compare value")?;
        let nearest =
            active::nearest(self.law, self.limit, self.ruler, wanted).or_overflow("compare value")?.compare;
        Ok(CompareFit { exact, nearest })
    }

    /// The legal compare value that is nearest to an exact one, `numerator / denominator`, the latter greater than zero; of two
    /// the one with the shorter pulse. `None` where numbers do not fit.
    pub(crate) fn nearest(&self, numerator: i128, denominator: i128) -> Option<u64> {
        let (low, high) = active::legal(self.law, self.limit, self.ruler);
        let twice = denominator.checked_mul(2)?;
        let doubled = numerator.checked_mul(2)?;
        // A larger compare value is a longer pulse, or a shorter one.
        let nearest = match self.law.gain > 0 {
            true => -(denominator.checked_sub(doubled)?).div_euclid(twice),
            false => doubled.checked_add(denominator)?.div_euclid(twice),
        };
        u64::try_from(nearest.clamp(low, high)).ok()
    }

    /// The share of the period and the time that a compare value makes.
    ///
    /// # Errors
    /// Numbers that do not fit.
    pub fn active(&self, compare: u64) -> Result<(Duty, Time)> {
        let steps = active_ticks(self.mode, self.ruler, compare, self.limit)?;
        let duty = steps.over(self.ruler.ticks.into()).or_overflow("duty")?;
        let ticks = undithered(steps, self.ruler.dither_bits)?;
        let pulse = ticks.times(self.tick).or_overflow("pulse")?;
        Ok((Duty::new(duty), Time::new(pulse)))
    }
}

//! What a measured frequency is off by its plan, and what that comes from: the registers, the clock, or neither.

use super::plan::Planned;
use crate::error::Result;
use crate::finding::{
    Finding, bus_clock_suspected, clock_off, divider_off_by_one, frequency_unexplained, top_off_by_one,
};
use crate::quantity::{Deviation, Frequency, OrOverflow, Rational};
use crate::setting::clock_suspects;

/// What a difference in frequency comes from.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Cause {
    /// There is none that the measurement could see.
    AsPlanned,
    /// The clock is off.
    Clock,
    /// A register holds something else, or the timer counts another clock.
    Registers,
    /// None of those explains it.
    Unexplained,
    /// There is no signal.
    Missing,
}

impl Cause {
    /// The word that outputs use.
    pub const fn word(self) -> &'static str {
        match self {
            Self::AsPlanned => "as planned",
            Self::Clock => "clock",
            Self::Registers => "registers",
            Self::Unexplained => "unexplained",
            Self::Missing => "no signal",
        }
    }
}

/// A clock of which nothing is stated is taken to be off by no more than this.
const UNSTATED: f64 = 0.05;
/// A clock that is taken for another is off by this at least, as clocks of silicon are.
const ROUGHLY: f64 = 1e-3;

/// What the frequency is off by, and what that comes from.
pub(super) fn cause(
    plan: &Planned<'_>,
    error: f64,
    uncertainty: f64,
    period: f64,
) -> Result<(Cause, Option<Finding>)> {
    let derivation = plan.derivation;
    let setting = &derivation.best.setting;
    let ratio = 1.0 + error;
    if error.abs() <= uncertainty {
        return Ok((Cause::AsPlanned, None));
    }
    let stated = derivation.clock.deviation.value().approx();
    let tolerance = if stated > 0.0 { stated } else { UNSTATED };
    let measured = Frequency::new(Rational::measured(1.0 / period).or_overflow("frequency")?);
    let planned = setting.frequency;
    let explains = |factor: f64, room: f64| {
        // What is no further from 1 than can be told explains nothing.
        (ratio / factor - 1.0).abs() <= room && (factor - 1.0).abs() > 2.0 * room
    };
    // One count too many or too few in the top, or in a divider.
    let ticks = setting.mean_ticks()?.approx();
    let one = |count: f64, more: f64| count / (count + more);
    for (more, by) in [(1.0, 1_i64), (-1.0, -1)] {
        if ticks > 1.0 && setting.dither_bits == 0 && explains(one(ticks, more), uncertainty) {
            let field = setting.top_register.as_deref().unwrap_or("the top");
            let found = top_off_by_one::seen(field, setting.plan.top, by, measured, planned);
            return Ok((Cause::Registers, Some(found)));
        }
        let stages =
            derivation.timer.block.dividers.iter().zip(&setting.divisions).zip(&setting.plan.dividers);
        for ((stage, division), written) in stages {
            let whole = division.is_whole() && division.approx() + more >= 1.0;
            // By two or by four, it is more likely another clock.
            let doubled = [0.25, 0.5, 2.0, 4.0].contains(&one(division.approx(), more));
            if whole
                && !doubled
                && explains(one(division.approx(), more), uncertainty.max(tolerance.min(ROUGHLY)))
            {
                let field = derivation.timer.slot(&stage.slot)?.name();
                let found = divider_off_by_one::seen(&field, *written, by, measured, planned);
                return Ok((Cause::Registers, Some(found)));
            }
        }
    }
    if error.abs() <= tolerance + uncertainty {
        return Ok((Cause::Clock, None));
    }
    let room = uncertainty + if stated > 0.0 { stated.max(ROUGHLY) } else { UNSTATED / 2.0 };
    for (origin, suspect) in clock_suspects(&derivation.timer, setting.clock)? {
        let factor = suspect.value().over(setting.clock.value()).or_overflow("clock")?.approx();
        if explains(factor, room) {
            let found = bus_clock_suspected::new(planned, measured, setting.clock, suspect, &origin);
            return Ok((Cause::Registers, Some(found)));
        }
    }
    if stated > 0.0 && error.abs() <= UNSTATED {
        let off = Deviation::new(Rational::measured(error).or_overflow("error")?);
        return Ok((Cause::Clock, Some(clock_off::new(plan.name, off, derivation.clock.deviation))));
    }
    Ok((Cause::Unexplained, Some(frequency_unexplained::new(plan.name, measured, planned))))
}

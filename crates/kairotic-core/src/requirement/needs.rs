//! What is required of a signal, and whether a setting meets it.

use serde::Serialize;

use super::RequirementCheck;
use crate::error::OrOverflow;
use crate::error::Result;
use crate::load::Driven;
use crate::quantity::{Deviation, Figure, Frequency, LoadLevel, Time, Tolerance};
use crate::search::{Derivation, FitOf};
use crate::signal::Active;

/// What is required of a signal.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Needs {
    /// How far the frequency may be off by the registers.
    pub frequency: Option<Deviation>,
    /// How far the pulse may be off by the registers.
    pub pulse: Option<Time>,
    /// How far the level may be off, in the load's unit.
    pub level: Option<LoadLevel>,
    /// The fewest steps that will do, in the span if there is one.
    pub steps: Option<u64>,
    /// The longest step that will do, in the load's unit.
    pub step: Option<LoadLevel>,
    /// The largest difference between periods that will do.
    pub jitter: Option<Time>,
    /// How far the clock may be off.
    pub clock: Option<Deviation>,
}

/// The kinds of requirements.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum Need {
    /// The frequency's error.
    Frequency,
    /// The pulse's error.
    Pulse,
    /// The level's error.
    Level,
    /// The number of steps.
    Steps,
    /// The length of a step.
    Step,
    /// The jitter.
    Jitter,
    /// The clock's error.
    Clock,
}

impl Need {
    /// The words that outputs use.
    pub const fn words(self) -> &'static str {
        match self {
            Self::Frequency => "frequency error",
            Self::Pulse => "pulse error",
            Self::Level => "level error",
            Self::Steps => "steps",
            Self::Step => "step",
            Self::Jitter => "jitter",
            Self::Clock => "clock error",
        }
    }
}

/// Holds a derivation against what is required, with the clock's tolerance and what the load makes of it.
///
/// # Errors
/// Numbers that do not fit.
pub fn check(
    needs: &Needs,
    derivation: &Derivation,
    clock: Option<Tolerance<Frequency>>,
    driven: Option<&Driven>,
) -> Result<Vec<RequirementCheck>> {
    let best = &derivation.best;
    let mut found = Vec::new();
    if let Some(most) = needs.frequency {
        let error = Deviation::new(best.fit.frequency_error.value().magnitude());
        found.push(RequirementCheck::at_most(
            Need::Frequency,
            Figure::Deviation(most),
            Figure::Deviation(error),
        )?);
    }
    if let (Some(most), Some(fit)) = (needs.pulse, best.fit.signals.first()) {
        let error = pulse_error(fit, best.setting.period)?;
        found.push(RequirementCheck::at_most(Need::Pulse, Figure::Time(most), Figure::Time(error))?);
    }
    if let Some(least) = needs.steps {
        found.push(RequirementCheck::at_least(Need::Steps, least, best.steps())?);
    }
    if let (Some(most), Some(driven)) = (needs.step, driven) {
        found.push(RequirementCheck::at_most(Need::Step, Figure::Level(most), Figure::Level(driven.step))?);
    }
    if let Some(most) = needs.jitter {
        let jitter = best.setting.jitter.map_or(Time::ZERO, |jitter| jitter.peak_to_peak.max(jitter.pulses));
        found.push(RequirementCheck::at_most(Need::Jitter, Figure::Time(most), Figure::Time(jitter))?);
    }
    if let Some(most) = needs.clock {
        let most = Figure::Deviation(most);
        let stated = clock.map(|clock| clock.deviation).filter(|error| *error > Deviation::ZERO);
        // A clock of which nothing is known meets nothing.
        found.push(match stated {
            Some(error) => RequirementCheck::at_most(Need::Clock, most, Figure::Deviation(error))?,
            None => RequirementCheck::not_stated(Need::Clock, most),
        });
    }
    Ok(found)
}

/// How far a realised pulse is off, whether it was asked for as a pulse or as a duty.
fn pulse_error(fit: &FitOf, period: Time) -> Result<Time> {
    match fit.error {
        Active::Pulse(error) => Ok(Time::new(error.value().magnitude())),
        Active::Duty(error) => {
            error.value().magnitude().times(period.value()).or_overflow("pulse").map(Time::new)
        }
    }
}

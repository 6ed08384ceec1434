//! What is required of a signal, and whether a setting meets it.

use crate::error::Result;
use crate::load::{Driven, LoadLevel};
use crate::quantity::{Deviation, Frequency, OrOverflow, Rational, Time, Tolerance};
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
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
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

/// One requirement, and what there is.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Verdict {
    /// What is required.
    pub need: Need,
    /// How much, as text.
    pub wanted: String,
    /// What there is, as text.
    pub found: String,
    /// How much of what is allowed is used: above 1 the requirement is missed. `None` where nothing is allowed.
    pub used: Option<Rational>,
    /// Whether it is met.
    pub met: bool,
}

/// Holds a derivation against what is required, with the clock's tolerance and what the load makes of it.
///
/// # Errors
/// Numbers that do not fit.
pub fn verdicts(
    needs: &Needs,
    derivation: &Derivation,
    clock: Option<Tolerance<Frequency>>,
    driven: Option<&Driven>,
) -> Result<Vec<Verdict>> {
    let best = &derivation.best;
    let mut found = Vec::new();
    if let Some(most) = needs.frequency {
        let error = Deviation::new(best.fit.frequency_error.value().magnitude());
        found.push(at_most(Need::Frequency, most.value(), error.value(), most.told(), error.rounded(4))?);
    }
    if let (Some(most), Some(fit)) = (needs.pulse, best.fit.signals.first()) {
        let error = pulse_error(fit, best.setting.period)?;
        found.push(at_most(Need::Pulse, most.value(), error.value(), most.told(), error.rounded(4))?);
    }
    if let Some(least) = needs.steps {
        let steps = best.steps();
        let used = Rational::from(least).over(Rational::from(steps.max(1))).or_overflow("steps")?;
        let (wanted, text) = (format!("at least {least}"), steps.to_string());
        found.push(Verdict { need: Need::Steps, wanted, found: text, used: Some(used), met: steps >= least });
    }
    if let (Some(most), Some(driven)) = (needs.step, driven) {
        let step = driven.step;
        found.push(at_most(Need::Step, most.value(), step.value(), most.told(), step.rounded(4))?);
    }
    if let Some(most) = needs.jitter {
        let jitter = best.setting.jitter.map_or(Time::ZERO, |jitter| jitter.peak_to_peak.max(jitter.pulses));
        found.push(at_most(Need::Jitter, most.value(), jitter.value(), most.told(), jitter.rounded(4))?);
    }
    if let Some(most) = needs.clock {
        let error = clock.map_or(Deviation::ZERO, |clock| clock.deviation);
        let text = if error == Deviation::ZERO { "not stated".to_owned() } else { error.told() };
        let mut verdict = at_most(Need::Clock, most.value(), error.value(), most.told(), text)?;
        // A clock of which nothing is known meets nothing.
        verdict.met &= error > Deviation::ZERO;
        found.push(verdict);
    }
    Ok(found)
}

fn at_most(need: Need, most: Rational, is: Rational, wanted: String, found: String) -> Result<Verdict> {
    let used = if most.is_zero() { None } else { Some(is.over(most).or_overflow("requirement")?) };
    Ok(Verdict { need, wanted: format!("at most {wanted}"), found, used, met: is <= most })
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

//! What is required of a signal, held against what its setting makes.

use super::RequirementCheck;
use crate::error::Result;
use crate::load::Driven;
use crate::quantity::{Deviation, Figure, Frequency, Time, Tolerance};
use crate::search::{Derivation, FitOf};
use crate::signal::{Need, Needs};
use crate::target::Active;

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
        let error = best.fit.frequency_error.magnitude();
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
        Active::Pulse(error) => Ok(error.magnitude()),
        Active::Duty(error) => Ok(error.magnitude().of(period)?),
    }
}

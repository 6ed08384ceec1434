//! What is required of a signal, against all that takes it away from what is wanted.

use super::contribution::Contribution;
use super::totals::{Totals, reaches};
use crate::error::{OrOverflow, Result};
use crate::load::drive;
use crate::quantity::{Deviation, Figure, LoadLevel, Rational, Time};
use crate::requirement::{RequirementCheck, check};
use crate::search::Derivation;
use crate::signal::{Need, Needs, SignalSpec};

/// Holds everything against what is required.
pub(super) fn judge(
    SignalSpec { needs, conditions, load, .. }: &SignalSpec<'_>,
    derivation: &Derivation,
    totals: &Totals,
    all: &[Contribution],
) -> Result<Vec<RequirementCheck>> {
    let mut found = Vec::new();
    let (worst, likely) = (&totals.worst, &totals.likely.reach);
    if let Some(most) = needs.frequency {
        found.push(deviation(Need::Frequency, most, [worst, likely].map(|reach| reach.worst_frequency()))?);
    }
    if let Some(most) = needs.pulse {
        found.push(time(Need::Pulse, most, [worst, likely].map(|reach| reach.worst_pulse()))?);
    }
    if let (Some(most), Some(worst), Some(likely)) = (needs.level, totals.worst_level, totals.likely.level) {
        let [worst, likely] = [worst, likely].map(|range| Figure::Level(LoadLevel::further(range)));
        found.push(RequirementCheck::of_cases(Need::Level, Figure::Level(most), worst, Some(likely))?);
    }
    if let Some(most) = needs.jitter {
        let setting = &derivation.best.setting;
        let pattern = setting.jitter.map_or(Time::ZERO, |jitter| jitter.peak_to_peak.max(jitter.pulses));
        let pll = conditions.pll.unwrap_or(Time::ZERO).value();
        // From three times the RMS below to three times above; likely are twice.
        let with = |times: i64| -> Result<Time> {
            let random = pll.times(Rational::whole(times)).or_overflow("jitter")?;
            pattern.value().plus(random).or_overflow("jitter").map(Time::new)
        };
        found.push(time(Need::Jitter, most, [with(6)?, with(4)?])?);
    }
    if let Some(most) = needs.clock {
        let clock: Vec<Contribution> = all.iter().filter(|one| one.cause.is_clock()).cloned().collect();
        // A clock of which nothing is known meets nothing.
        found.push(if clock.is_empty() {
            RequirementCheck::not_stated(Need::Clock, Figure::Deviation(most))
        } else {
            deviation(Need::Clock, most, reaches(&clock)?.map(|reach| reach.worst_frequency()))?
        });
    }
    let driven = load.as_ref().map(|load| drive(load, &derivation.best.setting, None)).transpose()?;
    let steps = Needs { steps: needs.steps, step: needs.step, ..Needs::default() };
    found.extend(check(&steps, derivation, None, driven.as_ref())?);
    Ok(found)
}

fn deviation(need: Need, most: Deviation, cases: [Deviation; 2]) -> Result<RequirementCheck> {
    let [worst, likely] = cases.map(Figure::Deviation);
    RequirementCheck::of_cases(need, Figure::Deviation(most), worst, Some(likely))
}

fn time(need: Need, most: Time, cases: [Time; 2]) -> Result<RequirementCheck> {
    let [worst, likely] = cases.map(Figure::Time);
    RequirementCheck::of_cases(need, Figure::Time(most), worst, Some(likely))
}

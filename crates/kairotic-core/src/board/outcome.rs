//! What becomes of a signal: what its load makes of the setting, and whether everything is met that is required.

use serde::Serialize;

use crate::error::{OrOverflow, Result};
use crate::finding::{self, FewStepsInSpan, Finding, Place};
use crate::load::{Driven, drive, judge};
use crate::part::Part;
use crate::quantity::LoadLevel;
use crate::requirement::{RequirementCheck, Verdict, check};
use crate::search::{Derivation, SearchOptions, derive_with};
use crate::signal::SignalSpec;
use crate::survey::{SortBy, SurveyClock, SurveyRequest, sort, survey};
use crate::target::Target;

/// What becomes of a signal.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct Outcome {
    /// The signal's name.
    pub signal: String,
    /// The level that was asked for, where it was one.
    pub asked: Option<LoadLevel>,
    /// What its load makes of the setting, where it has one.
    pub driven: Option<Driven>,
    /// What is required, and what there is.
    pub checks: Vec<RequirementCheck>,
}

impl Outcome {
    /// Whether everything is met that is required.
    pub fn is_met(&self) -> bool {
        self.checks.iter().all(|check| check.outcome == Verdict::Met)
    }
}

/// Derives a signal, and holds its setting against its load and against what is required; what is or may be wrong stands
/// with the setting's own findings. Where steps are missing on its part, the first of `others` that has enough is named.
///
/// # Errors
/// As [`derive_with()`].
pub fn outcome<'p>(
    spec: &SignalSpec<'p>,
    options: SearchOptions,
    mut others: impl Iterator<Item = &'p Part>,
) -> Result<(Derivation, Outcome)> {
    let mut derivation = derive_with(&spec.on, &spec.target, options)?;
    let clock = derivation.clock;
    let elsewhere = |needed| {
        let on = |part, clock| enough_steps(part, &spec.target, clock, needed).ok().flatten();
        on(spec.on.part, SurveyClock::Given(clock))
            .or_else(|| on(spec.on.part, SurveyClock::Highest))
            .or_else(|| others.find_map(|part| on(part, SurveyClock::Highest)))
    };
    let (outcome, mut findings) = judged(spec, &derivation, elsewhere)?;
    derivation.findings.append(&mut findings);
    finding::sort(&mut derivation.findings);
    Ok((derivation, outcome))
}

/// What becomes of a signal, and what its load does not tolerate. `elsewhere` says, for a number of steps that is missing
/// here, where there are as many.
fn judged(
    spec: &SignalSpec<'_>,
    derivation: &Derivation,
    elsewhere: impl FnOnce(u64) -> Option<Place>,
) -> Result<(Outcome, Vec<Finding>)> {
    let setting = &derivation.best.setting;
    let load = spec.load.as_ref();
    let driven = load.map(|load| drive(load, setting, spec.level)).transpose()?;
    let mut findings = load.map(|load| judge(load, setting)).transpose()?.unwrap_or_default();
    if let (Some(driven), Some(wanted)) = (&driven, spec.needs.step)
        && driven.step.value() > wanted.value()
    {
        let ratio = driven.step.value().over(wanted.value()).or_overflow("steps")?;
        let needed = ratio.times(driven.steps.into()).or_overflow("steps")?;
        let needed = u64::try_from(needed.ceiling()).unwrap_or(u64::MAX);
        let (load, steps, step) = (driven.load.clone(), driven.steps, driven.step);
        let elsewhere = elsewhere(needed);
        findings.push(FewStepsInSpan { load, steps, step, needed, wanted, elsewhere }.into());
    }
    let checks = check(&spec.needs, derivation, Some(derivation.clock), driven.as_ref())?;
    Ok((Outcome { signal: spec.name.clone(), asked: spec.level, driven, checks }, findings))
}

/// The timer of a part that makes a target best with at least so many steps; `None` where none does.
///
/// # Errors
/// What is wrong with the target itself.
fn enough_steps(part: &Part, target: &Target, clock: SurveyClock, needed: u64) -> Result<Option<Place>> {
    // No counter is wider, and no compare finer than by this, whatever the target: a search would only take its time.
    const FINER: u32 = 8;
    let widest = part.blocks.values().map(|block| block.counter_bits).max().unwrap_or(0);
    if u128::from(needed) > 1_u128 << (widest + FINER).min(127) {
        return Ok(None);
    }
    let free = Target { channel: None, counter: None, ..target.clone() };
    let target = Target { min_steps: needed, asks: Vec::new(), ..free };
    let found = survey(part, &SurveyRequest { target, clock, dither: false })?;
    let mut rows = found.rows;
    rows.retain(|row| row.choice.steps() >= needed && row.choice.fit.within);
    sort(&mut rows, SortBy::Score);
    Ok(rows.first().map(|row| Place {
        timer: row.timer.path(),
        steps: row.choice.steps(),
        clock: row.clock.nominal,
    }))
}

//! What was measured against what was planned: held against each requirement, with the measurement's own uncertainty,
//! and what the difference comes from.

use super::cause::{Cause, cause};
use super::held::{Allowed, Answer, Held, held};
use super::measurement::{Measurement, Timing};
use super::recorder::Recorder;
use crate::board::Needs;
use crate::error::Result;
use crate::finding::{
    self, Finding, Severity, below_the_floor, clock_drifts, glitches_seen, jitter_unplanned, pulses_wrong,
    signal_missing,
};
use crate::load::Load;
use crate::quantity::{Deviation, OrOverflow, Rational, Time};
use crate::setting::Derivation;

/// A signal as it was planned.
#[derive(Debug, Clone)]
pub struct Planned<'p> {
    /// Its name.
    pub name: &'p str,
    /// The setting that was derived for it.
    pub derivation: &'p Derivation,
    /// What is required.
    pub needs: &'p Needs,
    /// What it drives.
    pub load: Option<&'p Load>,
}

/// A signal, measured against its plan.
#[derive(Debug, Clone, PartialEq)]
pub struct Comparison {
    /// The planned signal's name.
    pub name: String,
    /// How far its clock is stated to be off; nought where nothing is stated.
    pub stated: Deviation,
    /// The measured frequency over that of the planned registers, less one.
    pub error: f64,
    /// How far that may be off by the capture itself, and by the recorder's clock.
    pub uncertainty: (f64, f64),
    /// The requirements.
    pub held: Vec<Held>,
    /// What the difference comes from.
    pub cause: Cause,
    /// What is or may be wrong.
    pub findings: Vec<Finding>,
    /// What was planned and allowed, for pictures.
    pub allowed: Allowed,
}

impl Comparison {
    /// Whether anything that was planned is not so.
    pub fn is_failed(&self) -> bool {
        self.held.iter().any(|held| held.answer == Answer::Fail)
            || self.findings.iter().any(|finding| finding.severity == Severity::Error)
    }
}

/// So small a share of a period is no jitter worth a word.
const UNHEEDED: f64 = 1e-4;
/// Holds a measurement against its plan.
///
/// # Errors
/// Numbers that do not fit.
pub fn compare(plan: &Planned<'_>, measured: &Measurement, recorder: &Recorder) -> Result<Comparison> {
    let best = &plan.derivation.best;
    let planned = best.setting.frequency.value().approx();
    let constant = best.setting.outputs.first().is_some_and(|output| output.constant.is_some());
    let mut comparison = Comparison {
        name: plan.name.to_owned(),
        stated: plan.derivation.clock.deviation,
        error: 0.0,
        uncertainty: (0.0, 0.0),
        held: Vec::new(),
        cause: Cause::AsPlanned,
        findings: Vec::new(),
        allowed: Allowed::of(plan)?,
    };
    let Some(timing) = &measured.timing else {
        if !constant {
            comparison.cause = Cause::Missing;
            let expected = best.setting.frequency;
            // A period has to fit between two rising edges, wherever the capture begins.
            let enough = recorder.length as f64 * recorder.tick > 2.0 / planned;
            comparison.findings.push(signal_missing::new(plan.name, measured.edges, expected, enough));
        }
        return Ok(comparison);
    };
    let period = timing.clock.period * recorder.tick;
    let by_recorder = recorder.accuracy.map_or(0.0, |accuracy| accuracy.value().approx());
    comparison.error = 1.0 / period / planned - 1.0;
    comparison.uncertainty = (timing.clock.uncertainty(recorder.interval), by_recorder);
    comparison.held = held(plan, timing, recorder, comparison.error, comparison.uncertainty)?;
    let total = comparison.uncertainty.0 + comparison.uncertainty.1;
    let (cause, finding) = cause(plan, comparison.error, total, period)?;
    comparison.cause = cause;
    comparison.findings.extend(finding);
    if measured.missing.count + measured.doubled.count + measured.irregular.count > 0 {
        comparison.findings.push(pulses_wrong::new(
            plan.name,
            measured.missing.count,
            measured.doubled.count,
            measured.irregular.count,
        ));
    }
    if measured.glitches.count > 0 {
        comparison.findings.push(glitches_seen::new(plan.name, measured.glitches.count));
    }
    let (planned, seen) = jitter(best.setting.jitter.map(|jitter| jitter.peak_to_peak), timing, recorder);
    // Twice what is planned, and more than the capture adds, is something else's.
    if seen > 2.0 * planned + 4.0 * recorder.floor() + UNHEEDED * period {
        let time = |seconds| Rational::measured(seconds).map(Time::new).or_overflow("jitter");
        comparison.findings.push(jitter_unplanned::new(plan.name, time(seen)?, time(planned)?));
    }
    if let (Some(change), Some((first, last))) = (timing.drift(recorder.interval), measured.active) {
        let change = Deviation::new(Rational::measured(change).or_overflow("drift")?);
        let length = (last - first) as f64 * recorder.tick;
        let length = Time::new(Rational::measured(length).or_overflow("length")?);
        comparison.findings.push(clock_drifts::new(plan.name, change, length));
    }
    if plan.needs.jitter.is_some() && recorder.is_below_floor(timing) {
        let floor = Time::new(Rational::measured(recorder.floor()).or_overflow("interval")?);
        comparison.findings.push(below_the_floor::new(plan.name, floor));
    }
    finding::sort(&mut comparison.findings);
    Ok(comparison)
}

/// Longest period less shortest, in seconds: as planned, and as seen.
fn jitter(planned: Option<Time>, timing: &Timing, recorder: &Recorder) -> (f64, f64) {
    let seen = timing.period.ends().map_or(0, |(least, most)| most - least);
    (planned.map_or(0.0, |planned| planned.value().approx()), seen as f64 * recorder.tick)
}

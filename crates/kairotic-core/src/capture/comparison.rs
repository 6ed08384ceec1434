//! What was measured against what was planned: held against each requirement, with the measurement's own uncertainty,
//! and what the difference comes from.

use serde::{Serialize, Serializer};

use super::cause::{Cause, Clues};
use super::measurement::{Measurement, Timing};
use super::recorder::Recorder;
use super::requirements::{self, Allowed};
use super::results::MeasuredRatio;
use super::shared_clock::shared;
use crate::error::{OrOverflow, Result};
use crate::finding::{
    self, BelowTheFloor, ClockDrifts, Finding, GlitchesSeen, JitterUnplanned, PulsesWrong, Severity,
    SignalMissing,
};
use crate::quantity::{Deviation, Rational, Time, measured};
use crate::requirement::{RequirementCheck, Verdict};
use crate::search::DerivedSignal;

/// A signal, measured against its plan.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct Comparison {
    /// The planned signal's name.
    #[serde(skip)]
    pub name: String,
    /// The measured frequency over that of the planned registers, less one.
    #[serde(rename = "frequency_error", serialize_with = "measured::ratio")]
    pub error: f64,
    /// How far that may be off with 95 % confidence by the capture itself, where more than one period tells, and by the
    /// recorder's clock.
    #[serde(serialize_with = "altogether")]
    pub uncertainty: (Option<f64>, f64),
    /// The requirements.
    pub checks: Vec<RequirementCheck>,
    /// What the difference comes from.
    pub cause: Cause,
    /// What is or may be wrong.
    pub findings: Vec<Finding>,
    /// What was planned and allowed, for pictures.
    #[serde(skip)]
    pub allowed: Allowed,
}

/// What a frequency may be off by capture and recorder together, where the capture tells it.
fn altogether<S: Serializer>(
    (by_capture, by_recorder): &(Option<f64>, f64),
    to: S,
) -> std::result::Result<S::Ok, S::Error> {
    by_capture.map(|off| MeasuredRatio::new(off + by_recorder)).serialize(to)
}

impl Comparison {
    /// Whether anything that was planned is not so.
    pub fn is_failed(&self) -> bool {
        self.checks.iter().any(|check| check.outcome == Verdict::Missed)
            || self.findings.iter().any(|finding| finding.severity() == Severity::Error)
    }
}

/// So small a share of a period is no jitter worth a word.
const UNHEEDED: f64 = 1e-4;

/// Holds the measured signals of one capture against their plans. Their timers have one clock: where several signals tell
/// what it is off by, each is judged with that.
///
/// # Errors
/// Numbers that do not fit.
pub(super) fn compare(
    signals: &[(DerivedSignal<'_>, &Measurement)],
    recorder: &Recorder,
) -> Result<Vec<Comparison>> {
    let mut compared = Vec::new();
    for (signal, measured) in signals {
        compared.push(of_one(signal, measured, recorder)?);
    }
    let known: Vec<&Clues> = compared.iter().filter_map(|(_, clues)| clues.as_ref()).collect();
    let shared = shared(&known);
    let judged = compared.into_iter().map(|(mut comparison, clues)| {
        if let Some(clues) = clues {
            let (cause, findings) = clues.judged(shared)?;
            comparison.cause = cause;
            comparison.findings.extend(findings);
        }
        finding::sort(&mut comparison.findings);
        Ok(comparison)
    });
    judged.collect()
}

/// One signal against its plan, but for what its frequency is off by; and what tells of that.
fn of_one(
    signal: &DerivedSignal<'_>,
    measured: &Measurement,
    recorder: &Recorder,
) -> Result<(Comparison, Option<Clues>)> {
    let best = &signal.derivation.best;
    let planned = best.setting.frequency.value().approx();
    let constant = best.setting.outputs.first().is_some_and(|output| output.constant.is_some());
    let mut comparison = Comparison {
        name: signal.spec.name.clone(),
        error: 0.0,
        uncertainty: (None, recorder.by_clock()),
        checks: Vec::new(),
        cause: Cause::AsPlanned,
        findings: Vec::new(),
        allowed: Allowed::of(signal)?,
    };
    let Some(timing) = &measured.timing else {
        if !constant {
            comparison.cause = Cause::Missing;
            let expected = best.setting.frequency;
            // A period has to fit between two rising edges, wherever the capture begins.
            let enough = recorder.length as f64 * recorder.tick > 2.0 / planned;
            comparison.findings.push(
                SignalMissing {
                    signal: signal.spec.name.clone(),
                    edges: measured.edges,
                    expected,
                    long_enough: enough,
                }
                .into(),
            );
        }
        return Ok((comparison, None));
    };
    let period = timing.clock.period * recorder.tick;
    let by_capture = timing.clock.uncertainty(recorder.interval);
    let clues = Clues::of(signal, period, by_capture, recorder.by_clock())?;
    comparison.error = clues.ratio - 1.0;
    comparison.uncertainty.0 = by_capture;
    comparison.checks = requirements::check(signal, timing, recorder, comparison.error)?;
    comparison.findings = of_pulses(signal, measured, timing, recorder)?;
    Ok((comparison, Some(clues)))
}

/// What is wrong with single pulses, and with how they follow one another.
fn of_pulses(
    signal: &DerivedSignal<'_>,
    measured: &Measurement,
    timing: &Timing,
    recorder: &Recorder,
) -> Result<Vec<Finding>> {
    let mut findings = Vec::new();
    let name = || signal.spec.name.clone();
    let Measurement { missing, doubled, irregular, glitches, .. } = measured;
    if missing.count + doubled.count + irregular.count > 0 {
        let (missing, doubled, irregular) = (missing.count, doubled.count, irregular.count);
        findings.push(PulsesWrong { signal: name(), missing, doubled, irregular }.into());
    }
    if glitches.count > 0 {
        findings.push(GlitchesSeen { signal: name(), count: glitches.count }.into());
    }
    let jitter_planned = signal.derivation.best.setting.jitter.map(|jitter| jitter.peak_to_peak);
    let (planned, seen) = jitter(jitter_planned, timing, recorder);
    let period = timing.clock.period * recorder.tick;
    // Twice what is planned, and more than the capture adds, is something else's.
    if seen > 2.0 * planned + 4.0 * recorder.floor() + UNHEEDED * period {
        let time = |seconds| Rational::measured(seconds).map(Time::new).or_overflow("jitter");
        findings
            .push(JitterUnplanned { signal: name(), measured: time(seen)?, planned: time(planned)? }.into());
    }
    if let (Some(change), Some((first, last))) = (timing.drift(recorder.interval), measured.active) {
        let change = Deviation::new(Rational::measured(change).or_overflow("drift")?);
        let length = (last - first) as f64 * recorder.tick;
        let length = Time::new(Rational::measured(length).or_overflow("length")?);
        findings.push(ClockDrifts { signal: name(), change, length }.into());
    }
    if signal.spec.needs.jitter.is_some() && recorder.is_below_floor(timing) {
        let floor = Time::new(Rational::measured(recorder.floor()).or_overflow("interval")?);
        findings.push(BelowTheFloor { signal: name(), floor }.into());
    }
    Ok(findings)
}

/// Longest period less shortest, in seconds: as planned, and as seen.
fn jitter(planned: Option<Time>, timing: &Timing, recorder: &Recorder) -> (f64, f64) {
    let seen = timing.period.ends().map_or(0, |(least, most)| most - least);
    (planned.map_or(0.0, |planned| planned.value().approx()), seen as f64 * recorder.tick)
}

//! A setting as the load sees it: levels, steps, and what it does not tolerate.

use super::driven::Driven;
use super::kind::LoadKind;
use super::{Load, Realised};
use crate::error::{OrOverflow, Result};
use crate::finding::{Finding, FrameRateOutsideLoad, PulseOutsideLoad};
use crate::quantity::{LoadLevel, Rational, Time};
use crate::setting::{Output, Setting};
use crate::target::Span;

/// What a load makes of a setting. `asked` is the level that was wanted: its sign is the direction.
///
/// # Errors
/// Numbers that do not fit.
pub fn drive(load: &Load, setting: &Setting, asked: Option<LoadLevel>) -> Result<Driven> {
    let kind = &load.kind;
    let negative = asked.is_some_and(|level| level.value() < Rational::ZERO);
    let level = |output: &Output| -> Result<LoadLevel> {
        let level = kind.level(realised(output))?;
        let turned = negative && kind.is_undirected();
        Ok(if turned { level.with(Rational::ZERO.minus(level.value()).or_overflow("level")?) } else { level })
    };
    let outputs = setting.outputs.iter().map(level).collect::<Result<Vec<LoadLevel>>>()?;
    let first = setting.outputs.first().zip(outputs.first().copied());
    let step = Realised { duty: setting.step_duty, pulse: setting.step };
    let mut driven = Driven {
        load: load.name.clone(),
        kind: kind.word(),
        measures: kind.measures(),
        outputs,
        step: kind.level_of_step(step)?,
        steps: steps_inside(kind.span()?, setting)?,
        average: None,
        lines: None,
        dead_band: None,
        arming: None,
    };
    kind.drive(&mut driven, first)?;
    Ok(driven)
}

const fn realised(output: &Output) -> Realised {
    Realised { duty: output.duty, pulse: output.pulse }
}

/// How many steps lie between the ends of a span.
fn steps_inside(span: Span, setting: &Setting) -> Result<u64> {
    let (low, high, step) = match span {
        Span::Duty(range) => (range.low.value(), range.high.value(), setting.step_duty.value()),
        Span::Pulse(range) => (range.low.value(), range.high.value(), setting.step.value()),
    };
    let steps = high.minus(low).and_then(|length| length.over(step)).or_overflow("steps")?;
    Ok(u64::try_from(steps.floor().max(0)).unwrap_or(u64::MAX))
}

/// What a load does not tolerate about a setting.
///
/// # Errors
/// Numbers that do not fit.
pub fn judge(load: &Load, setting: &Setting) -> Result<Vec<Finding>> {
    let mut found = Vec::new();
    let (name, frequency) = (|| load.name.clone(), setting.frequency);
    if let Some(limits) = load.kind.frequencies().filter(|limits| !limits.holds(frequency)) {
        found.push(FrameRateOutsideLoad { load: name(), frequency, limits }.into());
    }
    if let Span::Pulse(span) = load.kind.span()? {
        for output in &setting.outputs {
            if let Some((end, beyond)) = outside(output.pulse, span.low, span.high)? {
                let (pulse, step) = (output.pulse, setting.step);
                found.push(PulseOutsideLoad { load: name(), pulse, end, beyond, step }.into());
            }
        }
    }
    found.extend(load.kind.judge(&load.name, setting)?);
    Ok(found)
}

/// The end that a pulse lies beyond, and how far.
fn outside(pulse: Time, low: Time, high: Time) -> Result<Option<(Time, Time)>> {
    let end = match () {
        () if pulse < low => low,
        () if pulse > high => high,
        () => return Ok(None),
    };
    Ok(Some((end, pulse.less(end)?.magnitude())))
}

//! What is or may be wrong with the leading setting of a search.

use super::fit::RankedSetting;
use crate::error::Result;
use crate::finding::{Finding, Made, OutsideTolerance, PulseUnderHalfStep, Severity, TooFewSteps};
use crate::part::{Mode, Timer};
use crate::quantity::{Deviation, Duty, Rational, Time};
use crate::setting::findings::{
    full_remedies, gap, of_silicon, reaches_full, reaches_zero, spike, zero_remedies,
};
use crate::setting::{Constant, Output, Setting};
use crate::target::{Active, Target};

/// What is or may be wrong with the leading setting of a derivation. `reaching` finds the best setting with a property.
pub(crate) fn of_derivation(
    timer: &Timer,
    target: &Target,
    best: &RankedSetting,
    reaching: impl Fn(fn(&Setting) -> bool) -> Result<Option<Setting>>,
) -> Result<Vec<Finding>> {
    let setting = &best.setting;
    let mode = timer.mode(&setting.plan.mode)?;
    let mut found = Vec::new();
    if best.steps() < target.min_steps {
        found.push(TooFewSteps { steps: best.steps(), needed: target.min_steps }.into());
    } else if !best.fit.within {
        found.push(off(
            Made::Frequency(setting.frequency),
            Made::Frequency(target.wanted_frequency()?),
            best.fit.frequency_error,
            target.within,
        ));
    }
    for (ask, output) in target.asks.iter().zip(&setting.outputs) {
        let nothing = is_active(ask.active, Duty::ZERO, Time::ZERO);
        let all = is_active(ask.active, Duty::new(Rational::ONE), target.wanted_period()?);
        if nothing && output.constant != Some(Constant::Inactive) {
            let remedies = zero_remedies(reaching(reaches_zero)?);
            found.push(spike(Severity::Error, Some(&output.channel), setting, remedies));
        } else if all && output.constant != Some(Constant::Active) {
            let remedies = full_remedies(setting, reaching(reaches_full)?);
            found.push(gap(Severity::Error, Some(&output.channel), setting, remedies)?);
        } else if let Some(short) = under_half_step(ask.active, output, setting)? {
            found.push(short);
        }
    }
    if let Some(span) = target.span {
        let channel = setting.outputs.first().map(|output| output.channel.as_str());
        if is_active(span.low(), Duty::ZERO, Time::ZERO) && !reaches_zero(setting) {
            found.push(spike(Severity::Warning, channel, setting, zero_remedies(reaching(reaches_zero)?)));
        }
        if is_active(span.high(), Duty::new(Rational::ONE), target.wanted_period()?) && !reaches_full(setting)
        {
            let remedies = full_remedies(setting, reaching(reaches_full)?);
            found.push(gap(Severity::Warning, channel, setting, remedies)?);
        }
    }
    of_silicon(timer, mode, setting, &[], &mut found);
    Ok(found)
}

/// What is or may be wrong with the leading setting for a tick.
pub(crate) fn of_time_base(
    timer: &Timer,
    mode: &Mode,
    setting: &Setting,
    wanted: Time,
    error: Deviation,
    within: Deviation,
) -> Vec<Finding> {
    let mut found = Vec::new();
    if error.value().magnitude() > within.value() {
        found.push(off(Made::Tick(setting.tick), Made::Tick(wanted), error, within));
    }
    of_silicon(timer, mode, setting, &[], &mut found);
    found
}

fn off(found: Made, wanted: Made, error: Deviation, tolerance: Deviation) -> Finding {
    OutsideTolerance { found, wanted, error, tolerance, changes: Vec::new() }.into()
}

fn is_active(active: Active, duty: Duty, pulse: Time) -> bool {
    match active {
        Active::Duty(wanted) => wanted == duty,
        Active::Pulse(wanted) => wanted == pulse,
    }
}

/// A wanted pulse of less than half a step that is not zero.
fn under_half_step(wanted: Active, output: &Output, setting: &Setting) -> Result<Option<Finding>> {
    let pulse = match wanted {
        Active::Pulse(pulse) => pulse,
        Active::Duty(duty) => duty.of(setting.period)?,
    };
    let short = pulse > Time::ZERO && pulse.times(Rational::whole(2))? < setting.step;
    let (channel, found, step) = (output.channel.clone(), output.pulse, setting.step);
    Ok(short.then(|| PulseUnderHalfStep { channel, wanted: pulse, found, step }.into()))
}

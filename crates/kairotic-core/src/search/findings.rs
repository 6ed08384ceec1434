//! What is or may be wrong with the leading setting of a search.

use super::fit::RankedSetting;
use crate::error::Result;
use crate::finding::{Finding, Severity, outside_tolerance, pulse_under_half_step, too_few_steps};
use crate::part::{Mode, Timer};
use crate::quantity::{Deviation, Duty, OrOverflow, Rational, Time};
use crate::setting::findings::{
    full_remedy, gap, of_silicon, reaches_full, reaches_zero, spike, zero_remedy,
};
use crate::setting::{Constant, Output, Setting};
use crate::signal::{Active, Target};

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
        found.push(too_few_steps::new(best.steps(), target.min_steps));
    } else if !best.fit.within {
        let (wanted, error) = (target.frequency()?, best.fit.frequency_error);
        found.push(outside_tolerance::frequency(setting.frequency, wanted, error, target.within));
    }
    for (ask, output) in target.asks.iter().zip(&setting.outputs) {
        let nothing = is_active(ask.active, Duty::ZERO, Time::ZERO);
        let all = is_active(ask.active, Duty::new(Rational::ONE), target.period()?);
        if nothing && output.constant != Some(Constant::Inactive) {
            let remedy = zero_remedy(reaching(reaches_zero)?);
            found.push(spike(Severity::Error, &output.channel, setting, remedy));
        } else if all && output.constant != Some(Constant::Active) {
            let remedy = full_remedy(setting, reaching(reaches_full)?);
            found.push(gap(Severity::Error, &output.channel, setting, remedy)?);
        } else if let Some(short) = under_half_step(ask.active, output, setting)? {
            found.push(short);
        }
    }
    if let Some(span) = target.span {
        let channel = setting.outputs.first().map_or("of the span", |output| output.channel.as_str());
        if is_active(span.low(), Duty::ZERO, Time::ZERO) && !reaches_zero(setting) {
            found.push(spike(Severity::Warning, channel, setting, zero_remedy(reaching(reaches_zero)?)));
        }
        if is_active(span.high(), Duty::new(Rational::ONE), target.period()?) && !reaches_full(setting) {
            let remedy = full_remedy(setting, reaching(reaches_full)?);
            found.push(gap(Severity::Warning, channel, setting, remedy)?);
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
        found.push(outside_tolerance::tick(setting.tick, wanted, error, within));
    }
    of_silicon(timer, mode, setting, &[], &mut found);
    found
}

fn is_active(active: Active, duty: Duty, pulse: Time) -> bool {
    match active {
        Active::Duty(wanted) => wanted == duty,
        Active::Pulse(wanted) => wanted == pulse,
    }
}

/// A wanted pulse of less than half a step that is not nought.
fn under_half_step(wanted: Active, output: &Output, setting: &Setting) -> Result<Option<Finding>> {
    let pulse = match wanted {
        Active::Pulse(pulse) => pulse,
        Active::Duty(duty) => Time::new(duty.value().times(setting.period.value()).or_overflow("pulse")?),
    };
    let twice = pulse.value().plus(pulse.value()).or_overflow("pulse")?;
    let short = pulse > Time::ZERO && twice < setting.step.value();
    Ok(short.then(|| pulse_under_half_step::new(&output.channel, pulse, output.pulse, setting.step)))
}

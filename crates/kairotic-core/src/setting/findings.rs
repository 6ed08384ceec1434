//! What any setting shows to be wrong, however it was come by.

use super::evaluate::{Constant, Setting};
use crate::error::Result;
use crate::finding::{
    self, Finding, Severity, catalogue_unsure, clock_above_maximum, full_on_unreachable, spike_at_zero,
};
use crate::part::{Concern, Mode, Timer, Trust};
use crate::quantity::{Duty, OrOverflow, Rational, Time};
use crate::signal::Level;

/// Why the clock's own limit is uncertain, if it is.
pub(crate) fn clock_doubt(timer: &Timer) -> Option<&str> {
    timer.clock.facts.iter().find(|fact| fact.trust == Trust::Unsure).map(|fact| fact.says.as_str())
}

pub(crate) fn reaches_zero(setting: &Setting) -> bool {
    setting.ends.lowest == Duty::ZERO
}

pub(crate) fn reaches_full(setting: &Setting) -> bool {
    setting.ends.highest.value() == Rational::ONE
}

pub(crate) fn spike(severity: Severity, channel: &str, setting: &Setting, remedy: String) -> Finding {
    let lowest = setting.ends.lowest;
    let pulse = lowest.value().times(setting.period.value()).map_or(setting.step, Time::new);
    spike_at_zero::new(severity, channel, lowest, pulse, remedy)
}

pub(crate) fn gap(severity: Severity, channel: &str, setting: &Setting, remedy: String) -> Result<Finding> {
    let highest = setting.ends.highest;
    let missing = Rational::ONE.minus(highest.value()).or_overflow("duty")?;
    let gap = Time::new(missing.times(setting.period.value()).or_overflow("pulse")?);
    Ok(full_on_unreachable::new(severity, channel, highest, gap, remedy))
}

pub(crate) fn zero_remedy(other: Option<Setting>) -> String {
    let off = "disconnect the output from the timer and hold the pin at its level";
    match other {
        Some(setting) => format!("--mode {} reaches 0 %; or {off}", setting.plan.mode),
        None => format!("for 0 % {off}"),
    }
}

pub(crate) fn full_remedy(setting: &Setting, other: Option<Setting>) -> String {
    let on = "disconnect the output from the timer and hold the pin at its level";
    match other {
        Some(other) if other.plan.mode != setting.plan.mode => {
            format!("--mode {} reaches 100 %; or {on}", other.plan.mode)
        }
        Some(other) => format!(
            "a top of {} with a division by {} leaves room for it; or {on}",
            other.plan.top,
            super::write::mixed(other.divider)
        ),
        None => format!("a smaller top may leave room for it; or {on}"),
    }
}

/// What the catalogue says against a setting: its clock's limit, and the unsure facts that bear on it; the compare values of
/// some channels are `past` the top. Then all findings are sorted.
pub(crate) fn of_silicon(
    timer: &Timer,
    mode: &Mode,
    setting: &Setting,
    past: &[&str],
    found: &mut Vec<Finding>,
) {
    if setting.clock > timer.clock.maximum {
        found.push(clock_above_maximum::new(setting.clock, &timer.clock));
    }
    // What is constant past the top says nothing of the end that should make it so.
    let ends = || setting.outputs.iter().filter(|output| !past.contains(&output.channel.as_str()));
    let is_at = |end: Constant| ends().any(|output| output.constant == Some(end));
    let inverted = setting.outputs.iter().any(|output| output.level == Level::Low);
    let concerns = [
        Some(None),
        is_at(Constant::Inactive).then_some(Some(Concern::Zero)),
        is_at(Constant::Active).then_some(Some(Concern::Full)),
        (!past.is_empty()).then_some(Some(Concern::PastTop)),
        inverted.then_some(Some(Concern::Inverted)),
    ];
    for concern in concerns.into_iter().flatten() {
        for fact in timer.doubts(mode, concern) {
            let document = timer.documents.get(&fact.document).map_or("its document", String::as_str);
            found.push(catalogue_unsure::new(fact, document));
        }
    }
    finding::sort(found);
}

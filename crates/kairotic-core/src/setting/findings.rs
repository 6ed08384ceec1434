//! What any setting shows to be wrong, however it was come by.

use super::{Constant, Setting};
use crate::error::{OrOverflow, Result};
use crate::finding::{
    self, CatalogueUnsure, ClockAboveMaximum, Finding, FullOnUnreachable, Remedy, Severity, SpikeAtZero,
};
use crate::part::{Concern, Fact, Mode, Timer};
use crate::quantity::{Duty, Rational, Time};
use crate::target::Level;

pub(crate) fn reaches_zero(setting: &Setting) -> bool {
    setting.ends.lowest == Duty::ZERO
}

pub(crate) fn reaches_full(setting: &Setting) -> bool {
    setting.ends.highest.value() == Rational::ONE
}

pub(crate) fn spike(
    severity: Severity,
    channel: Option<&str>,
    setting: &Setting,
    remedies: Vec<Remedy>,
) -> Finding {
    let lowest = setting.ends.lowest;
    let spike = lowest.of(setting.period).unwrap_or(setting.step);
    SpikeAtZero { severity, channel: channel.map(ToOwned::to_owned), lowest, spike, remedies }.into()
}

pub(crate) fn gap(
    severity: Severity,
    channel: Option<&str>,
    setting: &Setting,
    remedies: Vec<Remedy>,
) -> Result<Finding> {
    let highest = setting.ends.highest;
    let missing = Rational::ONE.minus(highest.value()).or_overflow("duty")?;
    let gap = Time::new(missing.times(setting.period.value()).or_overflow("pulse")?);
    Ok(FullOnUnreachable { severity, channel: channel.map(ToOwned::to_owned), highest, gap, remedies }.into())
}

pub(crate) fn zero_remedies(other: Option<Setting>) -> Vec<Remedy> {
    let mode = other.map(|other| Remedy::UseMode { mode: other.plan.mode, reaches: Duty::ZERO });
    mode.into_iter().chain([Remedy::HoldPin]).collect()
}

pub(crate) fn full_remedies(setting: &Setting, other: Option<Setting>) -> Vec<Remedy> {
    let room = match other {
        Some(other) if other.plan.mode != setting.plan.mode => {
            Remedy::UseMode { mode: other.plan.mode, reaches: Duty::new(Rational::ONE) }
        }
        Some(other) => Remedy::UseTop { top: other.plan.top, divider: other.divider },
        None => Remedy::SmallerTop,
    };
    vec![room, Remedy::HoldPin]
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
        let input = &timer.clock;
        let (clock, maximum) = (setting.clock, input.maximum);
        found.push(ClockAboveMaximum { clock, maximum, input: input.title.clone() }.into());
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
            found.push(unsure(timer, fact));
        }
    }
    finding::sort(found);
}

/// A fact of a timer that the catalogue marks as unsure.
pub(crate) fn unsure(timer: &Timer, fact: &Fact) -> Finding {
    let document = timer.documents.get(&fact.document).map_or("its document", String::as_str);
    CatalogueUnsure { fact: fact.says.clone(), document: Some(document.to_owned()) }.into()
}

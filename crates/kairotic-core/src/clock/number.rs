//! What a node does to a frequency, as numbers.

use super::path::Hop;
use crate::error::{OrOverflow, Result};
use crate::part::{ClockNode, Scale, ScaleRule, Steps};
use crate::quantity::{Frequency, Range, Rational};

/// The steps of a node that divides or multiplies by a register; whether it divides.
pub(super) fn steps(node: &ClockNode) -> Option<(&Steps, bool)> {
    match &node.scale {
        Scale::Divide { steps, .. } => Some((steps, true)),
        Scale::Multiply { steps, .. } => Some((steps, false)),
        _ => None,
    }
}

/// The factor of a node for a number of its steps, in units of `1 / 2^fraction_bits`. `value` tells the code of a
/// switch or the division of a node further up.
pub(super) fn factor(node: &ClockNode, number: u64, value: impl Fn(&str) -> Option<u64>) -> Result<Rational> {
    match &node.scale {
        Scale::Unchanged => Ok(Rational::ONE),
        Scale::By(by) => Rational::new(1, (*by).into()).or_overflow("division"),
        Scale::Divide { steps, .. } => {
            let scale = 1_i128.checked_shl(steps.fraction_bits());
            scale.and_then(|scale| Rational::new(scale, number.into())).or_overflow("division")
        }
        Scale::Multiply { steps, .. } => meant(steps, number),
        Scale::Rules(rules) => Ok(rule(rules, value).map_or(Rational::ONE, |rule| rule.times.into())),
    }
}

/// A number of some steps as what it means.
pub(super) fn meant(steps: &Steps, number: u64) -> Result<Rational> {
    1_i128
        .checked_shl(steps.fraction_bits())
        .and_then(|scale| Rational::new(number.into(), scale))
        .or_overflow("division")
}

/// The number of some steps that means a value, or the next smaller one: [`meant`] the other way.
pub(super) fn number(steps: &Steps, value: Rational) -> Result<u64> {
    let scale = 1_i128.checked_shl(steps.fraction_bits()).and_then(|scale| Rational::new(scale, 1));
    let scaled = scale.and_then(|scale| value.times(scale)).or_overflow("division")?;
    Ok(u64::try_from(scaled.floor().max(0)).unwrap_or(u64::MAX))
}

/// What a node does to a frequency, in words; empty where nothing.
pub(super) fn how(node: &ClockNode, number: u64, value: impl Fn(&str) -> Option<u64>) -> Result<String> {
    Ok(match &node.scale {
        Scale::Unchanged => String::new(),
        Scale::By(by) => format!("always divided by {by}"),
        Scale::Divide { steps, .. } => format!("divided by {}", meant(steps, number)?.mixed()),
        Scale::Multiply { steps, .. } => format!("multiplied by {}", meant(steps, number)?.mixed()),
        Scale::Rules(rules) => rule(rules, value).map(|rule| rule.says.clone()).unwrap_or_default(),
    })
}

/// The rule that applies.
pub(super) fn rule(rules: &[ScaleRule], value: impl Fn(&str) -> Option<u64>) -> Option<&ScaleRule> {
    rules.iter().find(|rule| rule.holds(&value))
}

/// The codes of switches and the divisions of the nodes before a hop, as rules ask for them.
pub(super) fn lookup<'a>(
    hops: &'a [Hop<'_>],
    numbers: &'a [u64],
    switches: &'a [(&'a str, u64)],
) -> impl Fn(&str) -> Option<u64> + 'a {
    move |name| {
        let switch = switches.iter().find(|(known, _)| *known == name).map(|(_, code)| *code);
        let division =
            || hops.iter().zip(numbers).find(|(hop, _)| hop.node.name == name).map(|(_, number)| *number);
        switch.or_else(division)
    }
}

/// Whether a frequency may come into a node, and another go out of it.
pub(super) fn allows(node: &ClockNode, comes: Frequency, goes: Frequency) -> bool {
    node.takes.is_none_or(|limits| limits.holds(comes)) && node.gives.is_none_or(|limits| limits.holds(goes))
}

/// Why a frequency may not come into a node, or go out of it; `None` where it may.
pub(super) fn illegal(node: &ClockNode, comes: Frequency, goes: Frequency) -> Option<String> {
    outside(node.takes.as_ref(), comes, "what comes into", node).or_else(|| gives_illegal(node, goes))
}

/// Why a frequency may not go out of a node; `None` where it may.
pub(super) fn gives_illegal(node: &ClockNode, goes: Frequency) -> Option<String> {
    outside(node.gives.as_ref(), goes, "", node)
}

fn outside(
    limits: Option<&Range<Frequency>>,
    frequency: Frequency,
    what: &str,
    node: &ClockNode,
) -> Option<String> {
    let limits = limits.filter(|limits| !limits.holds(frequency))?;
    let (side, end) = if frequency < limits.low { ("below", limits.low) } else { ("above", limits.high) };
    let gap = if what.is_empty() { "" } else { " " };
    Some(format!("{what}{gap}{} would be {}, {side} its {end}", node.title, brief(frequency)))
}

/// A frequency for messages: exact where that is short.
pub(super) fn brief(frequency: Frequency) -> String {
    let exact = frequency.told();
    if exact.len() > 14 { frequency.rounded(7) } else { exact }
}

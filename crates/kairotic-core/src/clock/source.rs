//! Which source a clock tree runs from.

use std::str::FromStr;

use crate::error::{Error, Result};
use crate::part::{ClockTree, NodeInput, Oscillator, Part};
use crate::quantity::{Frequency, Tolerance, parse};

/// A source as it is asked for: `hsi`, `8MHz` from outside, `hse=8MHz+-20ppm`.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct SourceAsk {
    /// The node's name; any that fits where none is given, from outside where one of those does.
    pub name: Option<String>,
    /// Its frequency; an internal oscillator's own where none is given.
    pub frequency: Option<Tolerance<Frequency>>,
}

impl FromStr for SourceAsk {
    type Err = Error;

    fn from_str(text: &str) -> Result<Self> {
        let text = text.trim();
        if let Some((name, frequency)) = text.split_once('=') {
            let name = Some(name.trim().to_lowercase());
            return Ok(Self { name, frequency: Some(parse::tolerance(frequency)?) });
        }
        if text.starts_with(|first: char| first.is_ascii_digit() || first == '-' || first == '.') {
            return Ok(Self { name: None, frequency: Some(parse::tolerance(text)?) });
        }
        Ok(Self { name: Some(text.to_lowercase()), frequency: None })
    }
}

/// The sources of a tree that fit what was asked, each with its frequency. Without a question all internal oscillators
/// do.
pub(super) fn sources<'p>(
    part: &'p Part,
    tree: &'p ClockTree,
    ask: Option<&SourceAsk>,
) -> Result<Vec<(&'p str, Frequency)>> {
    let mut found = Vec::new();
    for node in &tree.nodes {
        let own = match &node.input {
            NodeInput::Oscillator(name) => part.oscillator(name).map(|oscillator| oscillator.frequency),
            NodeInput::External(_) => None,
            _ => continue,
        };
        let Some(ask) = ask else {
            found.extend(own.map(|own| (node.name.as_str(), own)));
            continue;
        };
        if ask.name.as_ref().is_some_and(|name| *name != node.name) {
            continue;
        }
        let given = ask.frequency.map(|frequency| frequency.nominal.positive()).transpose()?;
        match (&node.input, own, given) {
            (_, Some(own), None) => found.push((node.name.as_str(), own)),
            // An oscillator may have been trimmed or measured, but then it is named.
            (_, Some(own), Some(given)) if given == own || ask.name.is_some() => {
                found.push((node.name.as_str(), given));
            }
            (NodeInput::External(limits), None, Some(given)) if limits.holds(given) => {
                found.push((node.name.as_str(), given));
            }
            _ => {}
        }
    }
    // A frequency alone comes from outside, where something from outside may have it.
    if ask.is_some_and(|ask| ask.name.is_none()) {
        let external =
            |name: &str| matches!(tree.node(name).map(|node| &node.input), Ok(NodeInput::External(_)));
        if found.iter().any(|(name, _)| external(name)) {
            found.retain(|(name, _)| external(name));
        }
    }
    if found.is_empty() { Err(no_source(part, tree, ask)) } else { Ok(found) }
}

/// The internal oscillator that a source is; `None` where it comes from outside.
///
/// # Errors
/// [`Error::NoClockTree`], and [`Error::NoSource`] for one that the part does not have.
pub fn oscillator<'p>(part: &'p Part, ask: &SourceAsk) -> Result<Option<&'p Oscillator>> {
    let tree = part.tree.as_ref().ok_or_else(|| Error::NoClockTree { part: part.name.clone() })?;
    for (name, _) in sources(part, tree, Some(ask))? {
        if let NodeInput::Oscillator(own) = &tree.node(name)?.input {
            return Ok(part.oscillator(own));
        }
    }
    Ok(None)
}

/// The sources of a tree, for messages.
pub(super) fn known(part: &Part, tree: &ClockTree) -> String {
    let known = tree.nodes.iter().filter_map(|node| match &node.input {
        NodeInput::Oscillator(name) => {
            let own = part.oscillator(name)?;
            Some(format!("{} ({})", node.name, own.frequency))
        }
        NodeInput::External(limits) => Some(format!("{} (from outside, {limits})", node.name)),
        _ => None,
    });
    known.collect::<Vec<_>>().join(", ")
}

fn no_source(part: &Part, tree: &ClockTree, ask: Option<&SourceAsk>) -> Error {
    let asked = ask.map(|ask| {
        let name = ask.name.clone().unwrap_or_default();
        let frequency = ask.frequency.map(|given| given.nominal.told()).unwrap_or_default();
        [name, frequency].into_iter().filter(|word| !word.is_empty()).collect::<Vec<_>>().join("=")
    });
    Error::NoSource { part: part.name.clone(), asked: asked.unwrap_or_default(), known: known(part, tree) }
}

//! Files that say what comes out on which pin, for a family's devices in one: `<gpio port="A" pin="04"><signal driver="tcc" instance="0"
//! name="wo" function="e" index="0"/></gpio>`.

use std::collections::BTreeMap;
use std::path::Path;

use anyhow::{Context as _, Result};
use roxmltree::{Document, Node};

use super::{DescribedPin, PackageDescription};

/// The pins in a file; what only some of its devices have is there too. A peripheral's outputs `repeats` the first ones after so
/// many: `wo5` of a timer with four compare registers shows the second.
///
/// # Errors
/// A file that is missing or is no XML.
pub fn read(path: &Path, repeats: &BTreeMap<String, u32>) -> Result<PackageDescription> {
    let text = std::fs::read_to_string(path).with_context(|| path.display().to_string())?;
    let document = Document::parse(&text).with_context(|| path.display().to_string())?;
    let pins = document.descendants().filter(|node| node.has_tag_name("gpio"));
    let pins = pins.flat_map(|pin| {
        let signals = pin.children().filter(|child| child.has_tag_name("signal"));
        signals.filter_map(move |signal| described(pin, signal, repeats))
    });
    Ok(PackageDescription { pins: pins.collect(), ..PackageDescription::default() })
}

fn described(
    pin: Node<'_, '_>,
    signal: Node<'_, '_>,
    repeats: &BTreeMap<String, u32>,
) -> Option<DescribedPin> {
    let has = |name: &str| signal.attribute(name).unwrap_or_default();
    let peripheral = format!("{}{}", signal.attribute("driver")?, has("instance"));
    let index = match (has("index").parse::<u32>(), repeats.get(&peripheral)) {
        (Ok(index), Some(outputs)) => index.checked_rem(*outputs)?.to_string(),
        _ => has("index").to_owned(),
    };
    Some(DescribedPin {
        peripheral,
        pin: format!("P{}{}", pin.attribute("port")?, pin.attribute("pin")?),
        signal: format!("{}{index}", signal.attribute("name")?),
        code: signal.attribute("function").map(|letter| format!("function {}", letter.to_uppercase())),
    })
}

//! Devices that have fewer pins, timers or megahertz than the one a family file is about, and are the same otherwise.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};

use super::check::{PartProblem, Path};
use super::{Fact, OrderCode, Part, PinPattern};
use crate::quantity::Frequency;

/// A device that is the family file's in all but what is said here.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Variant {
    /// Lower-case silicon designation, as `--on` takes it.
    pub name: String,
    /// The designation as the maker writes it, with the members it stands for.
    pub title: String,
    /// The codes under which it is sold.
    #[serde(default)]
    pub order_codes: Vec<OrderCode>,
    /// The timers that it has; empty for all of the family's.
    #[serde(default)]
    pub timers: Vec<String>,
    /// Its highest frequencies, by clock or node of the tree, where they are lower than the family's.
    #[serde(default)]
    pub maximum: BTreeMap<String, Frequency>,
    /// The package whose pins are described; without it none are.
    #[serde(default)]
    pub package: Option<VariantPackage>,
    /// Where that stands.
    pub facts: Vec<Fact>,
}

/// The package of a variant.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct VariantPackage {
    /// The device and package.
    pub name: String,
    /// Which of the family's pins it has; empty for all.
    #[serde(default)]
    pub pins: Vec<PinPattern>,
}

impl VariantPackage {
    fn has(&self, pin: &str) -> bool {
        self.pins.is_empty() || self.pins.iter().any(|pattern| pattern.vars(pin).is_some())
    }
}

impl Part {
    /// The variants of a family, each as a part of its own.
    pub fn variant_parts(&self) -> impl Iterator<Item = Self> {
        self.variants.iter().map(|variant| self.as_variant(variant))
    }

    /// The part that a variant is. What it names and the family lacks is found by [`Part::variant_problems`].
    fn as_variant(&self, variant: &Variant) -> Self {
        let mut part = self.clone();
        part.name.clone_from(&variant.name);
        part.title.clone_from(&variant.title);
        part.order_codes.clone_from(&variant.order_codes);
        part.facts.extend(variant.facts.iter().cloned());
        part.variants.clear();
        if !variant.timers.is_empty() {
            part.timers.retain(|timer| variant.timers.contains(&timer.name));
        }
        part.blocks.retain(|name, _| part.timers.iter().any(|timer| timer.block == *name));
        for (name, highest) in &variant.maximum {
            if let Some(clock) = part.clocks.get_mut(name) {
                clock.maximum = clock.maximum.min(*highest);
            }
            let nodes = part.tree.iter_mut().flat_map(|tree| &mut tree.nodes);
            for limits in nodes.filter(|node| node.name == *name).filter_map(|node| node.gives.as_mut()) {
                limits.high = limits.high.min(*highest);
            }
        }
        let has_timer = |name: &str| part.timers.iter().any(|timer| timer.name == name);
        let has_output = |output: &str| has_timer(output.split('/').next().unwrap_or(output));
        part.pinout = part.pinout.zip(variant.package.as_ref()).map(|(mut pinout, package)| {
            pinout.package.clone_from(&package.name);
            pinout.pins.retain(|pin, outputs| {
                outputs.retain(|output, _| has_output(output));
                package.has(pin) && !outputs.is_empty()
            });
            pinout.remaps.retain(|remap| has_timer(&remap.timer));
            for route in pinout.remaps.iter_mut().flat_map(|remap| &mut remap.routes) {
                route.pins.retain(|_, pin| package.has(pin));
            }
            pinout
        });
        if let Some(bring_up) = &mut part.bring_up {
            bring_up.timers.retain(|name, _| has_timer(name));
            // A recipe for outputs of timers that are not there would otherwise be one for every output.
            bring_up.pins.retain(|recipe| {
                recipe.outputs.is_empty() || recipe.outputs.iter().any(|output| has_output(output))
            });
            for recipe in &mut bring_up.pins {
                recipe.outputs.retain(|output| has_output(output));
            }
        }
        part
    }

    /// What is wrong with the variants themselves: names that the family does not have, and limits above its own.
    pub(super) fn variant_problems(&self) -> Vec<PartProblem> {
        let mut found = Vec::new();
        for (index, variant) in self.variants.iter().enumerate() {
            let path = Path::default().key("variants").index(index);
            let mut report = |path: Path, message: String| found.push(PartProblem { path, message });
            let names = self.variants.iter().take(index).map(|other| &other.name);
            if names.chain([&self.name]).any(|name| *name == variant.name) {
                report(path.key("name"), format!("there is a part `{}` already", variant.name));
            }
            for (place, timer) in variant.timers.iter().enumerate() {
                if self.timers.iter().all(|known| known.name != *timer) {
                    report(path.key("timers").index(place), format!("the family has no timer `{timer}`"));
                }
            }
            if variant.package.is_some() && self.pinout.is_none() {
                report(path.key("package"), "the family has no pinout".to_owned());
            }
            for (name, highest) in &variant.maximum {
                let clock = self.clocks.get(name).map(|clock| clock.maximum);
                let node = self.tree.iter().flat_map(|tree| &tree.nodes).find(|node| node.name == *name);
                let known = clock.or(node.and_then(|node| node.gives).map(|limits| limits.high));
                match known {
                    None => report(
                        path.key("maximum").key(name),
                        format!("the family has no clock and no limited node `{name}`"),
                    ),
                    Some(known) if known < *highest => report(
                        path.key("maximum").key(name),
                        format!("expected at most the family's {known}, found {highest}"),
                    ),
                    Some(_) => {}
                }
            }
        }
        found
    }
}

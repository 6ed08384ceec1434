//! Validation of a family file beyond its shape: what refers to what, what fits where, which laws contradict
//! themselves.

mod block;
mod bring_up;
mod mode;
mod path;
mod tree;

use std::collections::BTreeSet;

pub use self::path::{Path, Step};
use super::{Block, Fact, Instance, Mode, Part, SCHEMA, Variation};
use crate::quantity::Frequency;

/// One thing wrong with a family file.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct PartProblem {
    /// Where it stands.
    pub path: Path,
    /// What is wrong and what would be right.
    pub message: String,
}

/// Everything wrong with a family file; nothing when it is sound.
pub fn problems(part: &Part) -> Vec<PartProblem> {
    let mut check = PartCheck { part, found: Vec::new() };
    check.part();
    check.variants();
    check.found
}

struct PartCheck<'p> {
    part: &'p Part,
    found: Vec<PartProblem>,
}

impl PartCheck<'_> {
    /// Notes a problem once: instances of one block show its problems again.
    fn report(&mut self, path: &Path, message: impl Into<String>) {
        let problem = PartProblem { path: path.clone(), message: message.into() };
        if !self.found.contains(&problem) {
            self.found.push(problem);
        }
    }

    fn part(&mut self) {
        let (part, root) = (self.part, Path::default());
        if part.schema != SCHEMA {
            self.report(&root.key("schema"), format!("expected {SCHEMA}, found {}", part.schema));
        }
        self.name(&root.key("name"), &part.name);
        self.facts(&root, &part.facts, false);
        for (index, source) in part.oscillators.iter().enumerate() {
            let path = root.key("oscillators").index(index);
            self.positive(&path.key("frequency"), source.frequency);
            self.facts(&path, &source.facts, true);
        }
        for (name, clock) in &part.clocks {
            let path = root.key("clocks").key(name);
            self.positive(&path.key("default"), clock.default);
            if clock.maximum < clock.default {
                self.report(
                    &path.key("maximum"),
                    format!("expected at least the default, {}; found {}", clock.default, clock.maximum),
                );
            }
            if let Some(name) = clock.oscillator.as_ref().filter(|name| part.oscillator(name).is_none()) {
                self.report(&path.key("oscillator"), format!("the part has no oscillator `{name}`"));
            }
            self.facts(&path, &clock.facts, true);
        }
        self.tree();
        self.memory();
        self.pinout();
        if part.timers.is_empty() {
            self.report(&root, "expected at least one `[[timers]]`");
        }
        let mut names = BTreeSet::new();
        for (index, instance) in part.timers.iter().enumerate() {
            let path = root.key("timers").index(index);
            if !names.insert(&instance.name) {
                self.report(&path.key("name"), format!("there is a timer `{}` already", instance.name));
            }
            self.instance(&path, instance);
        }
        for (name, block) in &part.blocks {
            let path = root.key("blocks").key(name);
            self.facts(&path, &block.facts, true);
            if !part.timers.iter().any(|timer| timer.block == *name) {
                self.report(&path, format!("no timer is an instance of block `{name}`"));
            }
        }
    }

    /// Checks the variants where the family is sound, each as the part that it is.
    fn variants(&mut self) {
        let wrong = self.part.variant_problems();
        if !self.found.is_empty() || !wrong.is_empty() {
            return self.found.extend(wrong);
        }
        for (index, part) in self.part.variant_parts().enumerate() {
            let path = Path::default().key("variants").index(index);
            for problem in problems(&part) {
                self.report(&path, format!("{}: {}", problem.path, problem.message));
            }
        }
    }

    fn name(&mut self, path: &Path, name: &str) {
        let fits = |c: char| c.is_ascii_lowercase() || c.is_ascii_digit() || c == '-';
        if name.is_empty() || !name.chars().all(fits) {
            self.report(path, format!("expected lower-case letters, digits and hyphens, found `{name}`"));
        }
    }

    fn positive(&mut self, path: &Path, frequency: Frequency) {
        if frequency <= Frequency::ZERO {
            self.report(path, format!("expected a frequency greater than zero, found {frequency}"));
        }
    }

    fn facts(&mut self, path: &Path, facts: &[Fact], needed: bool) {
        if needed && facts.is_empty() {
            self.report(path, "expected at least one fact that says where this stands");
        }
        for (index, fact) in facts.iter().enumerate() {
            if !self.part.documents.contains_key(&fact.document) {
                let known = self.part.documents.keys().map(String::as_str).collect::<Vec<_>>().join(", ");
                self.report(
                    &path.key("facts").index(index).key("document"),
                    format!("expected a key of [documents] ({known}), found `{}`", fact.document),
                );
            }
        }
    }

    /// Checks that every output of the pinout is a channel of a timer.
    fn pinout(&mut self) {
        let part = self.part;
        let Some(pinout) = &part.pinout else { return };
        let path = Path::default().key("pinout");
        self.facts(&path, &pinout.facts, true);
        for output in pinout.outputs() {
            let known =
                part.instance(&output.timer).and_then(|instance| part.views(instance)).is_ok_and(|views| {
                    let labels =
                        views.iter().flat_map(|timer| &timer.block.channels).map(|channel| &channel.label);
                    let plain = output.channel.strip_suffix('n');
                    labels.clone().any(|label| *label == output.channel || Some(label.as_str()) == plain)
                });
            if !known {
                let message =
                    format!("{} has {}, which is no channel of a timer", output.pin, output.output());
                self.report(&path, message);
            }
        }
    }

    fn instance(&mut self, path: &Path, instance: &Instance) {
        self.name(&path.key("name"), &instance.name);
        self.facts(path, &instance.facts, false);
        if !self.part.clocks.contains_key(&instance.clock) {
            return self.report(
                &path.key("clock"),
                format!("expected a key of [clocks], found `{}`", instance.clock),
            );
        }
        let Some(block) = self.part.blocks.get(&instance.block) else {
            return self.report(
                &path.key("block"),
                format!("expected a key of [blocks], found `{}`", instance.block),
            );
        };
        self.variation(&path.key("with"), &instance.with, block);
        let choices = block.base.iter().flat_map(|choice| &choice.choices);
        for (index, option) in choices.clone().enumerate() {
            let place = Path::default().key("blocks").key(&instance.block).key("base").key("choices");
            self.variation(&place.index(index).key("with"), &option.with, block);
        }
        for (index, name) in instance.bases.iter().enumerate() {
            if !choices.clone().any(|option| option.name == *name) {
                let message = format!("the block has no base counter `{name}`");
                self.report(&path.key("bases").index(index), message);
            }
        }
        match self.part.views(instance) {
            Ok(views) => {
                for timer in &views {
                    self.timer(path, &instance.block, timer);
                }
            }
            Err(error) => self.report(path, error.to_string()),
        }
    }

    /// Checks that what a variation keeps is there.
    fn variation(&mut self, path: &Path, with: &Variation, block: &Block) {
        let modes: Vec<&String> = block.modes.iter().map(|mode| &mode.name).collect();
        let channels = block.channels.iter().map(|channel| &channel.label).collect();
        for (key, known, kept) in [("modes", modes, &with.modes), ("channels", channels, &with.channels)] {
            for (index, name) in kept.iter().enumerate().filter(|(_, name)| !known.contains(name)) {
                self.report(
                    &path.key(key).index(index),
                    format!("the block has no `{name}` among its {key}"),
                );
            }
        }
    }
}

/// Where a mode stands in the file: an instance may have fewer modes than its block, so its own positions differ.
pub(crate) fn mode_path(part: &Part, block: &str, mode: &str) -> Path {
    let modes = part.blocks.get(block).map(|block| block.modes.as_slice()).unwrap_or_default();
    // A mode whose length is a power of two stands for several with longer names.
    let stands_for = |other: &Mode| mode.strip_prefix(&other.name).is_some_and(|rest| rest.starts_with('-'));
    let exact = modes.iter().position(|other| other.name == mode);
    let position = exact.or_else(|| modes.iter().position(stands_for)).unwrap_or_default();
    Path::default().key("blocks").key(block).key("modes").index(position)
}

//! A clock tree: what draws on what, what fits where, and whether every rule has its conditions.

use std::collections::BTreeSet;

use super::{PartCheck, Path};
use crate::part::{ClockNode, ClockTree, NodeInput, Scale};
use crate::quantity::{Frequency, Range};

impl PartCheck<'_> {
    /// Checks the clock tree, where there is one, and that the clocks are nodes of it.
    pub(super) fn tree(&mut self) {
        let part = self.part;
        let root = Path::default();
        for (name, clock) in &part.clocks {
            let Some(node) = &clock.node else { continue };
            if !part.tree.iter().flat_map(|tree| &tree.nodes).any(|known| known.name == *node) {
                let path = root.key("clocks").key(name).key("node");
                self.report(&path, format!("the clock tree has no node `{node}`"));
            }
        }
        let Some(tree) = &part.tree else { return };
        let root = root.key("tree");
        self.register_map(&root.key("registers"), &tree.registers);
        if tree.node(&tree.system).is_err() {
            self.report(&root.key("system"), format!("there is no node `{}`", tree.system));
        }
        let mut names = BTreeSet::new();
        for (index, switch) in tree.switches.iter().enumerate() {
            let path = root.key("switches").index(index);
            self.new_name(&path, &mut names, &switch.name);
            self.facts(&path, &switch.facts, true);
            let codes: Vec<u64> = switch.codes.iter().map(|code| code.code).collect();
            self.codes(&path, tree, &switch.slot, &codes, switch.reset);
        }
        for (index, node) in tree.nodes.iter().enumerate() {
            let path = root.key("nodes").index(index);
            let before = tree.nodes.get(..index).unwrap_or_default();
            self.node(&path, tree, before, node);
            self.new_name(&path, &mut names, &node.name);
        }
    }

    fn new_name<'n>(&mut self, path: &Path, names: &mut BTreeSet<&'n str>, name: &'n str) {
        self.name(&path.key("name"), name);
        if !names.insert(name) {
            self.report(&path.key("name"), format!("there is a node or switch `{name}` already"));
        }
    }

    fn node(&mut self, path: &Path, tree: &ClockTree, before: &[ClockNode], node: &ClockNode) {
        self.facts(path, &node.facts, true);
        for (key, limits) in [("takes", &node.takes), ("gives", &node.gives)] {
            if let Some(limits) = limits {
                self.band(&path.key(key), limits);
            }
        }
        let input = path.key("input");
        match &node.input {
            NodeInput::Oscillator(name) => {
                if self.part.oscillator(name).is_none() {
                    self.report(&input, format!("the part has no oscillator `{name}`"));
                }
            }
            NodeInput::External(limits) => self.band(&input, limits),
            NodeInput::Node(name) => self.earlier(&input, before, name),
            NodeInput::Choice { slot, routes, reset } => {
                routes.iter().for_each(|route| self.earlier(&input, before, &route.from));
                let codes: Vec<u64> = routes.iter().map(|route| route.code).collect();
                self.codes(&input, tree, slot, &codes, *reset);
            }
        }
        let scale = path.key("scale");
        match &node.scale {
            Scale::Unchanged => {}
            Scale::By(by) => {
                if *by == 0 {
                    self.report(&scale, "expected at least 1");
                }
            }
            Scale::Divide { slot, steps, reset } | Scale::Multiply { slot, steps, reset } => {
                let largest = self.steps(&scale.key("steps"), steps);
                self.codes(&scale, tree, slot, &[largest], *reset);
                // What does not run after reset may hold a number that means nothing.
                let mut clocks = self.part.clocks.values().filter_map(|clock| clock.node.as_ref());
                let mut runs = || {
                    clocks.any(|clock| tree.way_after_reset(clock).iter().any(|way| way.name == node.name))
                };
                if steps.meaning(*reset).is_none() && runs() {
                    self.report(&scale.key("reset"), format!("expected one of {}", steps.legal_codes()));
                }
            }
            Scale::Rules(rules) => {
                if rules.last().is_none_or(|rule| !rule.when.is_empty()) {
                    self.report(&scale, "expected a last rule without conditions");
                }
                for (index, rule) in rules.iter().enumerate() {
                    let path = scale.index(index);
                    if rule.times == 0 {
                        self.report(&path.key("times"), "expected at least 1");
                    }
                    for name in rule.when.keys() {
                        let divides = |node: &&ClockNode| matches!(&node.scale, Scale::Divide { steps, .. } if steps.fraction_bits() == 0);
                        let known = tree.switches.iter().any(|switch| switch.name == *name)
                            || before.iter().filter(divides).any(|node| node.name == *name);
                        if !known {
                            let message =
                                format!("expected a switch or an earlier whole divider, found `{name}`");
                            self.report(&path.key("when").key(name), message);
                        }
                    }
                }
            }
        }
    }

    fn earlier(&mut self, path: &Path, before: &[ClockNode], name: &str) {
        if !before.iter().any(|node| node.name == name) {
            self.report(path, format!("expected a node that stands further up, found `{name}`"));
        }
    }

    fn band(&mut self, path: &Path, limits: &Range<Frequency>) {
        self.positive(path, limits.low);
        if limits.low > limits.high {
            self.report(path, format!("expected the lower end first, found {limits}"));
        }
    }

    /// Checks that codes fit their fields, and that one of them is there after reset.
    fn codes(&mut self, path: &Path, tree: &ClockTree, slot: &[String], codes: &[u64], reset: u64) {
        match tree.slot(slot) {
            Err(error) => self.report(&path.key("slot"), error.to_string()),
            Ok(slot) => {
                for code in codes.iter().chain([&reset]).filter(|code| **code > slot.largest()) {
                    self.report(
                        path,
                        format!("{code} does not fit {}, which holds 0..{}", slot.name(), slot.largest()),
                    );
                }
            }
        }
    }
}

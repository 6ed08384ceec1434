//! Where registers are, and the recipes that bring a timer up: what refers to what, and what fits where.

use std::collections::BTreeMap;

use super::{PartCheck, Path};
use crate::part::{BringUp, FieldIs, PinRecipe, RecipeStep, Register, SpeedNeed, Timer, WriteOrder};

impl PartCheck<'_> {
    /// Checks where the registers are.
    pub(super) fn memory(&mut self) {
        let part = self.part;
        let path = Path::default().key("memory");
        if let Some(memory) = &part.memory {
            self.facts(&path, &memory.facts, true);
            self.word(&path, memory.word);
        }
        if let Some(bring_up) = &part.bring_up {
            self.bring_up(&Path::default().key("bring_up"), bring_up);
        }
        if let Some(kernel) = &part.kernel {
            let path = Path::default().key("kernel");
            self.facts(&path, &kernel.facts, true);
            if !(2..=3).contains(&kernel.cells) {
                self.report(&path.key("cells"), format!("expected 2 or 3, found {}", kernel.cells));
            }
        }
    }

    /// Checks the width of an access.
    pub(super) fn word(&mut self, path: &Path, word: Option<u32>) {
        if let Some(word) = word.filter(|word| ![8, 16, 32].contains(word)) {
            self.report(&path.key("word"), format!("expected 8, 16 or 32 bits, found {word}"));
        }
    }

    /// Checks that what a block writes before or after the rest is there.
    pub(super) fn order(&mut self, path: &Path, timer: &Timer) {
        let order = &timer.block.order;
        let known = timer.register_names();
        let groups = [
            ("first", &order.first),
            ("load", &order.load),
            ("outputs", &order.outputs),
            ("start", &order.start),
            ("update", &order.update),
        ];
        for (key, names) in groups {
            for (index, name) in names.iter().enumerate() {
                if !known.iter().any(|field| WriteOrder::means(name, field)) {
                    self.report(
                        &path.key(key).index(index),
                        format!("no register or field is meant by `{name}`"),
                    );
                }
            }
        }
        for (index, wait) in order.waits.iter().enumerate() {
            let path = path.key("waits").index(index);
            let until = wait.until.as_ref().map(|until| &until.field);
            for name in until.into_iter().chain([&wait.after]) {
                if let Err(error) = timer.field(name) {
                    self.report(&path, error.to_string());
                }
            }
            if wait.until.is_some() == wait.delay.is_some() {
                self.report(&path, "expected `until` or `delay`, and not both");
            }
        }
        if let Some(hold) = &order.hold {
            for (key, wanted) in [("begin", &hold.begin), ("end", &hold.end)] {
                let path = path.key("hold").key(key);
                self.value(&path, timer, std::slice::from_ref(&wanted.field), wanted.value);
            }
        }
    }

    fn bring_up(&mut self, path: &Path, bring_up: &BringUp) {
        self.facts(path, &bring_up.facts, true);
        for (name, register) in &bring_up.registers {
            self.register(&path.key("registers").key(name), name, register);
        }
        for (index, need) in bring_up.speed.iter().enumerate() {
            self.speed(&path.key("speed").index(index), need);
        }
        for (name, start) in &bring_up.nodes {
            let path = path.key("nodes").key(name);
            self.facts(&path, &start.facts, true);
            self.node_is_there(&path, name);
            if let Err(error) = self.part.bring_up_slot(&start.echo) {
                self.report(&path.key("echo"), error.to_string());
            }
            self.recipe(&path.key("before"), &start.before);
            self.recipe(&path.key("after"), &start.after);
            self.recipe(&path.key("once_chosen"), &start.once_chosen);
        }
        for (name, steps) in &bring_up.timers {
            let path = path.key("timers").key(name);
            if self.part.instance(name).is_err() {
                self.report(&path, format!("the part has no timer `{name}`"));
            }
            self.recipe(&path, steps);
        }
        self.recipe(&path.key("remap"), &bring_up.remap);
        for (index, recipe) in bring_up.pins.iter().enumerate() {
            self.pins(&path.key("pins").index(index), bring_up, recipe);
        }
    }

    fn register(&mut self, path: &Path, name: &str, register: &Register) {
        // A register of every port has the port's letter in its name.
        let plain = name.replace(['{', '}'], "");
        self.register_map(path, &BTreeMap::from([(plain, register.clone())]));
        if let Some(unlock) = &register.unlock
            && self.part.bring_up_register(&unlock.register).is_none()
        {
            self.report(&path.key("unlock"), format!("there is no register `{}`", unlock.register));
        }
    }

    fn node_is_there(&mut self, path: &Path, name: &str) {
        if !self.part.tree.iter().flat_map(|tree| &tree.nodes).any(|node| node.name == name) {
            self.report(path, format!("the clock tree has no node `{name}`"));
        }
    }

    fn speed(&mut self, path: &Path, need: &SpeedNeed) {
        self.facts(path, &need.facts, true);
        self.node_is_there(&path.key("node"), &need.node);
        if need.steps.windows(2).any(|pair| matches!(pair, [one, next] if one.to >= next.to))
            || need.steps.is_empty()
        {
            self.report(&path.key("steps"), "expected frequencies that rise");
        }
        match self.part.bring_up_slot(&need.slot) {
            Err(error) => self.report(&path.key("slot"), error.to_string()),
            Ok(slot) => {
                if let Some(step) = need.steps.iter().find(|step| step.code > slot.largest()) {
                    self.report(&path.key("steps"), format!("{} does not fit {}", step.code, slot.name()));
                }
            }
        }
        self.recipe(&path.key("before"), &need.before);
        if let Some(until) = &need.until {
            self.field_is(&path.key("until"), until);
        }
    }

    fn recipe(&mut self, path: &Path, steps: &[RecipeStep]) {
        for (index, step) in steps.iter().enumerate() {
            let path = path.index(index);
            let kinds =
                [step.set.is_some(), step.until.is_some(), step.delay.is_some(), step.supply.is_some()];
            if kinds.iter().filter(|there| **there).count() != 1 {
                self.report(&path, "expected one of `set`, `until`, `delay` and `supply`");
            }
            for wanted in step.set.iter().chain(&step.until) {
                self.field_is(&path, wanted);
            }
        }
    }

    fn field_is(&mut self, path: &Path, wanted: &FieldIs) {
        match self.part.bring_up_slot(std::slice::from_ref(&wanted.field)) {
            Err(error) => self.report(path, error.to_string()),
            Ok(slot) if wanted.value > slot.largest() => {
                self.report(path, format!("{} does not fit {}", wanted.value, slot.name()));
            }
            Ok(_) => {}
        }
    }

    fn pins(&mut self, path: &Path, bring_up: &BringUp, recipe: &PinRecipe) {
        self.facts(path, &recipe.facts, true);
        let Some(mut vars) = recipe.pins.vars(&recipe.pins.example()) else {
            return self.report(&path.key("pins"), "no pin fits it");
        };
        for name in ["code", "channel", "base"] {
            vars.numbers.entry(name.to_owned()).or_insert(0);
        }
        for (index, step) in recipe.steps.iter().enumerate() {
            let path = path.key("steps").index(index);
            if !bring_up.registers.contains_key(&step.register) {
                self.report(&path.key("register"), format!("there is no register `{}`", step.register));
            } else if !(1..=64).contains(&step.width) || bring_up.pin_field(step, &vars).is_none() {
                let example = recipe.pins.example();
                self.report(&path, format!("its formulas give no field and value for {example}"));
            }
        }
        for (index, output) in recipe.outputs.iter().enumerate() {
            let timer = output.split_once('/').map_or(output.as_str(), |(timer, _)| timer);
            if self.part.instance(timer).is_err() {
                self.report(&path.key("outputs").index(index), format!("the part has no timer `{timer}`"));
            }
        }
    }
}

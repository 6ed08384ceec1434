//! Clocks that do not run after reset.

use serde::{Deserialize, Serialize};

use super::{ClockTree, NodeInput, Part};

/// What switches on a clock that is off after reset.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct ClockSwitch {
    /// The field that chooses where it comes from.
    pub field: String,
    /// The field's values that switch it on, each with what it then comes from.
    pub choices: Vec<(u64, String)>,
}

impl ClockSwitch {
    /// The choices in a sentence: `1 the PLL, 2 the crystal`.
    pub fn told(&self) -> String {
        let one = |(code, from): &(u64, String)| format!("{code} {from}");
        self.choices.iter().map(one).collect::<Vec<_>>().join(", ")
    }
}

impl Part {
    /// Takes from the tree which clocks are off after reset, where the clock itself does not say so.
    pub fn find_clocks_that_are_off(&mut self) {
        let Some(tree) = &self.tree else { return };
        for clock in self.clocks.values_mut().filter(|clock| clock.off.is_none()) {
            clock.off = clock.node.as_ref().and_then(|node| tree.off_after_reset(node));
        }
    }
}

impl ClockTree {
    fn off_after_reset(&self, node: &str) -> Option<ClockSwitch> {
        match &self.node(node).ok()?.input {
            NodeInput::Oscillator(_) | NodeInput::External(_) => None,
            NodeInput::Node(from) => self.off_after_reset(from),
            NodeInput::Choice { slot, routes, reset } => {
                match routes.iter().find(|route| route.code == *reset) {
                    Some(route) => self.off_after_reset(&route.from),
                    None => {
                        let title = |from: &str| self.node(from).map_or(from, |node| &node.title).to_owned();
                        let choices = routes.iter().map(|route| (route.code, title(&route.from))).collect();
                        Some(ClockSwitch { field: slot.join(", "), choices })
                    }
                }
            }
        }
    }
}

//! The clock tree of a part: sources, and what stands between them and the timers.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};

use super::divider::Steps;
use super::fact::Fact;
use super::register::{self, Field, Register, Slot};
use crate::error::{Error, Result};
use crate::quantity::{Frequency, Range};

/// A clock tree. Every node stands after those that it draws on.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct ClockTree {
    /// Its registers by name.
    pub registers: BTreeMap<String, Register>,
    /// The node whose frequency `--sysclk` states.
    pub system: String,
    /// Fields that change a rule without being a node.
    #[serde(default)]
    pub switches: Vec<Switch>,
    /// The nodes.
    pub nodes: Vec<ClockNode>,
}

/// A field that changes a [`ScaleRule`].
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Switch {
    /// Lower-case name.
    pub name: String,
    /// Its fields, most significant first.
    pub slot: Vec<String>,
    /// Its values.
    pub codes: Vec<SwitchCode>,
    /// Its value after reset.
    pub reset: u64,
    /// Where that stands.
    pub facts: Vec<Fact>,
}

/// One value of a [`Switch`].
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct SwitchCode {
    /// The value.
    pub code: u64,
    /// What it does.
    pub means: String,
}

/// One point of the tree that has a frequency.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct ClockNode {
    /// Lower-case name.
    pub name: String,
    /// What the reference manual calls it.
    pub title: String,
    /// Where its clock comes from.
    pub input: NodeInput,
    /// What becomes of it.
    #[serde(default)]
    pub scale: Scale,
    /// The legal frequencies of what comes in.
    #[serde(default)]
    pub takes: Option<Range<Frequency>>,
    /// The legal frequencies of what goes out.
    #[serde(default)]
    pub gives: Option<Range<Frequency>>,
    /// Whether it is an oscillator that a multiplier drives, which `lowest VCO` means.
    #[serde(default)]
    pub vco: bool,
    /// Where that stands.
    pub facts: Vec<Fact>,
}

/// Where a node's clock comes from.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum NodeInput {
    /// An oscillator of the part, by its name.
    Oscillator(String),
    /// A crystal or a clock from outside, of these frequencies.
    External(Range<Frequency>),
    /// Another node.
    Node(String),
    /// One of several nodes, as a field says.
    Choice {
        /// The fields, most significant first.
        slot: Vec<String>,
        /// What can be chosen.
        routes: Vec<Route>,
        /// The fields' value after reset.
        reset: u64,
    },
}

/// One node that can be chosen.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Route {
    /// The node.
    pub from: String,
    /// The value that chooses it.
    pub code: u64,
}

/// What becomes of a clock on its way through a node.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Scale {
    /// Nothing.
    #[default]
    Unchanged,
    /// A register divides it.
    Divide {
        /// The fields, most significant first.
        slot: Vec<String>,
        /// The divisions.
        steps: Steps,
        /// The fields' value after reset.
        reset: u64,
    },
    /// A register multiplies it.
    Multiply {
        /// The fields, most significant first.
        slot: Vec<String>,
        /// The factors.
        steps: Steps,
        /// The fields' value after reset.
        reset: u64,
    },
    /// It is divided by a fixed number.
    By(u32),
    /// It is multiplied by what the first rule says whose conditions hold.
    Rules(Vec<ScaleRule>),
}

/// A factor, and when it applies.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct ScaleRule {
    /// The factor.
    pub times: u32,
    /// The codes of switches and the divisions of nodes further up for which it applies; all of them must hold.
    #[serde(default)]
    pub when: BTreeMap<String, Vec<u64>>,
    /// The rule in words.
    pub says: String,
}

impl Scale {
    /// Whether a rule asks for the switch, or the divider further up, of that name.
    pub fn asks_for(&self, name: &str) -> bool {
        match self {
            Self::Rules(rules) => rules.iter().any(|rule| rule.when.contains_key(name)),
            _ => false,
        }
    }

    /// Whether what it does hangs on switches or on divisions further up.
    pub fn has_conditions(&self) -> bool {
        matches!(self, Self::Rules(rules) if rules.iter().any(|rule| !rule.when.is_empty()))
    }
}

impl ScaleRule {
    /// Whether it applies. `value` tells the code of a switch or the division of a node.
    pub fn holds(&self, value: impl Fn(&str) -> Option<u64>) -> bool {
        self.when.iter().all(|(name, legal)| value(name).is_some_and(|value| legal.contains(&value)))
    }
}

impl ClockTree {
    /// Every statement behind it.
    pub fn facts(&self) -> impl Iterator<Item = &Fact> {
        let switches = self.switches.iter().flat_map(|switch| &switch.facts);
        self.nodes.iter().flat_map(|node| &node.facts).chain(switches)
    }

    /// The node of that name.
    ///
    /// # Errors
    /// [`Error::UnknownName`].
    pub fn node(&self, name: &str) -> Result<&ClockNode> {
        self.nodes.iter().find(|node| node.name == name).ok_or_else(|| {
            let known = self.nodes.iter().map(|node| node.name.as_str());
            Error::unknown("clock node", name, "the clock tree", known)
        })
    }

    /// The oscillator that a node's clock comes from after reset; `None` where it comes from outside, or none runs.
    pub fn oscillator_after_reset(&self, node: &str) -> Option<&str> {
        match &self.way_after_reset(node).last()?.input {
            NodeInput::Oscillator(name) => Some(name),
            NodeInput::External(_) | NodeInput::Node(_) | NodeInput::Choice { .. } => None,
        }
    }

    /// A node and those that its clock comes through after reset, backwards, as far as they are there.
    pub fn way_after_reset(&self, node: &str) -> Vec<&ClockNode> {
        let mut way: Vec<&ClockNode> = Vec::new();
        let mut next = self.node(node).ok();
        // Nodes stand after those that they draw on; in a file that is not checked yet they may not.
        while let Some(node) = next.filter(|node| way.iter().all(|known| known.name != node.name)) {
            way.push(node);
            let from = match &node.input {
                NodeInput::Oscillator(_) | NodeInput::External(_) => None,
                NodeInput::Node(name) => Some(name),
                NodeInput::Choice { routes, reset, .. } => {
                    routes.iter().find(|route| route.code == *reset).map(|route| &route.from)
                }
            };
            next = from.and_then(|name| self.node(name).ok());
        }
        way
    }

    /// The places that hold one number together.
    ///
    /// # Errors
    /// [`Error::UnknownName`]: the names come from the family file.
    pub fn slot(&self, names: &[String]) -> Result<Slot> {
        let find = |name: &String| -> Result<Field> {
            register::find(&self.registers, name).ok_or_else(|| {
                let known = register::names(&self.registers);
                Error::unknown("register field", name, "the clock tree", known.iter().map(String::as_str))
            })
        };
        names.iter().map(find).collect::<Result<Vec<_>>>().map(Slot)
    }
}

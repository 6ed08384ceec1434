//! What has to be done before a timer can move a pin: clocks, gates, pins.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};

use super::fact::Fact;
use super::field_is::FieldIs;
use super::formula::Formula;
use super::pin_pattern::PinPattern;
use super::register::{self, Field, Register, Slot};
use super::{Part, PinVars};
use crate::error::{Error, Result};
use crate::quantity::{Frequency, Time};

/// What has to be done before a timer can move a pin.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct BringUp {
    /// Its registers by name, besides those of the clock tree; names may hold what a pin's name says, as `{port}`.
    #[serde(default)]
    pub registers: BTreeMap<String, Register>,
    /// What a fast clock needs before it is chosen.
    #[serde(default)]
    pub speed: Vec<SpeedNeed>,
    /// How nodes of the clock tree are started.
    #[serde(default)]
    pub nodes: BTreeMap<String, NodeStart>,
    /// What each timer needs before its registers can be written, by name.
    #[serde(default)]
    pub timers: BTreeMap<String, Vec<RecipeStep>>,
    /// How a pin is given an output.
    #[serde(default)]
    pub pins: Vec<PinRecipe>,
    /// What has to be done before a field that moves all channels of a timer can be written.
    #[serde(default)]
    pub remap: Vec<RecipeStep>,
    /// Where that stands.
    pub facts: Vec<Fact>,
}

/// A field that hangs on the frequency of a node, and is written before the clock goes up.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct SpeedNeed {
    /// The node of the clock tree.
    pub node: String,
    /// The fields, most significant first.
    pub slot: Vec<String>,
    /// Up to which frequency each value will do, lowest first.
    pub steps: Vec<SpeedStep>,
    /// What it is.
    pub means: String,
    /// Whether it is written when everything else is set, right before what all runs from is chosen.
    #[serde(default)]
    pub late: bool,
    /// What comes before it.
    #[serde(default)]
    pub before: Vec<RecipeStep>,
    /// What has to be waited for.
    #[serde(default)]
    pub until: Option<FieldIs>,
    /// Where that stands.
    pub facts: Vec<Fact>,
}

/// Up to which frequency a value will do.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct SpeedStep {
    /// The highest frequency.
    pub to: Frequency,
    /// The value.
    pub code: u64,
}

/// How a node of the clock tree is started.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct NodeStart {
    /// Whether it chooses what all others run from: its own fields are then written after those of every other node.
    #[serde(default)]
    pub last: bool,
    /// The fields that show what it chose once that runs, most significant first.
    #[serde(default)]
    pub echo: Vec<String>,
    /// What comes before its own fields.
    #[serde(default)]
    pub before: Vec<RecipeStep>,
    /// What comes after them.
    #[serde(default)]
    pub after: Vec<RecipeStep>,
    /// What comes after all nodes: an oscillator that starts only once everything runs from it is waited for here.
    #[serde(default)]
    pub once_chosen: Vec<RecipeStep>,
    /// Where that stands.
    pub facts: Vec<Fact>,
}

/// One step of a recipe: exactly one of `set`, `until`, `delay` and `supply`.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct RecipeStep {
    /// A field to write.
    #[serde(default)]
    pub set: Option<FieldIs>,
    /// A field to wait for.
    #[serde(default)]
    pub until: Option<FieldIs>,
    /// A time to wait.
    #[serde(default)]
    pub delay: Option<Time>,
    /// A step that the catalogue does not know: what the function is called that does it.
    #[serde(default)]
    pub supply: Option<String>,
    /// What it is for.
    pub means: String,
}

/// How pins are given an output.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct PinRecipe {
    /// The pins.
    pub pins: PinPattern,
    /// The outputs that it is for, `timer/channel`; all where none are named.
    #[serde(default)]
    pub outputs: Vec<String>,
    /// What is done, in this order.
    pub steps: Vec<PinStep>,
    /// Where that stands.
    pub facts: Vec<Fact>,
}

/// One field that a pin needs. Names may hold what the pin's name says, as `{port}`; formulas that, and `{code}`: the
/// number or letter that chooses the output in the pinout, `{channel}`: the channel's label where that is a number, and
/// `{base}`: the timer's address.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct PinStep {
    /// The register.
    pub register: String,
    /// What the field is called.
    pub field: String,
    /// Position of its lowest bit.
    pub low: Formula,
    /// Number of bits.
    pub width: u32,
    /// The value.
    pub value: Formula,
    /// What it is for.
    pub means: String,
}

/// A field that a pin needs, found.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct PinField {
    /// The field.
    pub field: Field,
    /// The register, with its address worked out.
    pub register: Register,
    /// Its address; `None` where that is not known.
    pub address: Option<u64>,
    /// The value.
    pub value: u64,
    /// What it is for.
    pub means: String,
}

impl Part {
    /// The places that hold one number together, among the registers of bring-up and clock tree.
    ///
    /// # Errors
    /// [`Error::UnknownName`]: the names come from the family file.
    pub fn bring_up_slot(&self, names: &[String]) -> Result<Slot> {
        names.iter().map(|name| self.bring_up_field(name)).collect::<Result<Vec<_>>>().map(Slot)
    }

    fn bring_up_field(&self, name: &str) -> Result<Field> {
        let own = self.bring_up.iter().map(|bring_up| &bring_up.registers);
        let tree = self.tree.iter().map(|tree| &tree.registers);
        own.chain(tree)
            .find_map(|registers| register::find(registers, name))
            .ok_or_else(|| Error::unknown("register field", name, "the bring-up recipes", std::iter::empty()))
    }

    /// A register of bring-up or clock tree.
    pub fn bring_up_register(&self, name: &str) -> Option<&Register> {
        let own = self.bring_up.iter().map(|bring_up| &bring_up.registers);
        let tree = self.tree.iter().map(|tree| &tree.registers);
        own.chain(tree).find_map(|registers| registers.get(name))
    }

    /// The address of a register of bring-up or clock tree; `None` where it is not known.
    pub fn bring_up_address(&self, name: &str) -> Option<u64> {
        let named = self.memory.as_ref().and_then(|memory| memory.at.get(name)).copied();
        named.or_else(|| self.bring_up_register(name)?.at.as_ref()?.value(&BTreeMap::new()))
    }
}

impl BringUp {
    /// Every statement behind it.
    pub fn facts(&self) -> impl Iterator<Item = &Fact> {
        let speed = self.speed.iter().flat_map(|need| &need.facts);
        let nodes = self.nodes.values().flat_map(|node| &node.facts);
        let pins = self.pins.iter().flat_map(|recipe| &recipe.facts);
        self.facts.iter().chain(speed).chain(nodes).chain(pins)
    }

    /// The recipes for an output on a pin, each with what the pin's name says.
    pub fn recipes<'b>(
        &'b self,
        pin: &'b str,
        output: &'b str,
    ) -> impl Iterator<Item = (&'b PinRecipe, PinVars)> + 'b {
        let fits = move |recipe: &&PinRecipe| {
            recipe.outputs.is_empty() || recipe.outputs.iter().any(|known| known == output)
        };
        self.pins.iter().filter(fits).filter_map(move |recipe| Some((recipe, recipe.pins.vars(pin)?)))
    }

    /// What a step means for a pin; `None` where the register is not there or a number does not come out.
    pub fn pin_field(&self, step: &PinStep, vars: &PinVars) -> Option<PinField> {
        let fill = |text: &str| {
            let filled =
                |text: String, (name, value): (&String, &String)| text.replace(&format!("{{{name}}}"), value);
            vars.texts.iter().fold(text.to_owned(), filled)
        };
        let register = self.registers.get(&step.register)?;
        let (low, value) = (step.low.value(&vars.numbers)?, step.value.value(&vars.numbers)?);
        let field = Field {
            register: fill(&step.register),
            field: Some(fill(&step.field)),
            low: u32::try_from(low)
                .ok()
                .filter(|low| low.checked_add(step.width).is_some_and(|end| end <= register.bits))?,
            width: step.width,
        };
        if value > field.largest() {
            return None;
        }
        let address = register.at.as_ref().and_then(|at| at.value(&vars.numbers));
        Some(PinField { field, register: register.clone(), address, value, means: fill(&step.means) })
    }
}

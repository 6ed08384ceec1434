//! What a family file says: one [`Part`], its timers, and the laws their counters follow.
//!
//! The types here are the file's own schema (`docs/part-files.md` describes it for authors). A [`Timer`] is one
//! instance of the file's blocks with its names filled in; every computation starts from one.
//!
//! ```
//! let catalogue = kairotic_parts::Catalogue::embedded();
//! let timer = catalogue.part("stm32f411")?.timer("tim3", None)?;
//! assert_eq!(timer.block.counter_bits, 16);
//! // Counting up, the counter is at each value from zero to the top for one tick.
//! assert_eq!(timer.mode("up")?.period.ticks(49_999), Some(50_000));
//! # Ok::<(), kairotic_core::Error>(())
//! ```

mod ability;
mod access;
mod block;
mod bring_up;
pub mod check;
mod claim;
mod clock_switch;
mod dead_time;
mod divider;
mod fact;
mod field_is;
mod formula;
mod inputs;
mod kernel;
pub(crate) mod law;
mod memory;
mod order_code;
mod pin_pattern;
mod pinout;
mod point;
mod register;
mod register_map;
mod timer;
mod timer_search;
mod timer_use;
mod tree;
mod values;
mod variant;
mod write_order;

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};

pub use self::ability::Ability;
pub use self::access::{Access, Unlock};
pub use self::block::{
    BaseChoice, BaseOption, Block, Channel, ChannelWrite, Dither, DitherOrder, EndWrite, ForcedEnds, Mode,
    Pointer, Polarity, SetupWrite, StartLaw, TopSource, Updates,
};
pub use self::bring_up::{
    BringUp, NodeStart, PinField, PinRecipe, PinStep, RecipeStep, SpeedNeed, SpeedStep,
};
pub use self::claim::{Claim, ClaimKind, Claimed, CodeMeaning};
pub use self::clock_switch::ClockSwitch;
pub use self::dead_time::{DeadDivider, DeadSegment, DeadTime, DeadUnit};
pub use self::divider::{DividerStage, Steps, Tap};
pub use self::fact::{Concern, Fact, Trust};
pub use self::field_is::{FieldIs, FieldIsError};
pub use self::formula::{Formula, FormulaError};
pub use self::inputs::Inputs;
pub use self::kernel::KernelDriver;
pub use self::law::{
    Alignment, CompareLaw, Counting, LinearLaw, OutputRule, PastTop, PeriodLaw, UpdatePoint,
};
pub use self::memory::{Memory, ReachedBy};
pub use self::order_code::{OrderCode, OrderCodeError};
pub use self::pin_pattern::{PatternError, PinPattern, PinVars};
pub use self::pinout::{PinOutput, Pinout, Remap, RemapRoute};
pub use self::point::ComparePoint;
pub use self::register::{Bits, Field, Register, Slot, largest};
pub use self::register_map::MappedRegister;
pub use self::timer::{Base, Timer};
pub use self::timer_search::{FoundTimer, WantedTimer};
pub use self::timer_use::TimerUse;
pub use self::tree::{ClockNode, ClockTree, NodeInput, Route, Scale, ScaleRule, Switch, SwitchCode};
pub use self::values::{Assignment, Names, Registers};
pub use self::variant::{Variant, VariantPackage};
pub use self::write_order::{Hold, WriteOrder, WriteWait};
use crate::quantity::{Deviation, Frequency, Range};

/// The version of the file schema that this crate reads.
pub const SCHEMA: u32 = 1;

/// One family file.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Part {
    /// The version of the format: 1.
    pub schema: u32,
    /// Lower-case silicon designation, as `--on` takes it.
    pub name: String,
    /// The designation as the maker writes it, with the members it stands for.
    pub title: String,
    /// How the names of the family's members are made, in words.
    #[serde(default)]
    pub naming: Option<String>,
    /// The codes under which it is sold, in the package whose pins are described.
    #[serde(default)]
    pub order_codes: Vec<OrderCode>,
    /// Devices that are the same in all but what they say.
    #[serde(default)]
    pub variants: Vec<Variant>,
    /// What concerns the part as a whole.
    #[serde(default)]
    pub facts: Vec<Fact>,
    /// The block files that its blocks may come from.
    #[serde(default)]
    pub blocks_from: Vec<String>,
    /// The documents that facts refer to, by short key.
    pub documents: BTreeMap<String, String>,
    /// What its laws were held against, besides the oracle that all are held against.
    #[serde(default)]
    pub checked: Vec<Checked>,
    /// The frequency sources of the part.
    pub oscillators: Vec<Oscillator>,
    /// The clocks that reach timers, by name.
    pub clocks: BTreeMap<String, ClockInput>,
    /// The timers, in the order of the reference manual.
    pub timers: Vec<Instance>,
    /// What several timers have in common, by name.
    #[serde(default)]
    pub blocks: BTreeMap<String, Block>,
    /// Where the outputs come out, where that is described.
    #[serde(default)]
    pub pinout: Option<Pinout>,
    /// How the clocks come about, where that is described.
    #[serde(default)]
    pub tree: Option<ClockTree>,
    /// Where its registers are, where that is described.
    #[serde(default)]
    pub memory: Option<Memory>,
    /// What has to be done before a timer can move a pin, where that is described.
    #[serde(default)]
    pub bring_up: Option<BringUp>,
    /// How a kernel knows it, where one drives it.
    #[serde(default)]
    pub kernel: Option<KernelDriver>,
}

/// What the laws of a part were held against, besides the oracle.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Checked {
    /// Pulse trains measured in a chip simulator.
    Vector,
    /// Examples worked by hand from the formulas of a data sheet.
    Example,
}

impl Checked {
    /// The words that outputs use.
    pub const fn words(self) -> &'static str {
        match self {
            Self::Vector => "simulator",
            Self::Example => "examples",
        }
    }
}

/// Blocks that several families share.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct BlockFile {
    /// The version of the format: 1.
    pub schema: u32,
    /// The documents that the blocks' facts refer to, by short key.
    pub documents: BTreeMap<String, String>,
    /// The blocks, by name.
    pub blocks: BTreeMap<String, Block>,
}

/// A frequency source.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Oscillator {
    /// The silicon's name for it.
    pub name: String,
    /// Nominal frequency.
    pub frequency: Frequency,
    /// How far it may be off, the widest statement last.
    #[serde(default)]
    pub accuracy: Vec<Accuracy>,
    /// Where that stands.
    pub facts: Vec<Fact>,
}

/// How far an oscillator may be off, and under which conditions.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Accuracy {
    /// The conditions, such as `-40 to 105 °C`.
    pub over: String,
    /// From the lowest to the highest deviation.
    pub within: Range<Deviation>,
}

/// A clock that reaches the dividers of one or more timers. Timers that name the same one share it.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct ClockInput {
    /// What the reference manual calls it.
    pub title: String,
    /// Its frequency after reset.
    pub default: Frequency,
    /// Its highest legal frequency.
    pub maximum: Frequency,
    /// The node of the clock tree that it is, where the part has a tree.
    #[serde(default)]
    pub node: Option<String>,
    /// The oscillator that it comes from after reset, where no tree says so.
    #[serde(default)]
    pub oscillator: Option<String>,
    /// What switches it on, where it is off after reset; its frequency is then the one that it is taken to have once it
    /// is on.
    #[serde(default)]
    pub off: Option<ClockSwitch>,
    /// Where that stands.
    pub facts: Vec<Fact>,
}

/// One timer: a block, and what is special about this instance of it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Instance {
    /// Lower-case name, as `--on` takes it.
    pub name: String,
    /// The block it is an instance of.
    pub block: String,
    /// The clock that reaches it.
    pub clock: String,
    /// What the device header puts before this instance's register names, for example `TIM3_`.
    #[serde(default)]
    pub prefix: String,
    /// Where its registers begin.
    #[serde(default)]
    pub address: Option<u64>,
    /// The base counters that it can choose; empty for all of the block's.
    #[serde(default)]
    pub bases: Vec<String>,
    /// What it has differently from the block.
    #[serde(default)]
    pub with: Variation,
    /// Where that stands.
    #[serde(default)]
    pub facts: Vec<Fact>,
}

/// What one instance, or one choice of base counter, has differently from its block.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Variation {
    /// Replacements for `{key}` in the block's names.
    #[serde(default)]
    pub vars: BTreeMap<String, String>,
    /// Registers besides the block's, or of another width.
    #[serde(default)]
    pub registers: BTreeMap<String, Register>,
    /// The dividers, where they differ from the block's.
    #[serde(default)]
    pub dividers: Vec<DividerStage>,
    /// The counter's width where it differs from the block's, in bits.
    #[serde(default)]
    pub counter_bits: Option<u32>,
    /// The channels that exist here; empty for all of the block's.
    #[serde(default)]
    pub channels: Vec<String>,
    /// The modes that exist here; empty for all of the block's.
    #[serde(default)]
    pub modes: Vec<String>,
    /// Whether there is no choice of base counter here although the block has one; `vars` then say which it is.
    #[serde(default)]
    pub no_base: bool,
    /// Whether the outputs cannot be inverted here although the block's can; every code then means active high.
    #[serde(default)]
    pub fixed_polarity: bool,
    /// Writes that are needed only here.
    #[serde(default)]
    pub setup: Vec<SetupWrite>,
    /// The dead time generator that it has.
    #[serde(default)]
    pub dead_time: Option<DeadTime>,
    /// Writes that every used channel needs only here.
    #[serde(default)]
    pub channel_setup: Vec<ChannelWrite>,
    /// What it can do with pulses that come in, where that differs from the block's.
    #[serde(default)]
    pub inputs: Option<Inputs>,
}

impl Part {
    /// The internal oscillator of that name.
    pub fn oscillator(&self, name: &str) -> Option<&Oscillator> {
        self.oscillators.iter().find(|oscillator| oscillator.name == name)
    }

    /// The internal oscillator that a clock comes from after reset, where it is known.
    pub fn oscillator_after_reset(&self, clock: &ClockInput) -> Option<&Oscillator> {
        let tree = self.tree.as_ref().zip(clock.node.as_ref());
        let told = tree.and_then(|(tree, node)| tree.oscillator_after_reset(node));
        self.oscillator(told.or(clock.oscillator.as_deref())?)
    }

    /// Every statement behind the part, block by block.
    pub fn facts(&self) -> impl Iterator<Item = &Fact> {
        let whole = self.facts.iter().chain(self.variants.iter().flat_map(|variant| &variant.facts));
        let sources = self.oscillators.iter().flat_map(|source| &source.facts);
        let clocks = self.clocks.values().flat_map(|clock| &clock.facts);
        let timers = self.timers.iter().flat_map(|timer| {
            let dead_time = timer.with.dead_time.iter().flat_map(|dead_time| &dead_time.facts);
            let dividers = timer.with.dividers.iter().flat_map(|stage| &stage.facts);
            let inputs = timer.with.inputs.iter().flat_map(|inputs| &inputs.facts);
            timer.facts.iter().chain(dividers).chain(dead_time).chain(inputs)
        });
        let blocks = self.blocks.values().flat_map(|block| {
            let dividers = block.dividers.iter().flat_map(|stage| &stage.facts);
            let inputs = block.inputs.iter().flat_map(|inputs| &inputs.facts);
            let modes = block.modes.iter().flat_map(|mode| &mode.facts);
            block.facts.iter().chain(dividers).chain(inputs).chain(modes)
        });
        let tree = self.tree.iter().flat_map(ClockTree::facts);
        let pinout = self.pinout.iter().flat_map(|pinout| &pinout.facts);
        let memory = self.memory.iter().flat_map(|memory| &memory.facts);
        let bring_up = self.bring_up.iter().flat_map(BringUp::facts);
        let kernel = self.kernel.iter().flat_map(|kernel| &kernel.facts);
        let around = tree.chain(pinout).chain(memory).chain(bring_up).chain(kernel);
        whole.chain(sources).chain(clocks).chain(timers).chain(blocks).chain(around)
    }

    /// Takes over the blocks of a block file.
    ///
    /// # Errors
    /// A block or a document that the part has already under the same name, or another schema.
    pub fn draw_on(&mut self, file: BlockFile) -> Result<(), check::PartProblem> {
        let clash = |path: check::Path, message: String| Err(check::PartProblem { path, message });
        let root = check::Path::default();
        if file.schema != SCHEMA {
            return clash(root.key("schema"), format!("expected {SCHEMA}, found {}", file.schema));
        }
        for (key, title) in file.documents {
            match self.documents.get(&key) {
                Some(known) if *known != title => {
                    let message = format!("the family file has another document under `{key}`: {known}");
                    return clash(root.key("documents").key(key), message);
                }
                _ => self.documents.insert(key, title),
            };
        }
        for (name, block) in file.blocks {
            if self.blocks.contains_key(&name) {
                let message = format!("there is a block `{name}` in the family file or another block file");
                return clash(root.key("blocks").key(name), message);
            }
            self.blocks.insert(name, block);
        }
        Ok(())
    }

    /// Drops those of the named blocks that no timer is an instance of.
    pub fn drop_unused_blocks(&mut self, names: &[&str]) {
        let used = |name: &String| self.timers.iter().any(|timer| timer.block == *name);
        let unused: Vec<String> = self
            .blocks
            .keys()
            .filter(|name| names.contains(&name.as_str()) && !used(name))
            .cloned()
            .collect();
        for name in &unused {
            self.blocks.remove(name);
        }
    }

    /// The part with only what a computation on one of its timers looks at: of the statements the ones in doubt, and
    /// nothing of what lies around the timers.
    pub fn with_doubts_only(mut self) -> Self {
        let doubts = |facts: &mut Vec<Fact>| facts.retain(|fact| fact.trust == Trust::Unsure);
        doubts(&mut self.facts);
        self.variants.clear();
        self.oscillators.iter_mut().for_each(|source| doubts(&mut source.facts));
        self.clocks.values_mut().for_each(|clock| doubts(&mut clock.facts));
        for timer in &mut self.timers {
            doubts(&mut timer.facts);
            timer.with.dividers.iter_mut().for_each(|stage| doubts(&mut stage.facts));
            timer.with.dead_time.iter_mut().for_each(|dead_time| doubts(&mut dead_time.facts));
        }
        for block in self.blocks.values_mut() {
            doubts(&mut block.facts);
            block.dividers.iter_mut().for_each(|stage| doubts(&mut stage.facts));
            block.modes.iter_mut().for_each(|mode| doubts(&mut mode.facts));
        }
        let told = |clock: &ClockInput| self.oscillator_after_reset(clock).map(|known| known.name.clone());
        let oscillators: Vec<Option<String>> = self.clocks.values().map(told).collect();
        for (clock, oscillator) in self.clocks.values_mut().zip(oscillators) {
            clock.oscillator = oscillator;
        }
        self.tree = None;
        self.pinout = None;
        self.memory = None;
        self.bring_up = None;
        self.kernel = None;
        for block in self.blocks.values_mut() {
            block.registers.values_mut().for_each(Register::forget_place);
            block.order = WriteOrder::default();
        }
        for timer in &mut self.timers {
            timer.with.registers.values_mut().for_each(Register::forget_place);
        }
        self
    }
}

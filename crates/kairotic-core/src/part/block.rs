//! A block: the description that several timers of a part share.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};

use super::Variation;
use super::divider::DividerStage;
use super::fact::Fact;
use super::inputs::Inputs;
use super::law::{Alignment, CompareLaw, Counting, OutputRule, PeriodLaw, UpdatePoint};
use super::register::Register;
use super::write_order::WriteOrder;

/// What several timers have in common. Names may hold `{key}`, which an instance's `vars` fill in.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Block {
    /// What it is, in a few words.
    pub title: String,
    /// Width of the counter in bits.
    pub counter_bits: u32,
    /// A division before all others that no register changes.
    #[serde(default = "undivided")]
    pub fixed_divider: u32,
    /// Its registers by name.
    pub registers: BTreeMap<String, Register>,
    /// The counter that a field of this block chooses, where it can choose.
    #[serde(default)]
    pub base: Option<BaseChoice>,
    /// The dividers between the clock and the counter, one after the other.
    pub dividers: Vec<DividerStage>,
    /// The outputs.
    pub channels: Vec<Channel>,
    /// How an output is inverted, where it can be.
    #[serde(default)]
    pub polarity: Option<Polarity>,
    /// Writes that every use needs.
    #[serde(default)]
    pub setup: Vec<SetupWrite>,
    /// Writes that every used channel needs.
    #[serde(default)]
    pub channel_setup: Vec<ChannelWrite>,
    /// Fields that hold where something lies in memory.
    #[serde(default)]
    pub pointers: Vec<Pointer>,
    /// What it can do with pulses that come in; nothing is known where that is missing.
    #[serde(default)]
    pub inputs: Option<Inputs>,
    /// Which of its fields are not written with the others.
    #[serde(default)]
    pub order: WriteOrder,
    /// The modes, in the order in which equals are preferred.
    pub modes: Vec<Mode>,
    /// Where that stands.
    pub facts: Vec<Fact>,
}

const fn undivided() -> u32 {
    1
}

/// A field that chooses the counter a block works with.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct BaseChoice {
    /// The field.
    pub field: String,
    /// What can be chosen; the first is the default.
    pub choices: Vec<BaseOption>,
}

/// One counter that can be chosen.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct BaseOption {
    /// Lower-case name.
    pub name: String,
    /// The field's value that chooses it.
    pub code: u64,
    /// What it is, in a few words.
    pub title: String,
    /// What the block has differently when it is chosen.
    #[serde(default)]
    pub with: Variation,
}

/// One output.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Channel {
    /// The silicon's own label in lower case.
    pub label: String,
    /// The fields of its compare value, most significant first.
    pub compare: Vec<String>,
    /// The fields that take a new compare value while the counter runs, where those are others: its buffer.
    #[serde(default)]
    pub buffer: Vec<String>,
    /// Its other fields, by the role they play.
    #[serde(default)]
    pub roles: BTreeMap<String, String>,
}

impl Channel {
    /// The fields that a new compare value is written to while the counter runs, most significant first.
    pub fn renewed(&self) -> &[String] {
        if self.buffer.is_empty() { &self.compare } else { &self.buffer }
    }
}

/// How an output is inverted: the field of a role, and its values. The first of each list is written; the others mean
/// the same when they are read.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Polarity {
    /// The role whose field does it.
    pub role: String,
    /// Codes for active high.
    pub high: Vec<u64>,
    /// Codes for active low; none where that is impossible.
    #[serde(default)]
    pub low: Vec<u64>,
}

/// A field that holds where something lies in memory: a value that only the firmware knows.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Pointer {
    /// The field.
    pub field: String,
    /// What lies there: the first of its registers.
    pub to: String,
    /// What it does.
    pub means: String,
}

/// A value that a field must hold.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct SetupWrite {
    /// The fields, most significant first.
    pub slot: Vec<String>,
    /// The value.
    pub value: u64,
    /// Other values with the same effect on the signal, taken for it when they are read.
    #[serde(default)]
    pub also: Vec<u64>,
    /// What it does.
    pub means: String,
}

/// A value that a field of every used channel must hold.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct ChannelWrite {
    /// The role of the field.
    pub role: String,
    /// The value.
    pub value: u64,
    /// Other values with the same effect on the signal, taken for it when they are read.
    #[serde(default)]
    pub also: Vec<u64>,
    /// What it does.
    pub means: String,
}

/// One way for the counter and its outputs to run.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Mode {
    /// Lower-case name, as `--mode` takes it.
    pub name: String,
    /// What it is, in a few words.
    pub title: String,
    /// Where the pulse lies.
    pub alignment: Alignment,
    /// Whether this is a usual mode: edge-aligned, costing no channel.
    #[serde(default)]
    pub usual: bool,
    /// The counter's sequence.
    pub counting: Counting,
    /// What the output does.
    pub output: OutputRule,
    /// Whether the output does the opposite of that rule.
    #[serde(default)]
    pub complement: bool,
    /// Ticks in a period.
    pub period: PeriodLaw,
    /// Where the top comes from.
    pub top: TopSource,
    /// The active time.
    pub compare: CompareLaw,
    /// How the low bits of top and compare are spread over periods, where they are.
    #[serde(default)]
    pub dither: Option<Dither>,
    /// How a pulse is moved away from the start of the period, where it can be.
    #[serde(default)]
    pub start: Option<StartLaw>,
    /// How a constant output is made by other fields than the compare value, where it is.
    #[serde(default)]
    pub ends: Option<ForcedEnds>,
    /// When a written top and compare take effect.
    pub updates: Updates,
    /// The mode's bits.
    #[serde(default)]
    pub setup: Vec<SetupWrite>,
    /// The mode's bits in every used channel.
    #[serde(default)]
    pub channel_setup: Vec<ChannelWrite>,
    /// Where that stands.
    pub facts: Vec<Fact>,
}

impl Mode {
    /// Whether a channel's compare register is this mode's top.
    pub(crate) fn has_top_in(&self, channel: &Channel) -> bool {
        matches!(&self.top, TopSource::Compare { channel: top, .. } if *top == channel.label)
    }

    /// Bits of top and compare that only count on average.
    pub fn dither_bits(&self) -> u32 {
        self.dither.map_or(0, |dither| dither.bits)
    }
}

/// Low bits of top and compare that make single periods and pulses one tick longer. The mode's laws then count in
/// steps of `1 / 2^bits` of a tick, and hold on average over `2^bits` periods.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Dither {
    /// How many bits, 1 to 8.
    pub bits: u32,
    /// Which of the periods are longer.
    pub order: DitherOrder,
}

/// Which of `2^bits` periods are one tick longer, for low bits of `n`.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum DitherOrder {
    /// Period `k` where an accumulator that adds `n` each time carries over.
    Accumulated,
    /// Period `k` where the bits of `k` in reverse order are below `n`.
    BitReversed,
}

impl Dither {
    /// Whether period `k` is one tick longer for low bits of `n`.
    pub fn lengthens(self, k: u64, n: u64) -> bool {
        let size = 1_u64 << self.bits.min(32);
        match self.order {
            DitherOrder::Accumulated => (k % size) * n % size + n >= size,
            DitherOrder::BitReversed => (k % size).reverse_bits() >> (64 - self.bits.min(32)) < n,
        }
    }
}

/// A field that says after how many ticks a pulse starts.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct StartLaw {
    /// The role of the field.
    pub role: String,
    /// Whether the compare register holds the tick at which the pulse ends, and not its length.
    #[serde(default)]
    pub holds_end: bool,
    /// The role of the field that is compared in the channel's place, where another one is: that of the channel next to it.
    #[serde(default)]
    pub end: Option<String>,
    /// Whether a pulse may run on into the next period.
    #[serde(default)]
    pub wraps: bool,
}

/// Fields that make an output constant.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct ForcedEnds {
    /// What makes it never active.
    pub zero: EndWrite,
    /// What makes it always active.
    pub full: EndWrite,
}

/// A field that makes an output constant.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct EndWrite {
    /// The role of the field.
    pub role: String,
    /// Its value where the output is constant.
    pub value: u64,
    /// Its value where it is not.
    pub otherwise: u64,
    /// What it does.
    pub means: String,
}

/// When written values take effect.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Updates {
    /// The top.
    pub top: UpdatePoint,
    /// The compare value.
    pub compare: UpdatePoint,
}

/// Where the top comes from.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum TopSource {
    /// A register of its own.
    Register {
        /// The fields, most significant first.
        slot: Vec<String>,
        /// The smallest legal top.
        min: u64,
        /// The largest, where it is less than the register holds.
        #[serde(default)]
        max: Option<u64>,
    },
    /// The compare register of a channel, which that channel then cannot use.
    Compare {
        /// The channel.
        channel: String,
        /// The smallest legal top.
        min: u64,
        /// The largest, where it is less than the register holds.
        #[serde(default)]
        max: Option<u64>,
        /// Whether that channel's output still toggles.
        #[serde(default)]
        toggles: bool,
    },
    /// A length that no register changes.
    Fixed(u64),
    /// A power of two, whose exponent a register holds. Each exponent becomes a mode of its own, `NAME-10bit`, with a
    /// fixed length.
    PowerOfTwo {
        /// The fields, most significant first.
        slot: Vec<String>,
        /// The smallest exponent.
        min: u32,
        /// The largest exponent, at most 32.
        max: u32,
    },
}

#[cfg(test)]
mod tests {
    use super::*;

    /// The periods of the first `count` that are longer.
    fn longer(bits: u32, order: DitherOrder, n: u64, count: u64) -> Vec<u64> {
        let dither = Dither { bits, order };
        (0..count).filter(|k| dither.lengthens(*k, n)).collect()
    }

    #[test]
    fn an_accumulator_carries_where_a_sum_passes_eight() {
        // 0 3 6 | 9 = 1, 4 7 | 10 = 2, 5 | 8: three in eight, and again from the ninth on.
        assert_eq!(longer(3, DitherOrder::Accumulated, 3, 16), [2, 5, 7, 10, 13, 15]);
        assert!(longer(3, DitherOrder::Accumulated, 0, 16).is_empty());
    }

    #[test]
    fn reversed_bits_below_the_number_are_longer() {
        // Reversed in three bits, 0 to 7 are 0 4 2 6 1 5 3 7: those below three are 0, 2 and 4.
        assert_eq!(longer(3, DitherOrder::BitReversed, 3, 16), [0, 2, 4, 8, 10, 12]);
    }

    #[test]
    fn of_a_full_round_as_many_are_longer_as_the_number_says() {
        for order in [DitherOrder::Accumulated, DitherOrder::BitReversed] {
            for bits in 1..=6 {
                for n in 0..1 << bits {
                    assert_eq!(longer(bits, order, n, 1 << bits).len() as u64, n, "{order:?} {bits} {n}");
                }
            }
        }
    }
}

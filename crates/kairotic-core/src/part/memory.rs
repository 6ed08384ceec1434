//! Where the registers of a part are, and how they are reached.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};

use super::fact::Fact;
use super::register::Register;
use super::{Part, Timer};

/// Where the registers of a part are.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Memory {
    /// What is on the way to them.
    #[serde(default)]
    pub reach: ReachedBy,
    /// Width of an access in bits, where a register does not say it: 8, 16 or 32; the least that holds the register
    /// where this is missing.
    #[serde(default)]
    pub word: Option<u32>,
    /// Addresses by name, where they do not follow from a timer's address and an offset.
    #[serde(default)]
    pub at: BTreeMap<String, u64>,
    /// Where that stands.
    pub facts: Vec<Fact>,
}

/// What is on the way to registers.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum ReachedBy {
    /// The processor's own memory.
    #[default]
    Memory,
    /// An I²C bus; registers of one byte each, the next one following in the same transfer.
    I2c {
        /// The device's address on the bus, seven bits.
        address: u8,
    },
    /// Attributes that a kernel shows as files; values in nanoseconds.
    Attributes,
}

impl Part {
    /// The address of a timer's register; `None` where it is not known.
    pub fn address_of(&self, timer: &Timer, register: &str) -> Option<u64> {
        let memory = self.memory.as_ref()?;
        let named = memory.at.get(&format!("{}{register}", timer.prefix)).or(memory.at.get(register));
        named.copied().or_else(|| {
            let offset = timer.block.registers.get(register)?.at.as_ref()?.value(&BTreeMap::new())?;
            self.instance(&timer.name).ok()?.address.unwrap_or(0).checked_add(offset)
        })
    }

    /// Width of an access to a register in bits.
    pub fn access_bits(&self, register: &Register) -> u32 {
        let word = self.memory.as_ref().and_then(|memory| memory.word);
        register.word.or(word).unwrap_or_else(|| register.bits.next_power_of_two().max(8))
    }
}

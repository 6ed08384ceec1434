//! Registers and their fields, and values spread over several of them.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};

use super::access::{Access, Unlock};
use super::formula::Formula;

/// A register of a block.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Register {
    /// Width in bits, 1 to 64.
    pub bits: u32,
    /// Its fields, each with its bit positions; none where the register is one number.
    #[serde(default)]
    pub fields: BTreeMap<String, Bits>,
    /// How far it is behind the address of its timer; its address where that has none.
    #[serde(default)]
    pub at: Option<Formula>,
    /// Width of an access in bits, where it is not the part's usual one.
    #[serde(default)]
    pub word: Option<u32>,
    /// What it holds after reset.
    #[serde(default)]
    pub reset: u64,
    /// What can be done with it.
    #[serde(default)]
    pub access: Access,
    /// What has to be written right before it.
    #[serde(default)]
    pub unlock: Option<Unlock>,
}

impl Register {
    /// The same register, where it does not say so itself in the place of another.
    pub(crate) fn placed_as(mut self, other: &Self) -> Self {
        self.at = self.at.or_else(|| other.at.clone());
        self
    }

    /// Drops what only somebody who writes it needs.
    pub(crate) fn forget_place(&mut self) {
        *self = Self { bits: self.bits, fields: std::mem::take(&mut self.fields), ..Self::default() };
    }
}

/// Bit positions: `7:6`, or `4` for a single bit.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(try_from = "String", into = "String")]
pub struct Bits {
    /// Position of the lowest bit.
    pub low: u32,
    /// Number of bits.
    pub width: u32,
}

/// A text that gives no bit positions.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("expected bit positions such as `7:6` or `4`, highest first and below 64, found `{0}`")]
pub struct BitsError(String);

impl TryFrom<String> for Bits {
    type Error = BitsError;

    fn try_from(text: String) -> Result<Self, BitsError> {
        let (high, low) = text.split_once(':').unwrap_or((&text, &text));
        match (high.trim().parse::<u32>(), low.trim().parse::<u32>()) {
            (Ok(high), Ok(low)) if low <= high && high < 64 => Ok(Self { low, width: high - low + 1 }),
            _ => Err(BitsError(text)),
        }
    }
}

impl From<Bits> for String {
    fn from(bits: Bits) -> Self {
        match bits.width {
            1 => bits.low.to_string(),
            width => format!("{}:{}", bits.low + width - 1, bits.low),
        }
    }
}

/// A place that holds a number: a whole register (`PSC`) or a field of one (`CTRLA.PRESCALER`).
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord)]
pub struct Field {
    /// The register.
    pub register: String,
    /// The field, where the register has fields.
    pub field: Option<String>,
    /// Position of the lowest bit in the register.
    pub low: u32,
    /// Number of bits.
    pub width: u32,
}

impl Field {
    /// The name that outputs print and `decode` takes.
    pub fn name(&self) -> String {
        match &self.field {
            Some(field) => format!("{}.{field}", self.register),
            None => self.register.clone(),
        }
    }

    /// The largest value that fits.
    pub fn largest(&self) -> u64 {
        largest(self.width)
    }

    /// Its bits in the register.
    pub fn mask(&self) -> u64 {
        self.in_place(self.largest())
    }

    /// A value in its place in the register.
    pub fn in_place(&self, value: u64) -> u64 {
        value.checked_shl(self.low).unwrap_or(0)
    }
}

/// The place that `REGISTER` or `REGISTER.FIELD` names among `registers`, if there is one.
pub(crate) fn find(registers: &BTreeMap<String, Register>, name: &str) -> Option<Field> {
    let (register, field) = match name.split_once('.') {
        Some((register, field)) => (register, Some(field)),
        None => (name, None),
    };
    let found = registers.get(register)?;
    let (low, width) = match field {
        Some(field) => found.fields.get(field).map(|bits| (bits.low, bits.width))?,
        None => (0, found.bits),
    };
    Some(Field { register: register.to_owned(), field: field.map(ToOwned::to_owned), low, width })
}

/// Every name that [`find`] takes: registers and their fields.
pub(crate) fn names(registers: &BTreeMap<String, Register>) -> Vec<String> {
    registers
        .iter()
        .flat_map(|(name, register)| {
            let fields = register.fields.keys().map(move |field| format!("{name}.{field}"));
            std::iter::once(name.clone()).chain(fields)
        })
        .collect()
}

/// The largest value that fits `bits` bits.
pub fn largest(bits: u32) -> u64 {
    if bits >= 64 { u64::MAX } else { (1 << bits) - 1 }
}

/// The fields that together hold one number, most significant first.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Slot(pub Vec<Field>);

impl Slot {
    /// The width of the number in bits.
    pub fn width(&self) -> u32 {
        self.0.iter().map(|field| field.width).sum()
    }

    /// The largest number that fits.
    pub fn largest(&self) -> u64 {
        largest(self.width())
    }

    /// The number taken apart: each field with its own value.
    pub fn split(&self, number: u64) -> Vec<(&Field, u64)> {
        let mut below = self.width();
        self.0
            .iter()
            .map(|field| {
                below -= field.width;
                (field, number.checked_shr(below).unwrap_or(0) & field.largest())
            })
            .collect()
    }

    /// The number put together from its fields' values, in the same order; `None` if one is missing.
    pub fn join(&self, mut value_of: impl FnMut(&Field) -> Option<u64>) -> Option<u64> {
        self.0.iter().try_fold(0_u64, |number, field| {
            Some(number.checked_shl(field.width).unwrap_or(0) | value_of(field)?)
        })
    }

    /// The fields' names with `:` between them.
    pub fn name(&self) -> String {
        self.0.iter().map(Field::name).collect::<Vec<_>>().join(":")
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn slot() -> Slot {
        let field = |name: &str, low, width| Field { register: name.into(), field: None, low, width };
        Slot(vec![field("CCPR1L", 0, 8), field("CCP1CON", 4, 2)])
    }

    #[test]
    fn a_split_value_comes_together_again() {
        let slot = slot();
        let parts: Vec<u64> = slot.split(201).into_iter().map(|(_, value)| value).collect();
        assert_eq!(parts, [50, 1]);
        let mut parts = parts.into_iter();
        assert_eq!(slot.join(|_| parts.next()), Some(201));
        assert_eq!(slot.largest(), 1023);
    }

    #[test]
    fn bit_positions_are_read_and_shown() {
        for text in ["7:6", "4", "31:0"] {
            assert_eq!(String::from(Bits::try_from(text.to_owned()).unwrap()), text);
        }
        for text in ["6:7", "64", "", "a", "7-6"] {
            assert!(Bits::try_from(text.to_owned()).is_err(), "{text}");
        }
    }
}

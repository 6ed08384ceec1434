//! Dividers between the clock and the counter.

use serde::{Deserialize, Serialize};

use super::fact::Fact;
use super::law::UpdatePoint;
use crate::quantity::Rational;

/// One divider.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct DividerStage {
    /// The fields that hold it, most significant first.
    pub slot: Vec<String>,
    /// The divisions it can make.
    pub steps: Steps,
    /// When a change takes effect.
    pub update: UpdatePoint,
    /// Where that stands.
    pub facts: Vec<Fact>,
}

/// The divisions that a divider can make, and how each is written.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Steps {
    /// Every whole number from `min` to `max`.
    Range {
        /// The smallest.
        min: u64,
        /// The largest.
        max: u64,
        /// Whether one less than the division is written.
        #[serde(default)]
        minus_one: bool,
    },
    /// A few numbers, each with its code.
    List(Vec<Tap>),
    /// A fixed-point number: the slot holds it in units of `1 / 2^fraction_bits`.
    Fraction {
        /// The smallest, in those units.
        min: u64,
        /// The largest, in those units.
        max: u64,
        /// Bits after the point, 1 to 16.
        fraction_bits: u32,
        /// Whether one whole less than the number is written.
        #[serde(default)]
        minus_one: bool,
    },
}

impl Steps {
    /// Bits after the point.
    pub fn fraction_bits(&self) -> u32 {
        match self {
            Self::Fraction { fraction_bits, .. } => *fraction_bits,
            _ => 0,
        }
    }

    /// How many values can be written.
    pub fn count(&self) -> u64 {
        match self {
            Self::Range { min, max, .. } | Self::Fraction { min, max, .. } => {
                max.saturating_sub(*min).saturating_add(1)
            }
            Self::List(taps) => taps.len() as u64,
        }
    }

    /// Whether a number can be written, in units of `1 / 2^fraction_bits`.
    pub fn has(&self, number: u64) -> bool {
        match self {
            Self::Range { min, max, .. } | Self::Fraction { min, max, .. } => (*min..=*max).contains(&number),
            Self::List(taps) => taps.iter().any(|tap| u64::from(tap.by) == number),
        }
    }

    /// The division that a written value makes; `None` for a value that is not legal.
    pub fn meaning(&self, written: u64) -> Option<Rational> {
        match self {
            Self::Range { min, max, minus_one } => {
                let by = written.checked_add(u64::from(*minus_one))?;
                (*min..=*max).contains(&by).then(|| Rational::from(by))
            }
            Self::List(taps) => taps.iter().find(|tap| tap.code == written).map(|tap| tap.by.into()),
            Self::Fraction { min, max, fraction_bits, .. } => {
                let units = written.checked_add(self.written_less())?;
                (*min..=*max)
                    .contains(&units)
                    .then(|| Rational::new(units.into(), 1_i128.checked_shl(*fraction_bits)?))
                    .flatten()
            }
        }
    }

    /// How much less than the number itself is written, in the slot's units.
    pub fn written_less(&self) -> u64 {
        match self {
            Self::Range { minus_one, .. } => (*minus_one).into(),
            Self::Fraction { minus_one, fraction_bits, .. } => {
                u64::from(*minus_one).checked_shl(*fraction_bits).unwrap_or(0)
            }
            Self::List(_) => 0,
        }
    }

    /// Every number with what is written for it, smallest first, in units of `1 / 2^fraction_bits`; a list in its own
    /// order.
    pub fn every(&self) -> Vec<(u64, u64)> {
        match self {
            Self::Range { min, max, .. } | Self::Fraction { min, max, .. } => {
                (*min..=*max).map(|number| (number, number.saturating_sub(self.written_less()))).collect()
            }
            Self::List(taps) => taps.iter().map(|tap| (tap.by.into(), tap.code)).collect(),
        }
    }

    /// The values that may be written, for messages.
    pub fn legal_codes(&self) -> String {
        match self {
            Self::Range { min, max, .. } | Self::Fraction { min, max, .. } => {
                let less = self.written_less();
                format!("{}..{}", min.saturating_sub(less), max.saturating_sub(less))
            }
            Self::List(taps) => taps.iter().map(|tap| tap.code.to_string()).collect::<Vec<_>>().join(", "),
        }
    }
}

/// One position of a tapped divider.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Tap {
    /// The division.
    pub by: u32,
    /// What is written for it.
    pub code: u64,
}

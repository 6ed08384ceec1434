//! What the two off-by-one findings have in common: a register that holds a count where one less is written.

use std::fmt;

use serde::Serialize;

use super::{Remedy, Severity};
use crate::quantity::Frequency;

/// A register that is one off.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum RegisterSlip {
    /// It was decoded, and holds one too much.
    Decoded {
        /// How bad it is.
        #[serde(skip)]
        severity: Severity,
        /// The register or field.
        field: String,
        /// What it holds; at least 1.
        holds: u64,
        /// What that makes: ticks a period, or a division.
        makes: u64,
        /// The other register's correction, where both are needed: its name, and what to write.
        together_with: Option<(String, u64)>,
        /// The frequency as it is.
        found: Frequency,
        /// The frequency with the correction.
        corrected: Frequency,
    },
    /// A measurement shows that it holds one more, or one less, than was planned.
    Measured {
        /// The register or field.
        field: String,
        /// What was planned.
        planned: u64,
        /// What it seems to hold.
        holds: u64,
        /// The frequency that was measured.
        measured: Frequency,
        /// The frequency that was planned.
        expected: Frequency,
    },
}

impl RegisterSlip {
    pub(super) const fn severity(&self) -> Severity {
        match self {
            Self::Decoded { severity, .. } => *severity,
            Self::Measured { .. } => Severity::Error,
        }
    }

    pub(super) fn remedy(&self) -> Remedy {
        let (field, value) = match self {
            Self::Decoded { field, holds, .. } => (field, holds.saturating_sub(1)),
            Self::Measured { field, planned, .. } => (field, *planned),
        };
        Remedy::WriteRegister { field: field.clone(), value, keep: Vec::new() }
    }

    /// The sentence; `makes` and `unit` are the words around what the register makes.
    pub(super) fn write(&self, f: &mut fmt::Formatter<'_>, makes: &str, unit: &str) -> fmt::Result {
        match self {
            Self::Decoded { field, holds, makes: count, together_with, found, corrected, .. } => {
                write!(
                    f,
                    "{field}={holds} {makes} {count}{unit}, and the frequency is {}",
                    found.rounded(6)
                )?;
                write!(f, "; with {field}={}", holds.saturating_sub(1))?;
                if let Some((field, value)) = together_with {
                    write!(f, " and {field}={value}")?;
                }
                write!(f, " it is {}", corrected.rounded(6))
            }
            Self::Measured { field, planned, holds, measured, expected } => write!(
                f,
                "the pin has {} where {} was planned, as with {field}={holds} instead of {field}={planned}",
                measured.rounded(6),
                expected.rounded(6)
            ),
        }
    }
}

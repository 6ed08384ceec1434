//! What can be done with a register.

use serde::{Deserialize, Serialize};

/// What can be done with a register.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Access {
    /// It is read and written.
    #[default]
    ReadWrite,
    /// It is only written; what is read means nothing.
    WriteOnly,
    /// It is only read.
    ReadOnly,
    /// It is set when the part is programmed, and not by its firmware.
    Programmed,
    /// It is a word of a buffer in memory, which the part reads by itself.
    Buffer,
}

/// A write that has to stand right before another.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Unlock {
    /// The register that is written first.
    pub register: String,
    /// What is written to it.
    pub value: u64,
    /// Within how many clock cycles the other write has to follow.
    pub within: u32,
}

//! Where a statement of the catalogue comes from, and how far it can be trusted.

use serde::{Deserialize, Serialize};

/// One statement about the silicon with its source.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Fact {
    /// The statement.
    pub says: String,
    /// Key of the document it stands in.
    pub document: String,
    /// How it was checked.
    pub trust: Trust,
    /// What depends on it, where that is less than everything the fact is attached to.
    #[serde(default)]
    pub concerns: Option<Concern>,
}

/// How a fact was checked.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Trust {
    /// Read in the named document or measured.
    Verified,
    /// Remembered from the named document.
    Memory,
    /// The document is unclear, or memory of it is; outputs that depend on it say so.
    Unsure,
}

impl Trust {
    /// The words that outputs use.
    pub const fn word(self) -> &'static str {
        match self {
            Self::Verified => "verified",
            Self::Memory => "from memory",
            Self::Unsure => "unsure",
        }
    }
}

/// The part of a mode's behaviour that a fact is about.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Concern {
    /// The compare value that should give a constant inactive output.
    Zero,
    /// The compare value that should give a constant active output.
    Full,
    /// A compare value above the top.
    PastTop,
    /// The inverted output.
    Inverted,
}

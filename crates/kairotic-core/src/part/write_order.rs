//! The order in which a block's fields are written, and what goes between.

use serde::{Deserialize, Serialize};

use super::field_is::FieldIs;
use crate::quantity::Time;

/// The fields that are written before or after the others, each group in one go. An entry is a register, a field, or
/// the start of names with a `*` behind it.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct WriteOrder {
    /// Those that the others hang on.
    #[serde(default)]
    pub first: Vec<String>,
    /// Those that load what is buffered.
    #[serde(default)]
    pub load: Vec<String>,
    /// Those that put the signal on its output.
    #[serde(default)]
    pub outputs: Vec<String>,
    /// Those that start the counter.
    #[serde(default)]
    pub start: Vec<String>,
    /// Those that are written anew after each new compare value, to take it over.
    #[serde(default)]
    pub update: Vec<String>,
    /// What has to be waited for after a register is written: field and value.
    #[serde(default)]
    pub waits: Vec<WriteWait>,
    /// What keeps new compare values from being taken over, where something does: those of several channels then come
    /// together.
    #[serde(default)]
    pub hold: Option<Hold>,
}

/// What keeps buffered values where they are, and what lets them go.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Hold {
    /// The field that holds them.
    pub begin: FieldIs,
    /// The field that lets them go.
    pub end: FieldIs,
    /// What it does.
    pub means: String,
}

impl WriteOrder {
    /// Whether an entry means a field, by the field's whole name.
    pub fn means(entry: &str, field: &str) -> bool {
        match entry.strip_suffix('*') {
            Some(start) => field.starts_with(start),
            None => field.strip_prefix(entry).is_some_and(|rest| rest.is_empty() || rest.starts_with('.')),
        }
    }
}

/// What has to be waited for after a register is written.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct WriteWait {
    /// The register.
    pub after: String,
    /// The field to wait for, where there is one.
    #[serde(default)]
    pub until: Option<FieldIs>,
    /// The time to wait, where there is one.
    #[serde(default)]
    pub delay: Option<Time>,
    /// What it is for.
    pub means: String,
}

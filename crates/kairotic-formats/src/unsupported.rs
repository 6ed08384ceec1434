//! The list of timers that are left out of the catalogue, with what is missing.

use serde::Deserialize;

/// A timer, or a mode of one, that is left out.
#[derive(Debug, Clone, PartialEq, Eq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct LeftOut {
    /// What it is.
    pub what: String,
    /// What is not known, or cannot be said.
    pub missing: String,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct List {
    unsupported: Vec<LeftOut>,
}

/// Reads the list.
///
/// # Errors
/// The parser's complaint.
pub fn read(text: &str) -> Result<Vec<LeftOut>, toml::de::Error> {
    toml::from_str(text).map(|List { unsupported }| unsupported)
}

//! JSON: how exact numbers and the frame of an object are written.

use kairotic_core::quantity::Rational;
use serde::Serialize;

use super::JSON_SCHEMA;

/// What every object begins with.
#[derive(Debug, Clone, Copy, Serialize)]
pub struct Head {
    /// The version of the schema.
    kairotic: u32,
    /// The command that made it.
    command: &'static str,
}

impl Head {
    /// The head of a command's object.
    pub fn of(command: &'static str) -> Self {
        Self { kairotic: JSON_SCHEMA, command }
    }
}

/// An exact number: `"p/q"`, or `"p"` where it is whole.
pub fn exact(value: Rational) -> String {
    value.to_string()
}

/// The same for a number that may be missing.
pub fn exact_or_null(value: Option<Rational>) -> Option<String> {
    value.map(exact)
}

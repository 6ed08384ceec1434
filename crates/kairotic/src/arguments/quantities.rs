//! From an option's text to a quantity, with the option's name in the complaint.

use kairotic_core::quantity::{Deviation, parse};

use crate::fault::{Fault, Result};

/// Reads an option's value with a parser of the core.
///
/// # Errors
/// [`Fault::Option`].
pub fn read<T>(
    option: &'static str,
    text: &str,
    parse: impl FnOnce(&str) -> kairotic_core::Result<T>,
) -> Result<T> {
    parse(text).map_err(|error| Fault::Option { option, error: Box::new(error) })
}

/// Reads `--within`.
///
/// # Errors
/// [`Fault::Option`].
pub fn within(text: &str) -> Result<Deviation> {
    read("within", text, parse::quantity)
}

//! From an option's text to a quantity, with the option's name in the complaint.

use kairotic_core::quantity::{Deviation, parse};
use kairotic_core::setting::Aim;

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

/// Reads `--freq` or `--period`, of which one is given.
///
/// # Errors
/// [`Fault::Option`].
pub fn aim(freq: Option<&str>, period: Option<&str>) -> Result<Aim> {
    Ok(match (freq, period) {
        (_, Some(text)) => Aim::Period(read("period", text, parse::quantity)?),
        (Some(text), _) if text.contains("..") => Aim::Window(read("freq", text, parse::range)?),
        (text, _) => Aim::Frequency(read("freq", text.unwrap_or_default(), parse::quantity)?),
    })
}

/// Reads `--within`.
///
/// # Errors
/// [`Fault::Option`].
pub fn within(text: &str) -> Result<Deviation> {
    read("within", text, parse::quantity)
}

//! From an option's text to a quantity, with the option's name in the complaint.

use kairotic_core::quantity::{Deviation, Dimension, Frequency, Quantity, Tolerance, parse};

use kairotic_core::quantity::QuantityError;

use crate::fault::{Fault, Result};

/// Reads an option's value with a parser of the core.
///
/// # Errors
/// [`Fault::Option`].
pub fn read<T, E: Into<kairotic_core::Error>>(
    option: &'static str,
    text: &str,
    parse: impl FnOnce(&str) -> kairotic_core::Result<T, E>,
) -> Result<T> {
    parse(text).map_err(|error| Fault::Option { option, error: Box::new(error.into()) })
}

/// Reads a quantity that has to be greater than zero.
///
/// # Errors
/// [`Fault::Option`].
pub fn positive<D: Dimension>(option: &'static str, text: &str) -> Result<Quantity<D>> {
    read(option, text, |text| parse::quantity(text)?.positive())
}

/// Reads a clock: a frequency greater than zero, perhaps with a tolerance.
///
/// # Errors
/// [`Fault::Option`].
pub fn real_clock(option: &'static str, text: &str) -> Result<Tolerance<Frequency>> {
    read(option, text, |text| {
        let clock: Tolerance<Frequency> = parse::tolerance(text)?;
        clock.nominal.positive().map(|_| clock)
    })
}

/// Reads `--within`.
///
/// # Errors
/// [`Fault::Option`].
pub fn within(text: &str) -> Result<Deviation> {
    read("within", text, |text| {
        let within: Deviation = parse::quantity(text)?;
        if within < Deviation::ZERO {
            return Err(QuantityError::NotPositive { quantity: "tolerance", value: within.told() });
        }
        Ok(within)
    })
}

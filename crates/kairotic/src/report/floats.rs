//! Measured numbers, which are floats, as text.

use kairotic_core::quantity::{Dimension, Quantity, Rational};

/// The unit that a time in seconds is best told in, and its worth.
pub fn unit(seconds: f64) -> (&'static str, f64) {
    const UNITS: [(&str, f64); 4] = [("s", 1.0), ("ms", 1e-3), ("us", 1e-6), ("ns", 1e-9)];
    UNITS.into_iter().find(|(_, worth)| seconds.abs() >= *worth).unwrap_or(("ps", 1e-12))
}

/// A measured number as text with a unit.
pub fn shown<D: Dimension + Copy>(value: f64, digits: usize) -> String {
    Rational::measured(value).map(|value| Quantity::<D>::new(value).rounded(digits)).unwrap_or_default()
}

/// The parts of a duration that no tick can resolve are not shown: digits down to a tenth of a tick.
pub fn digits(value: f64, tick: f64) -> usize {
    let wanted = (value.abs() / tick).max(1.0).log10().floor() as usize + 2;
    wanted.clamp(3, 12)
}

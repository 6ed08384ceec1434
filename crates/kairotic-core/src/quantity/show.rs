//! From an exact quantity to text: exactly, or to a number of digits.

use super::Rational;
use super::dimension::{Dimension, Unit};

/// Decimal places beyond which an exact decimal is harder to read than its fraction.
const LONGEST_EXACT_FRACTION: u32 = 12;

/// The shortest exact text, for example `25 kHz`, `1.5 ms` or `800/7 Hz`. Reading it back gives the same number.
pub fn exact<D: Dimension>(value: Rational) -> String {
    let unit = fitting_unit(value, D::UNITS);
    match in_unit(value, unit).and_then(|scaled| decimal(scaled, LONGEST_EXACT_FRACTION)) {
        Some(text) => format!("{text} {}", unit.symbol),
        None => fraction::<D>(value),
    }
}

/// The exact decimal if it has at most twelve places, else the value to nine significant digits.
pub fn told<D: Dimension>(value: Rational) -> String {
    let unit = fitting_unit(value, D::UNITS);
    match in_unit(value, unit).and_then(|scaled| decimal(scaled, LONGEST_EXACT_FRACTION)) {
        Some(text) => format!("{text} {}", unit.symbol),
        None => rounded::<D>(value, 9),
    }
}

/// The value to `digits` significant digits, for example `48.78 Hz`; exact digits are never padded with zeros.
pub fn rounded<D: Dimension>(value: Rational, digits: usize) -> String {
    let unit = fitting_unit(value, D::UNITS);
    format!("{} {}", significant(value.approx() / unit.worth.approx(), digits), unit.symbol)
}

/// A bare number to `digits` significant digits, without trailing zeros after the point.
pub fn significant(value: f64, digits: usize) -> String {
    if value == 0.0 || !value.is_finite() {
        return if value == 0.0 { "0".to_owned() } else { value.to_string() };
    }
    let magnitude = value.abs().log10().floor() as i64;
    let places = usize::try_from(digits as i64 - 1 - magnitude).unwrap_or(0);
    let text = format!("{value:.places$}");
    if text.contains('.') { text.trim_end_matches('0').trim_end_matches('.').to_owned() } else { text }
}

/// The number of digits that say a terminating decimal exactly, zeros at its two ends not counted; `None` where the
/// decimal does not terminate or is out of reach.
pub fn significant_digits(value: Rational) -> Option<usize> {
    let (mantissa, _) = terminating(value, 36)?;
    let digits = mantissa.unsigned_abs().to_string();
    Some(digits.trim_end_matches('0').len().max(1))
}

/// The exact decimal with at most `places` digits after the point, if there is one.
pub fn decimal(value: Rational, places: u32) -> Option<String> {
    let (mantissa, places) = terminating(value, places)?;
    let sign = if mantissa < 0 { "-" } else { "" };
    let digits = format!("{:0>width$}", mantissa.unsigned_abs(), width = places as usize + 1);
    let (whole, fraction) = digits.split_at_checked(digits.len() - places as usize)?;
    Some(if fraction.is_empty() { format!("{sign}{whole}") } else { format!("{sign}{whole}.{fraction}") })
}

/// `value = mantissa / 10^places` with the fewest places, at most `limit`.
fn terminating(value: Rational, limit: u32) -> Option<(i128, u32)> {
    let (mut twos, mut fives, mut rest) = (0_u32, 0_u32, value.denominator());
    while rest % 2 == 0 {
        (rest, twos) = (rest / 2, twos + 1);
    }
    while rest % 5 == 0 {
        (rest, fives) = (rest / 5, fives + 1);
    }
    let places = twos.max(fives);
    if rest != 1 || places > limit {
        return None;
    }
    let scale = 10_i128.checked_pow(places)?;
    let mantissa = value.numerator().checked_mul(scale / value.denominator())?;
    Some((mantissa, places))
}

fn fraction<D: Dimension>(value: Rational) -> String {
    // The base unit always works: the value is a number of it.
    let base = D::UNITS.iter().find(|unit| unit.worth == Rational::ONE).or(D::UNITS.first());
    match base.and_then(|unit| Some((in_unit(value, *unit)?, unit.symbol))) {
        Some((scaled, symbol)) => format!("{scaled} {symbol}"),
        None => format!("{value}"),
    }
}

fn in_unit(value: Rational, unit: Unit) -> Option<Rational> {
    value.times(unit.inverse)
}

/// The largest unit of which `value` holds at least one; zero takes the base unit, smaller values the smallest unit.
fn fitting_unit(value: Rational, units: &[Unit]) -> Unit {
    const BARE: Unit = Unit { symbol: "", worth: Rational::ONE, inverse: Rational::ONE };
    let fits = |unit: &&Unit| match value.is_zero() {
        true => unit.worth == Rational::ONE,
        false => value.magnitude() >= unit.worth,
    };
    units
        .iter()
        .find(fits)
        .or(if value.is_zero() { units.first() } else { units.last() })
        .copied()
        .unwrap_or(BARE)
}

//! Quantities and errors in the words that the pages share.

use kairotic_core::explain::ArithmeticLine;
use kairotic_core::part::ClockInput;
use kairotic_core::quantity::{Deviation, Dimension, Frequency, Quantity, Rational, Time, Tolerance, show};
use kairotic_core::target::Active;

use crate::format::{Cell, Line};

/// The exact text where it is short, else six digits.
pub fn brief<D: Dimension + Copy>(quantity: Quantity<D>) -> String {
    let exact = quantity.told();
    if exact.contains('/') || exact.len() > 12 { quantity.rounded(6) } else { exact }
}

/// Where the clock comes from, with its tolerance.
pub fn clock(clock: Tolerance<Frequency>, default: bool) -> String {
    let tolerance = match clock.deviation == Deviation::ZERO {
        true => String::new(),
        false => format!(" ± {}", clock.deviation.told()),
    };
    let origin = if default { ", the clock after reset" } else { "" };
    format!("from {}{tolerance}{origin}", brief(clock.nominal))
}

/// An error with its sign, or that there is none.
pub fn frequency_error(error: Deviation, exact: bool) -> String {
    match (error == Deviation::ZERO, exact) {
        (true, true) => "exact".to_owned(),
        (true, false) => "exact on average: single periods jitter".to_owned(),
        _ => signed(error),
    }
}

/// A signal's error with its sign, or that there is none.
pub fn signal_error(error: Active, exact: bool) -> String {
    let (zero, text) = match error {
        Active::Duty(error) => (error.value().is_zero(), signed(error)),
        Active::Pulse(error) => (error.value().is_zero(), signed(error)),
    };
    match (zero, exact) {
        (true, true) => "exact".to_owned(),
        (true, false) => "exact on average".to_owned(),
        _ => text,
    }
}

/// An error of a time with its sign, or that there is none.
pub fn time_error(error: Time) -> String {
    if error.value().is_zero() { "exact".to_owned() } else { signed(error) }
}

/// Four digits with a sign.
fn signed<D: Dimension + Copy>(quantity: Quantity<D>) -> String {
    let sign = if quantity.value().is_positive() { "+" } else { "" };
    format!("{sign}{}", quantity.rounded(4))
}

/// A whole number with its noun.
pub fn counted(number: u64, noun: &str) -> String {
    if number == 1 { format!("1 {noun}") } else { format!("{number} {noun}s") }
}

/// log2 of a number of steps.
pub fn bits(steps: u64) -> String {
    format!("{} bit", show::significant((steps as f64).log2(), 3))
}

/// A division as it is read aloud: `40`, or `39 + 1/16`.
pub fn division(divider: Rational) -> String {
    divider.mixed()
}

/// The arithmetic, line by line.
pub fn working(sums: &[ArithmeticLine]) -> impl Iterator<Item = Line> + '_ {
    sums.iter().map(|ArithmeticLine { name, sum }| {
        Line::Row(vec![Cell::left(name.clone()), Cell::left(sum.clone())])
    })
}

/// What a clock does after reset, in a few words.
pub fn after_reset(clock: &ClockInput) -> String {
    match &clock.off {
        None => format!("{} after reset", clock.default),
        // The field's own name will do: its register stands beside its values.
        Some(off) => format!("off until {} is set", off.field.rsplit('.').next().unwrap_or(&off.field)),
    }
}

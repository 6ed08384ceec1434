//! Words and numbers that code in every language has.

use kairotic_core::quantity::{Rational, Time};

/// What a number of levels counts.
pub(super) fn part_of_unit(unit: &str, per_unit: u32) -> String {
    match per_unit {
        1 => format!("1 {unit}"),
        10 => format!("0.1 {unit}"),
        100 => format!("0.01 {unit}"),
        _ => format!("1/{per_unit} {unit}"),
    }
}

/// A time in nanoseconds, rounded up; `None` for one that does not fit.
pub(super) fn nanoseconds(time: Time) -> Option<u64> {
    let exact = time.value().times(Rational::whole(1_000_000_000))?;
    u64::try_from(exact.ceiling()).ok()
}

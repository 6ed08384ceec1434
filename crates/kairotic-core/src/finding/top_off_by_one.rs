//! The top register holds the number of ticks instead of one less.

use super::Finding;
use super::off_by_one::{Correction, Seen};
use crate::quantity::Frequency;

/// The finding's name.
pub const NAME: &str = "top-off-by-one";

/// The register is one too large: `made` is the ticks that it makes.
pub fn new(correction: &Correction<'_>, made: u64) -> Finding {
    correction.finding(NAME, &format!("makes {made} ticks a period"))
}

/// A pin has `measured` where `planned` was meant: the top register seems to hold `by` more than the `written` that was planned.
pub fn seen(field: &str, written: u64, by: i64, measured: Frequency, planned: Frequency) -> Finding {
    Seen { field, written, by, measured, planned }.finding(NAME)
}

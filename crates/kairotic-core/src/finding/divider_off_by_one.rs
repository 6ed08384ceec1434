//! The divider's register holds the division instead of one less.

use super::Finding;
use super::off_by_one::{Correction, Seen};
use crate::quantity::Frequency;

/// The finding's name.
pub const NAME: &str = "divider-off-by-one";

/// The register is one too large: `made` is the division that it makes.
pub fn new(correction: &Correction<'_>, made: u64) -> Finding {
    correction.finding(NAME, &format!("divides by {made}"))
}

/// A pin has `measured` where `planned` was meant: the divider's register seems to hold `by` more than the `written` that was planned.
pub fn seen(field: &str, written: u64, by: i64, measured: Frequency, planned: Frequency) -> Finding {
    Seen { field, written, by, measured, planned }.finding(NAME)
}

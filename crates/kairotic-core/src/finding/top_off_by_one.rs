//! The top register holds the number of ticks instead of one less.

use super::Finding;
use super::off_by_one::Correction;

/// The finding's name.
pub const NAME: &str = "top-off-by-one";

/// The register is one too large: `made` is the ticks that it makes.
pub fn new(correction: &Correction<'_>, made: u64) -> Finding {
    correction.finding(NAME, &format!("makes {made} ticks a period"))
}

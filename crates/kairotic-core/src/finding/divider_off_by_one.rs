//! The divider's register holds the division instead of one less.

use super::Finding;
use super::off_by_one::Correction;

/// The finding's name.
pub const NAME: &str = "divider-off-by-one";

/// The register is one too large: `made` is the division that it makes.
pub fn new(correction: &Correction<'_>, made: u64) -> Finding {
    correction.finding(NAME, &format!("divides by {made}"))
}

//! A measured frequency is explained by more than one thing, and the measurement cannot tell them apart.

use super::{Finding, Severity};
use crate::quantity::Frequency;

/// The finding's name.
pub const NAME: &str = "cause-undecided";

/// The pin has `measured` where `planned` was meant, which each of `explanations` would make; `would` would tell them apart.
pub fn new(
    signal: &str,
    measured: Frequency,
    planned: Frequency,
    explanations: &[String],
    would: &str,
) -> Finding {
    Finding {
        name: NAME,
        severity: Severity::Warning,
        message: format!(
            "{signal} has {}, planned {}: {} would make that, and the measurement cannot tell which",
            measured.rounded(9),
            planned.rounded(9),
            explanations.join(", or ")
        ),
        remedy: format!("{would} would tell them apart"),
    }
}

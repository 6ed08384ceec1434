//! Periods differ by no more than the recorder's samples make them differ.

use super::{Finding, Severity};
use crate::quantity::Time;

/// The finding's name.
pub const NAME: &str = "below-the-floor";

/// The signal's jitter cannot be seen in steps of `floor`.
pub fn new(signal: &str, floor: Time) -> Finding {
    Finding {
        name: NAME,
        severity: Severity::Note,
        message: format!(
            "the jitter of {signal} is below the floor: the capture has steps of {}",
            floor.rounded(4)
        ),
        remedy: "more samples a second, if the jitter matters".to_owned(),
    }
}

//! The clock is above the highest that the silicon is specified for.

use super::{Finding, Severity};
use crate::part::ClockInput;
use crate::quantity::Frequency;

/// The finding's name.
pub const NAME: &str = "clock-above-maximum";

/// `clock` is above the maximum of `input`, and the user accepted that.
pub fn new(clock: Frequency, input: &ClockInput) -> Finding {
    Finding {
        name: NAME,
        severity: Severity::Warning,
        message: format!("{clock} is above the {} that {} may have", input.maximum, input.title),
        remedy: format!("stay at or below {}: beyond it nothing is promised", input.maximum),
    }
}

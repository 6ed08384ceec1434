//! The clock is further off than it is stated to be.

use super::{Finding, Severity};
use crate::quantity::Deviation;

/// The finding's name.
pub const NAME: &str = "clock-off";

/// The signal is `off` by its clock, which is stated to be within `stated`.
pub fn new(signal: &str, off: Deviation, stated: Deviation) -> Finding {
    Finding {
        name: NAME,
        severity: Severity::Warning,
        message: format!("{signal} is off by {}, and its clock should be within {}", off.rounded(4), stated.told()),
        remedy: "measure --fit-clock tells what the clock has, and derives for it; or another oscillator is running"
            .to_owned(),
    }
}

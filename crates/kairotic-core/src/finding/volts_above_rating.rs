//! A motor is given more volts than it is made for.

use super::{Finding, Severity};
use crate::quantity::{Duty, Voltage};

/// The finding's name.
pub const NAME: &str = "volts-above-rating";

/// A duty of `duty` gives `load` `average` where it is made for `rated`; `most` is the duty that gives just that.
pub fn new(load: &str, average: Voltage, rated: Voltage, duty: Duty, most: Duty) -> Finding {
    Finding {
        name: NAME,
        severity: Severity::Error,
        message: format!(
            "{} give {load} {} on average, above its {}",
            duty.rounded(6),
            average.rounded(4),
            rated.told()
        ),
        remedy: format!("at most {} at this supply", most.rounded(6)),
    }
}

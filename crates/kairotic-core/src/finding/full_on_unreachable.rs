//! 100 % cannot be reached: the compare value for it does not fit, or the mode has none.

use super::{Finding, Severity};
use crate::quantity::{Duty, Time};

/// The finding's name.
pub const NAME: &str = "full-on-unreachable";

/// The highest duty of `channel` is `highest`, which leaves a gap of `gap`.
pub fn new(severity: Severity, channel: &str, highest: Duty, gap: Time, remedy: String) -> Finding {
    Finding {
        name: NAME,
        severity,
        message: format!(
            "channel {channel} cannot make 100 %: its highest duty is {}, a gap of {} in every period",
            highest.rounded(6),
            gap.rounded(4)
        ),
        remedy,
    }
}

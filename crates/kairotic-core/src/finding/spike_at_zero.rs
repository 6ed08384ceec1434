//! 0 % cannot be reached: the lowest compare value still gives a pulse.

use super::{Finding, Severity};
use crate::quantity::{Duty, Time};

/// The finding's name.
pub const NAME: &str = "spike-at-zero";

/// The lowest duty of `channel` is `lowest`, a pulse of `spike`.
pub fn new(severity: Severity, channel: &str, lowest: Duty, spike: Time, remedy: String) -> Finding {
    Finding {
        name: NAME,
        severity,
        message: format!(
            "channel {channel} cannot make 0 %: its lowest duty is {}, a spike of {} in every period",
            lowest.rounded(4),
            spike.rounded(4)
        ),
        remedy,
    }
}

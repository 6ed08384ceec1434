//! A window is shorter than the time between two pulses of the slowest speed.

use super::{Finding, Severity};
use crate::quantity::{Speed, Time};

/// The finding's name.
pub const NAME: &str = "window-too-short";

/// Some windows of `length` see no pulse at `slowest`; `needed` would see one. `alone` says that there is no other method.
pub fn new(length: Time, slowest: Speed, needed: Time, alone: bool) -> Finding {
    Finding {
        name: NAME,
        severity: if alone { Severity::Error } else { Severity::Note },
        message: format!(
            "at {} some windows of {} see no pulse and read as standing still",
            slowest.rounded(4),
            length.rounded(4)
        ),
        remedy: format!("a --window of at least {}, or period measurement at slow speeds", needed.rounded(4)),
    }
}

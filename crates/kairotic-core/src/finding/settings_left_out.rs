//! So many settings were asked for that not all are shown.

use super::{Finding, Severity};

/// The finding's name.
pub const NAME: &str = "settings-left-out";

/// Of all settings within the tolerance, `shown` are shown, the best ones, and `left_out` are not.
pub fn new(shown: u64, left_out: u64) -> Finding {
    Finding {
        name: NAME,
        severity: Severity::Note,
        message: format!(
            "{shown} settings are shown, the best ones; {left_out} more are within the tolerance"
        ),
        remedy: "ask for less: a narrower --within, one --mode, or --min-bits".to_owned(),
    }
}

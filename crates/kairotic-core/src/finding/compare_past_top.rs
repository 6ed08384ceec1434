//! A compare value beyond the period: the counter never meets it, and the output never moves.

use super::{Finding, Severity};

/// The finding's name.
pub const NAME: &str = "compare-past-top";

/// The compare value of `channel` is above the `last` one that changes anything; the output then stays `constant`.
pub fn new(channel: &str, compare: u64, last: u64, top: u64, constant: &str) -> Finding {
    Finding {
        name: NAME,
        severity: Severity::Warning,
        message: format!(
            "compare {compare} on channel {channel} is past the top, {top}: the counter never meets it, and the output \
             stays {constant}"
        ),
        remedy: format!("write a compare value from 0 to {last}"),
    }
}

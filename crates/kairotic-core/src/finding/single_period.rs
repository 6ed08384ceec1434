//! One period was recorded: nothing tells how far it may be off.

use super::{Finding, Severity};

/// The finding's name.
pub const NAME: &str = "single-period";

/// Only one whole period of `signal` was recorded.
pub fn new(signal: &str) -> Finding {
    Finding {
        name: NAME,
        severity: Severity::Warning,
        message: format!(
            "only one whole period of {signal} was recorded, and a single value has no scatter: how far its figures may be off is not known"
        ),
        remedy:
            "record for longer: from two periods on there is an uncertainty, from some twenty on a small one"
                .to_owned(),
    }
}

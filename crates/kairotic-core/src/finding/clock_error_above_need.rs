//! The clock alone takes more than is allowed.

use super::{Finding, Severity};

/// The finding's name.
pub const NAME: &str = "clock-error-above-need";

/// The clock alone is off by up to `is`, where `need` is allowed. `missed` tells whether that is missed even in the
/// likely case.
pub fn new(is: &str, need: &str, missed: bool) -> Finding {
    Finding {
        name: NAME,
        severity: if missed { Severity::Error } else { Severity::Warning },
        message: format!("the clock alone takes up to {is}, and {need} is allowed"),
        remedy: "a better oscillator; or measure what it has, and derive again (budget --measured)"
            .to_owned(),
    }
}

//! A duty is too low for the load to turn.

use super::{Finding, Severity};
use crate::quantity::Duty;

/// The finding's name.
pub const NAME: &str = "duty-below-start";

/// `load` is given `duty`, and starts at `start`.
pub fn new(load: &str, duty: Duty, start: Duty) -> Finding {
    Finding {
        name: NAME,
        severity: Severity::Warning,
        message: format!(
            "{} is below the {} at which {load} starts: it hums and stands",
            duty.rounded(6),
            start.told()
        ),
        remedy: format!("0 %, or at least {}", start.told()),
    }
}

//! A pulse is shorter or longer than the load takes.

use super::{Finding, Severity};
use crate::quantity::Time;

/// The finding's name.
pub const NAME: &str = "pulse-outside-load";

/// `pulse` lies `beyond` the `end` of what `load` takes; steps are `step` apart.
pub fn new(load: &str, pulse: Time, end: Time, beyond: Time, step: Time) -> Finding {
    // Rounding to the nearest step can lead less than one beyond the end.
    let severity = if beyond < step { Severity::Warning } else { Severity::Error };
    Finding {
        name: NAME,
        severity,
        message: format!(
            "a pulse of {} is {} beyond the {} that {load} takes",
            pulse.rounded(6),
            beyond.rounded(4),
            end.told()
        ),
        remedy: "stay inside the load's span, or correct the span in the board file".to_owned(),
    }
}

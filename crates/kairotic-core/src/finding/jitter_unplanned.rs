//! Periods differ by more than the timer makes them.

use super::{Finding, Severity};
use crate::quantity::Time;

/// The finding's name.
pub const NAME: &str = "jitter-unplanned";

/// The signal's periods differ by `seen`, and the timer's by `planned`.
pub fn new(signal: &str, seen: Time, planned: Time) -> Finding {
    let planned =
        if planned == Time::ZERO { "not at all".to_owned() } else { format!("by {}", planned.rounded(3)) };
    Finding {
        name: NAME,
        severity: Severity::Warning,
        message: format!("the periods of {signal} differ by {}, and the timer's {planned}", seen.rounded(3)),
        remedy: "edges that the timer makes by itself do not shake so: look for pins that software moves"
            .to_owned(),
    }
}

//! Observations lie too far from any straight line.

use super::{Finding, Severity};

/// The finding's name.
pub const NAME: &str = "line-does-not-fit";

/// The furthest observation is `most` off the line, and no more than `near` would be a line.
pub fn new(most: &str, near: &str) -> Finding {
    Finding {
        name: NAME,
        severity: Severity::Warning,
        message: format!("the observations bend: the furthest is {most} off the line, more than {near}"),
        remedy: "observe again, use the middle of the travel only, or a table".to_owned(),
    }
}

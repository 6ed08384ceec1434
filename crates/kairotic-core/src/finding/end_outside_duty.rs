//! The line through what was observed reaches an end of the load outside what a duty can be.

use super::{Finding, Severity};
use crate::quantity::Duty;

/// The finding's name.
pub const NAME: &str = "end-outside-duty";

/// The line puts the board file's key at `found`, and `inside` is the nearest that a duty can be.
pub fn new(key: &str, found: Duty, inside: Duty) -> Finding {
    Finding {
        name: NAME,
        severity: Severity::Warning,
        message: format!(
            "the line puts `{key}` at {}, which is no duty: it is {} here",
            found.rounded(4),
            inside.told()
        ),
        remedy: "observe nearer to that end, or hold supply and rated voltage against the load".to_owned(),
    }
}

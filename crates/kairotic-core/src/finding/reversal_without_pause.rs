//! A motor is turned the other way without a rest.

use super::{Finding, Severity};

/// The finding's name.
pub const NAME: &str = "reversal-without-pause";

/// `load` can be reversed, and nobody said how long it rests before.
pub fn new(load: &str) -> Finding {
    Finding {
        name: NAME,
        severity: Severity::Warning,
        message: format!(
            "{load} can be reversed at full speed: the current is then twice that of a standing motor"
        ),
        remedy: "let it come to rest first, and say how long that takes: pause = \"200ms\"".to_owned(),
    }
}

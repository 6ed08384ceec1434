//! A step that is rounded first drifts.

use super::{Finding, Severity};

/// The finding's name.
pub const NAME: &str = "rounded-step-drifts";

/// `text` is off by `drift` compare steps at the highest input.
pub fn new(text: &str, drift: i128) -> Finding {
    Finding {
        name: NAME,
        severity: Severity::Note,
        message: format!(
            "{text} is {drift:+} compare steps off at the highest input: the rounding is multiplied as well"
        ),
        remedy: "the arithmetic above, which rounds last".to_owned(),
    }
}

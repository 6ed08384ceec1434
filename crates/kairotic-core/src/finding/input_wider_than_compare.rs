//! Several inputs share a compare value.

use super::{Finding, Severity};

/// The finding's name.
pub const NAME: &str = "input-wider-than-compare";

/// `inputs` inputs meet `steps` compare values.
pub fn new(inputs: u64, steps: u64) -> Finding {
    Finding {
        name: NAME,
        severity: Severity::Note,
        message: format!("{inputs} inputs share {steps} compare values: the input is finer than the signal"),
        remedy: "a timer setting with more steps in the span, or a coarser input".to_owned(),
    }
}

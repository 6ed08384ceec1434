//! A wanted pulse is shorter than half a step, and was rounded away or to a whole step.

use super::{Finding, Severity};
use crate::quantity::Time;

/// The finding's name.
pub const NAME: &str = "pulse-under-half-step";

/// A pulse of `wanted` on `channel` became `realised`, where a step is `step`.
pub fn new(channel: &str, wanted: Time, realised: Time, step: Time) -> Finding {
    Finding {
        name: NAME,
        severity: Severity::Error,
        message: format!(
            "the {} wanted on channel {channel} is under half a step of {}, and became {}",
            wanted.rounded(4),
            step.rounded(4),
            realised.rounded(4)
        ),
        remedy: "take a smaller divider, a faster clock or a longer pulse".to_owned(),
    }
}

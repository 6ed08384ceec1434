//! Readings of a speed lie further apart than was asked for.

use super::{Finding, Severity};
use crate::quantity::{Speed, Time};

/// The finding's name.
pub const NAME: &str = "speed-step-too-coarse";

/// At `speed` readings lie `step` apart where `wanted` was asked for. Timing `together` pulses as one would do, where pulses
/// are timed, or a window of `window`.
pub fn new(speed: Speed, step: Speed, wanted: Speed, together: Option<u64>, window: Time) -> Finding {
    let together = together.map(|pulses| format!("time {pulses} pulses as one, or ")).unwrap_or_default();
    Finding {
        name: NAME,
        severity: Severity::Error,
        message: format!(
            "at {} readings lie {} apart: more than the {} that were asked for",
            speed.rounded(4),
            step.rounded(4),
            wanted.told()
        ),
        remedy: format!("{together}count for {} or longer: --window", window.rounded(6)),
    }
}

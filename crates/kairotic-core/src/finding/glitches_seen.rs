//! Pulses that are too short to be any.

use super::{Finding, Severity};

/// The finding's name.
pub const NAME: &str = "glitches-seen";

/// So many of a signal's pulses were left out.
pub fn new(signal: &str, count: u64) -> Finding {
    Finding {
        name: NAME,
        severity: Severity::Warning,
        message: format!("{signal} has {count} pulses shorter than --glitch, which are in no other figure"),
        remedy: "look at ground and threshold of the recorder first, then at what switches beside the line"
            .to_owned(),
    }
}

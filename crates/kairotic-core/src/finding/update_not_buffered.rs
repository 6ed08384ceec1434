//! A new compare value takes effect in the middle of a period.

use super::{Finding, Severity};
use crate::quantity::Time;

/// The finding's name.
pub const NAME: &str = "update-not-buffered";

/// A new compare value takes effect at once and can make one pulse longer by `glitch`; written before `safe` has passed
/// in a period it does not. `buffered` is what buffers it.
pub fn new(glitch: Time, safe: Time, buffered: Option<&str>) -> Finding {
    let write =
        format!("write it within {} after a period's start, from an interrupt there", safe.rounded(4));
    Finding {
        name: NAME,
        severity: Severity::Warning,
        message: format!(
            "a compare value takes effect at once: one that is below the counter already leaves the output active to the \
             period's end, up to {} too long",
            glitch.rounded(4)
        ),
        remedy: buffered.map_or(write.clone(), |buffered| format!("{buffered}; or {write}")),
    }
}

//! A motor or coil is heard.

use super::{Finding, Severity};
use crate::quantity::Frequency;

/// The finding's name.
pub const NAME: &str = "audible-frequency";

/// `load` is switched with `frequency`, and is quiet from `quiet` on.
pub fn new(load: &str, frequency: Frequency, quiet: Frequency) -> Finding {
    Finding {
        name: NAME,
        severity: Severity::Warning,
        message: format!(
            "{} can be heard in {load}: it is quiet from {} on",
            frequency.rounded(6),
            quiet.told()
        ),
        remedy: format!("at least {}, where the driver switches that fast", quiet.told()),
    }
}

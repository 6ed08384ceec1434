//! A lamp is seen to flicker.

use super::{Finding, Severity};
use crate::quantity::Frequency;

/// The finding's name.
pub const NAME: &str = "visible-flicker";

/// `load` is switched with `frequency`, and flickers visibly below `least`.
pub fn new(load: &str, frequency: Frequency, least: Frequency) -> Finding {
    Finding {
        name: NAME,
        severity: Severity::Warning,
        message: format!("at {} {load} is seen to flicker: it takes {}", frequency.rounded(6), least.told()),
        remedy: format!("at least {}", least.told()),
    }
}

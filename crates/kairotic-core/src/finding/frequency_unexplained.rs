//! A measured frequency that neither the clock nor a register next to the planned one explains.

use super::{Finding, Severity};
use crate::quantity::Frequency;

/// The finding's name.
pub const NAME: &str = "frequency-unexplained";

/// The signal has a frequency where another was planned.
pub fn new(signal: &str, measured: Frequency, planned: Frequency) -> Finding {
    Finding {
        name: NAME,
        severity: Severity::Error,
        message: format!(
            "{signal} has {}, and {} was planned: no clock of the part and no single count explains that",
            measured.rounded(6),
            planned.rounded(6)
        ),
        remedy: "read the timer's registers on the target, and decode them".to_owned(),
    }
}

//! A pin that should move does not.

use super::{Finding, Severity};
use crate::quantity::Frequency;

/// The finding's name.
pub const NAME: &str = "signal-missing";

/// The signal has so many edges, too few for one period, and should have a frequency; whether the capture is long enough
/// for it.
pub fn new(signal: &str, edges: u64, expected: Frequency, enough: bool) -> Finding {
    let edges = if edges == 1 { "1 edge".to_owned() } else { format!("{edges} edges") };
    Finding {
        name: NAME,
        severity: if enough { Severity::Error } else { Severity::Warning },
        message: format!(
            "{signal} has {edges} in the capture, too few for a period of {}",
            expected.rounded(6)
        ),
        remedy: if enough {
            "hold pin, output enable and the recorder's channel against the plan".to_owned()
        } else {
            "record for longer: two periods at least".to_owned()
        },
    }
}

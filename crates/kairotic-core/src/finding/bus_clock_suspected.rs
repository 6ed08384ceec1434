//! The frequency is off by the ratio of two clocks: the timer probably counts another clock than was thought.

use super::{Finding, Severity};
use crate::quantity::Frequency;

/// The finding's name.
pub const NAME: &str = "bus-clock-suspected";

/// `realised` from `clock` is not `expected`, but would be from `suspect`, which is `origin`.
pub fn new(
    realised: Frequency,
    expected: Frequency,
    clock: Frequency,
    suspect: Frequency,
    origin: &str,
) -> Finding {
    Finding {
        name: NAME,
        severity: Severity::Error,
        message: format!(
            "{} from {} is not {}, but from {} ({origin}) these registers make it",
            realised.rounded(6),
            clock.rounded(9),
            expected.rounded(6),
            suspect.rounded(9)
        ),
        remedy: format!(
            "find out which clock reaches the counter: decode again with --clock {}, or derive for {}",
            suspect.rounded(9),
            clock.rounded(9)
        ),
    }
}

//! A measured frequency changes slowly.

use super::{Finding, Severity};
use crate::quantity::{Deviation, Time};

/// The finding's name.
pub const NAME: &str = "clock-drifts";

/// The frequency of `signal` changes by `change` in `length`.
pub fn new(signal: &str, change: Deviation, length: Time) -> Finding {
    let way = if change > Deviation::ZERO { "rises" } else { "falls" };
    let by = Deviation::new(change.value().magnitude());
    Finding {
        name: NAME,
        severity: Severity::Note,
        message: format!("the frequency of {signal} {way} by {} in {}", by.rounded(3), length.rounded(3)),
        remedy: "measure again when the oscillator is warm; `budget` holds what temperature may do"
            .to_owned(),
    }
}

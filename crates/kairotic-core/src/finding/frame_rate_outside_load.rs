//! Pulses come more or less often than the load tolerates.

use super::{Finding, Severity};
use crate::quantity::{Frequency, Range};

/// The finding's name.
pub const NAME: &str = "frame-rate-outside-load";

/// `load` is given `found`, which is outside its `limits`.
pub fn new(load: &str, found: Frequency, limits: Range<Frequency>) -> Finding {
    let (side, end) = if found < limits.low { ("below", limits.low) } else { ("above", limits.high) };
    Finding {
        name: NAME,
        severity: Severity::Error,
        message: format!("{} is {side} the {} that {load} tolerates", found.rounded(6), end.told()),
        remedy: format!("a frequency in {limits}"),
    }
}

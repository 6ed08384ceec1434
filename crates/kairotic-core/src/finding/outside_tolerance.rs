//! The frequency (or tick) is further off than was tolerated.

use super::{Finding, Severity};
use crate::quantity::{Deviation, Frequency, Time};

/// The finding's name.
pub const NAME: &str = "outside-tolerance";

/// The best frequency is further off than tolerated.
pub fn frequency(realised: Frequency, wanted: Frequency, error: Deviation, within: Deviation) -> Finding {
    new(&realised.rounded(6), &wanted.exact(), error, within)
}

/// The best tick is further off than tolerated.
pub fn tick(realised: Time, wanted: Time, error: Deviation, within: Deviation) -> Finding {
    new(&realised.rounded(6), &wanted.exact(), error, within)
}

fn new(realised: &str, wanted: &str, error: Deviation, within: Deviation) -> Finding {
    Finding {
        name: NAME,
        severity: Severity::Error,
        message: format!("{realised} is {} off {wanted}, more than {}", error.rounded(4), within.exact()),
        remedy: format!(
            "choose a clock that {wanted} divides, or tolerate it with --within {}",
            Deviation::new(error.value().magnitude()).rounded(2).replace(' ', "")
        ),
    }
}

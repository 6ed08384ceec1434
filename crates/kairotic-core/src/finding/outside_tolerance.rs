//! The frequency (or tick) is further off than was tolerated.

use super::{Finding, Severity};
use crate::quantity::{Deviation, Frequency, Rational, Time};

/// The finding's name.
pub const NAME: &str = "outside-tolerance";

/// The best frequency is further off than tolerated.
pub fn frequency(realised: Frequency, wanted: Frequency, error: Deviation, within: Deviation) -> Finding {
    new(&realised.rounded(6), &wanted.told(), error, within)
}

/// Registers make another frequency than was meant; each of `changes` of one register would make it.
pub fn decoded(
    realised: Frequency,
    wanted: Frequency,
    error: Deviation,
    within: Deviation,
    changes: &[String],
) -> Finding {
    let found = frequency(realised, wanted, error, within);
    if changes.is_empty() {
        return found;
    }
    Finding { remedy: format!("one register would make it: {}", changes.join(", or ")), ..found }
}

/// The best tick is further off than tolerated.
pub fn tick(realised: Time, wanted: Time, error: Deviation, within: Deviation) -> Finding {
    new(&realised.rounded(6), &wanted.told(), error, within)
}

fn new(realised: &str, wanted: &str, error: Deviation, within: Deviation) -> Finding {
    Finding {
        name: NAME,
        severity: Severity::Error,
        message: format!("{realised} is {} off {wanted}, more than {}", error.rounded(4), within.told()),
        remedy: format!(
            "choose a clock that {wanted} divides, or tolerate it with --within {}",
            rounded_up(error)
        ),
    }
}

/// The smallest whole number of ppm, or of percent from one on, that covers an error.
fn rounded_up(error: Deviation) -> String {
    let in_units = |per_whole| error.value().magnitude().times(Rational::whole(per_whole));
    let covering = Rational::ceiling;
    match (in_units(100), in_units(1_000_000)) {
        (Some(percent), _) if percent >= Rational::ONE => format!("{}%", covering(percent)),
        (_, Some(ppm)) => format!("{}ppm", covering(ppm)),
        _ => error.told(),
    }
}

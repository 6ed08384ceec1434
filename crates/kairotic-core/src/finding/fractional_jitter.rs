//! Periods or pulses are not all alike.

use super::{Finding, Severity};
use crate::quantity::{Frequency, Time, show};

/// The finding's name.
pub const NAME: &str = "fractional-jitter";

/// Periods or pulses differ by `most`, by `rms` seconds root mean square; the pattern repeats after `repeats` periods, so
/// often a second. `missed` tells whether that is more than is allowed.
pub fn new(most: Time, rms: f64, repeats: u64, rate: Frequency, missed: bool) -> Finding {
    let rms = show::significant(rms * 1e9, 3);
    Finding {
        name: NAME,
        severity: if missed { Severity::Error } else { Severity::Note },
        message: format!(
            "periods or pulses differ by up to {} ({rms} ns RMS); the pattern repeats every {repeats} periods, {} times a second",
            most.rounded(4),
            show::significant(rate.value().approx(), 4),
        ),
        remedy: "a division without a fraction: --prefer exact, or another clock".to_owned(),
    }
}

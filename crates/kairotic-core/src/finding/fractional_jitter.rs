//! Periods or pulses are not all alike.

use std::fmt;

use serde::Serialize;

use super::{Described, Remedy, Severity};
use crate::quantity::{Frequency, Time, show};

/// Periods or pulses are not all alike.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct FractionalJitter {
    /// The largest difference between two of them.
    pub peak_to_peak: Time,
    /// The standard deviation, in seconds.
    pub rms_s: f64,
    /// After so many periods the pattern repeats.
    pub periods: u64,
    /// How often that is.
    pub rate: Frequency,
    /// Whether more of it than allowed.
    pub missed: bool,
}

impl Described for FractionalJitter {
    const NAME: &'static str = "fractional-jitter";
    const ABOUT: &'static str = "Periods or pulses are not all alike: a divider with a \
        fractional part hands out whole source clocks, or dither whole ticks. The pattern repeats, and its rate may \
        be heard or seen. A note; an error where `needs` allow less. *Remedy*: a division without a fraction, or \
        another clock.";

    fn severity(&self) -> Severity {
        if self.missed { Severity::Error } else { Severity::Note }
    }

    fn remedies(&self) -> Vec<Remedy> {
        vec![Remedy::WholeDivision]
    }
}

impl fmt::Display for FractionalJitter {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(
            f,
            "periods or pulses differ by up to {} ({} ns RMS); the pattern repeats every {} periods, {} times a second",
            self.peak_to_peak.rounded(4),
            show::significant(self.rms_s * 1e9, 3),
            self.periods,
            show::significant(self.rate.value().approx(), 4)
        )
    }
}

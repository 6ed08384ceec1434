//! A measured frequency changes slowly.

use std::fmt;

use serde::Serialize;

use super::{Described, Remedy, Severity};
use crate::quantity::{Deviation, Time};

/// A measured frequency changes slowly.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct ClockDrifts {
    /// The signal.
    pub signal: String,
    /// By how much its frequency changes.
    pub change: Deviation,
    /// Over which time.
    pub length: Time,
}

impl Described for ClockDrifts {
    const NAME: &'static str = "clock-drifts";
    const ABOUT: &'static str = "The frequency of a measured signal changes slowly: its edges \
        are off the best line by a parabola that chance does not make. *Remedy*: measure again when the oscillator \
        is warm.";

    fn severity(&self) -> Severity {
        Severity::Note
    }

    fn remedies(&self) -> Vec<Remedy> {
        vec![Remedy::MeasureWarm]
    }
}

impl fmt::Display for ClockDrifts {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let way = if self.change > Deviation::ZERO { "rises" } else { "falls" };
        let by = Deviation::new(self.change.value().magnitude());
        write!(f, "the frequency of {} {way} by {} in {}", self.signal, by.rounded(3), self.length.rounded(3))
    }
}

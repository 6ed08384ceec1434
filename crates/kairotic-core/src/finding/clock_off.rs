//! The clock is further off than it is stated to be.

use std::fmt;

use serde::Serialize;

use super::{Described, Remedy, Severity};
use crate::quantity::Deviation;

/// The clock is further off than it is stated to be.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct ClockOff {
    /// The signal that shows it.
    pub signal: String,
    /// By how much it is off.
    pub error: Deviation,
    /// By how much it may be, either way.
    pub stated: Deviation,
}

impl Described for ClockOff {
    const NAME: &'static str = "clock-off";
    const ABOUT: &'static str = "A measured signal is further off than its clock is stated to \
        be. *Remedy*: fit the clock to the capture, and derive for what it is; or another oscillator is running.";

    fn severity(&self) -> Severity {
        Severity::Warning
    }

    fn remedies(&self) -> Vec<Remedy> {
        vec![Remedy::FitClock, Remedy::OtherOscillator]
    }
}

impl fmt::Display for ClockOff {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "clock error of {}: {}, specified ±{}", self.signal, self.error.rounded(4), self.stated)
    }
}

//! The clock alone takes more than is allowed.

use std::fmt;

use serde::Serialize;

use super::{Described, Remedy, Severity};
use crate::quantity::Figure;

/// The clock alone takes more than is allowed.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct ClockErrorAboveNeed {
    /// How far the clock alone may take it.
    pub found: Figure,
    /// What is allowed.
    pub limit: Figure,
    /// Whether the requirement is missed by it, likely and not only at worst.
    pub missed: bool,
}

impl Described for ClockErrorAboveNeed {
    const NAME: &'static str = "clock-error-above-need";
    const ABOUT: &'static str = "The oscillator alone takes pulse, frequency or level further \
        than the signal's `needs` allow, whatever the registers are. *Remedy*: a better oscillator, or registers for \
        the clock that is really there.";

    fn severity(&self) -> Severity {
        if self.missed { Severity::Error } else { Severity::Warning }
    }

    fn remedies(&self) -> Vec<Remedy> {
        vec![Remedy::BetterOscillator, Remedy::MeasureClock]
    }
}

impl fmt::Display for ClockErrorAboveNeed {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "the clock alone takes up to {}, and {} is allowed", self.found.rounded(4), self.limit)
    }
}

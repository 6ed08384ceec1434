//! The clock is above the highest that the silicon is specified for.

use std::fmt;

use serde::Serialize;

use super::{Described, Remedy, Severity};
use crate::quantity::Frequency;

/// The clock is above the highest that the silicon is specified for.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct ClockAboveMaximum {
    /// The clock.
    pub clock: Frequency,
    /// The highest that is specified.
    pub maximum: Frequency,
    /// What the reference manual calls the clock.
    pub input: String,
}

impl Described for ClockAboveMaximum {
    const NAME: &'static str = "clock-above-maximum";
    const ABOUT: &'static str = "The clock is above what the silicon is specified for, and \
        that was accepted. *Remedy*: stay at or below it.";

    fn severity(&self) -> Severity {
        Severity::Warning
    }

    fn remedies(&self) -> Vec<Remedy> {
        vec![Remedy::ClockAtMost(self.maximum)]
    }
}

impl fmt::Display for ClockAboveMaximum {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{} is above the {} that {} may have", self.clock, self.maximum, self.input)
    }
}

//! A motor is given more volts than it is made for.

use std::fmt;

use serde::Serialize;

use super::{Described, Remedy, Severity};
use crate::quantity::{Duty, Voltage};

/// A motor is given more volts than it is made for.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct VoltsAboveRating {
    /// What is driven.
    pub load: String,
    /// The average voltage over it.
    pub average: Voltage,
    /// What it is made for.
    pub rated: Voltage,
    /// The duty.
    pub duty: Duty,
    /// The duty that gives just the rated voltage.
    pub most: Duty,
}

impl Described for VoltsAboveRating {
    const NAME: &'static str = "volts-above-rating";
    const ABOUT: &'static str = "The average voltage of a motor is above what it is made for. \
        *Remedy*: at most the duty named.";

    fn severity(&self) -> Severity {
        Severity::Error
    }

    fn remedies(&self) -> Vec<Remedy> {
        vec![Remedy::DutyAtMost(self.most)]
    }
}

impl fmt::Display for VoltsAboveRating {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(
            f,
            "{} give {} {} on average, above its {}",
            self.duty.rounded(6),
            self.load,
            self.average.rounded(4),
            self.rated
        )
    }
}

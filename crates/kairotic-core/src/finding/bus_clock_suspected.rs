//! The frequency is off by the ratio of two clocks: the timer probably counts another clock than was thought.

use std::fmt;

use serde::Serialize;

use super::{Described, Remedy, Severity};
use crate::quantity::Frequency;

/// The frequency is off by the ratio of two clocks: the timer probably counts another clock than was thought.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct BusClockSuspected {
    /// The frequency from the clock that was given.
    pub found: Frequency,
    /// The frequency that was meant, or measured.
    pub expected: Frequency,
    /// The clock that was given.
    pub clock: Frequency,
    /// The clock from which the registers make it.
    pub suspect: Frequency,
    /// What that clock is.
    pub origin: String,
}

impl Described for BusClockSuspected {
    const NAME: &'static str = "bus-clock-suspected";
    const ABOUT: &'static str = "The frequency is off by 2, 4, or by the ratio to another \
        clock of the part. The usual cause: the core clock was taken where the bus divides or doubles it. *Remedy*: \
        find out which clock reaches the counter, and derive for that one.";

    fn severity(&self) -> Severity {
        Severity::Error
    }

    fn remedies(&self) -> Vec<Remedy> {
        vec![Remedy::FindClock { suspect: self.suspect, given: self.clock }]
    }
}

impl fmt::Display for BusClockSuspected {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(
            f,
            "{} from {} is not {}, but from {} ({}) these registers make it",
            self.found.rounded(6),
            self.clock.rounded(9),
            self.expected.rounded(6),
            self.suspect.rounded(9),
            self.origin
        )
    }
}

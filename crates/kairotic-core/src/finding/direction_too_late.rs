//! The first step comes before the direction has stood as long as the driver needs.

use std::fmt;

use serde::Serialize;

use super::{Described, Remedy, Severity};
use crate::quantity::Time;

/// The first step comes before the direction has stood as long as the driver needs.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct DirectionTooLate {
    /// From the start of the move to its first step.
    pub first: Time,
    /// How long the direction has to stand.
    pub setup: Time,
}

impl Described for DirectionTooLate {
    const NAME: &'static str = "direction-too-late";
    const ABOUT: &'static str = "The first step of a move comes sooner than the driver takes a new direction: where the direction is set \
        as the move begins, its first step may go the other way, and all positions after it are wrong. *Remedy*: set the \
        direction earlier, or a slower start rate.";

    fn severity(&self) -> Severity {
        Severity::Warning
    }

    fn remedies(&self) -> Vec<Remedy> {
        vec![Remedy::DirectionEarlier(self.setup)]
    }
}

impl fmt::Display for DirectionTooLate {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(
            f,
            "the first step comes {} after the start, and the direction has to stand for {} before it",
            self.first.rounded(4),
            self.setup.rounded(4)
        )
    }
}

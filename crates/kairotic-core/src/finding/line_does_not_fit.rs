//! Observations lie too far from any straight line.

use std::fmt;

use serde::Serialize;

use super::{Described, Remedy, Severity};
use crate::quantity::Figure;

/// Observations lie too far from any straight line.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct LineDoesNotFit {
    /// How far the furthest of them is from the line.
    pub furthest: Figure,
    /// The distance within which a line fits.
    pub limit: Figure,
}

impl Described for LineDoesNotFit {
    const NAME: &'static str = "line-does-not-fit";
    const ABOUT: &'static str = "What was observed of a load bends: an observation that was \
        not left out is further than 2 % of all that was observed off the line. *Remedy*: observe again, use the \
        middle of the travel only, or a table.";

    fn severity(&self) -> Severity {
        Severity::Warning
    }

    fn remedies(&self) -> Vec<Remedy> {
        vec![Remedy::ObserveAgain]
    }
}

impl fmt::Display for LineDoesNotFit {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(
            f,
            "the observations bend: the furthest is {} off the line, more than {}",
            self.furthest.rounded(3),
            self.limit.rounded(3)
        )
    }
}

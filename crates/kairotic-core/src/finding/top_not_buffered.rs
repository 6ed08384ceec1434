//! A new period takes effect in the middle of the one that runs.

use std::fmt;

use serde::Serialize;

use super::{Described, Remedy, Severity};
use crate::quantity::Time;

/// A new period takes effect in the middle of the one that runs.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct TopNotBuffered {
    /// The shortest period.
    pub shortest: Time,
}

impl Described for TopNotBuffered {
    const NAME: &'static str = "top-not-buffered";
    const ABOUT: &'static str = "A top takes effect as soon as it is written. One that is below the counter already is not met, \
        and the counter runs on to its end before the next step. *Remedy*: write it early in the period, or take a \
        timer that buffers its top.";

    fn severity(&self) -> Severity {
        Severity::Warning
    }

    fn remedies(&self) -> Vec<Remedy> {
        vec![Remedy::WriteEarlyInPeriod(self.shortest)]
    }
}

impl fmt::Display for TopNotBuffered {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(
            f,
            "a new top takes effect at once: written later than {} after a step, it can be missed",
            self.shortest.rounded(4)
        )
    }
}

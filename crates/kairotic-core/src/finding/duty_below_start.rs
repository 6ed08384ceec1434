//! A duty is too low for the load to turn.

use std::fmt;

use serde::Serialize;

use super::{Described, Remedy, Severity};
use crate::quantity::Duty;

/// A duty is too low for the load to turn.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct DutyBelowStart {
    /// What is driven.
    pub load: String,
    /// The duty.
    pub duty: Duty,
    /// The lowest duty at which it starts.
    pub start: Duty,
}

impl Described for DutyBelowStart {
    const NAME: &'static str = "duty-below-start";
    const ABOUT: &'static str = "The duty is not zero, but below the one at which the motor \
        or fan starts: it hums and stands. *Remedy*: 0 %, or at least the start.";

    fn severity(&self) -> Severity {
        Severity::Warning
    }

    fn remedies(&self) -> Vec<Remedy> {
        vec![Remedy::DutyZeroOrAtLeast(self.start)]
    }
}

impl fmt::Display for DutyBelowStart {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(
            f,
            "{} is below the {} at which {} starts: it hums and stays at rest",
            self.duty.rounded(6),
            self.start,
            self.load
        )
    }
}

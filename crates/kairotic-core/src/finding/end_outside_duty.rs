//! The line through what was observed reaches an end of the load outside what a duty can be.

use std::fmt;

use serde::Serialize;

use super::{Described, Remedy, Severity};
use crate::quantity::Duty;

/// The line through what was observed reaches an end of the load outside what a duty can be.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct EndOutsideDuty {
    /// What the line gives, as the board file calls it.
    pub key: String,
    /// Where the line puts it.
    pub found: Duty,
    /// The nearest duty, which is used.
    pub inside: Duty,
}

impl Described for EndOutsideDuty {
    const NAME: &'static str = "end-outside-duty";
    const ABOUT: &'static str = "The line through what was observed of a motor puts a key of \
        the board file below 0 % or above 100 % duty; the nearest end is given instead, and the motor will not do \
        there what it is asked. *Remedy*: observe nearer to that end, or hold supply and rated voltage against the \
        load.";

    fn severity(&self) -> Severity {
        Severity::Warning
    }

    fn remedies(&self) -> Vec<Remedy> {
        vec![Remedy::ObserveNearerToEnd]
    }
}

impl fmt::Display for EndOutsideDuty {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(
            f,
            "the line puts `{}` at {}, which is no duty: it is {} here",
            self.key,
            self.found.rounded(4),
            self.inside
        )
    }
}

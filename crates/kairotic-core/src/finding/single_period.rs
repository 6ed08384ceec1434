//! One period was recorded: nothing tells how far it may be off.

use std::fmt;

use serde::Serialize;

use super::{Described, Remedy, Severity};

/// One period was recorded: nothing tells how far it may be off.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct SinglePeriod {
    /// The signal.
    pub signal: String,
}

impl Described for SinglePeriod {
    const NAME: &'static str = "single-period";
    const ABOUT: &'static str = "Only one whole period was recorded: a single value has no \
        scatter, so that no figure has an uncertainty and no requirement can be answered. *Remedy*: record two \
        periods at least, and some twenty for a small uncertainty.";

    fn severity(&self) -> Severity {
        Severity::Warning
    }

    fn remedies(&self) -> Vec<Remedy> {
        vec![Remedy::RecordMorePeriods]
    }
}

impl fmt::Display for SinglePeriod {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(
            f,
            "only one whole period of {} was recorded, and a single value has no scatter: how far its figures may be off is not known",
            self.signal
        )
    }
}

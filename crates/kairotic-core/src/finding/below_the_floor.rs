//! Periods differ by no more than the recorder's samples make them differ.

use std::fmt;

use serde::Serialize;

use super::{Described, Remedy, Severity};
use crate::quantity::Time;

/// Periods differ by no more than the recorder's samples make them differ.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct BelowTheFloor {
    /// The signal.
    pub signal: String,
    /// The resolution of the capture.
    pub floor: Time,
}

impl Described for BelowTheFloor {
    const NAME: &'static str = "below-the-floor";
    const ABOUT: &'static str = "Periods in a capture differ by no more than its samples make \
        them differ: of the jitter nothing can be said but that it is smaller. A note. *Remedy*: more samples a \
        second, if the jitter matters.";

    fn severity(&self) -> Severity {
        Severity::Note
    }

    fn remedies(&self) -> Vec<Remedy> {
        vec![Remedy::SampleFaster(None)]
    }
}

impl fmt::Display for BelowTheFloor {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(
            f,
            "the jitter of {} is below the floor: the capture has steps of {}",
            self.signal,
            self.floor.rounded(4)
        )
    }
}

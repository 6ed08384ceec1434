//! A pin that should move does not.

use std::fmt;

use serde::Serialize;

use super::{Described, Remedy, Severity};
use crate::quantity::Frequency;

/// A pin that should move does not.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct SignalMissing {
    /// The signal.
    pub signal: String,
    /// Its edges in the capture.
    pub edges: u64,
    /// The frequency that it should have.
    pub expected: Frequency,
    /// Whether the capture is long enough for that.
    pub long_enough: bool,
}

impl Described for SignalMissing {
    const NAME: &'static str = "signal-missing";
    const ABOUT: &'static str = "A pin that should move has too few edges for a period. A \
        warning where the capture is too short for two periods. *Remedy*: pin, output enable and the recorder's \
        channel, or a longer capture.";

    fn severity(&self) -> Severity {
        if self.long_enough { Severity::Error } else { Severity::Warning }
    }

    fn remedies(&self) -> Vec<Remedy> {
        vec![if self.long_enough { Remedy::CheckPin } else { Remedy::RecordTwoPeriods }]
    }
}

impl fmt::Display for SignalMissing {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(
            f,
            "{} has {} {} in the capture, too few for a period of {}",
            self.signal,
            self.edges,
            if self.edges == 1 { "edge" } else { "edges" },
            self.expected.rounded(6)
        )
    }
}

//! Pulses that are too short to be any.

use std::fmt;

use serde::Serialize;

use super::{Described, Remedy, Severity};

/// Pulses that are too short to be any.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct GlitchesSeen {
    /// The signal.
    pub signal: String,
    /// How many of its pulses were ignored.
    pub count: u64,
}

impl Described for GlitchesSeen {
    const NAME: &'static str = "glitches-seen";
    const ABOUT: &'static str = "A capture has pulses shorter than the glitch limit; they are \
        in no other figure. *Remedy*: ground and threshold of the recorder first, then what switches beside the \
        line.";

    fn severity(&self) -> Severity {
        Severity::Warning
    }

    fn remedies(&self) -> Vec<Remedy> {
        vec![Remedy::CheckRecorderInput]
    }
}

impl fmt::Display for GlitchesSeen {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(
            f,
            "{} has {} pulses shorter than the glitch limit, which are in no other figure",
            self.signal, self.count
        )
    }
}

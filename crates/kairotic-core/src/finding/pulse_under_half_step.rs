//! A wanted pulse is shorter than half a step, and was rounded away or to a whole step.

use std::fmt;

use serde::Serialize;

use super::{Described, Remedy, Severity};
use crate::quantity::Time;

/// A wanted pulse is shorter than half a step, and was rounded away or to a whole step.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct PulseUnderHalfStep {
    /// The channel.
    pub channel: String,
    /// The pulse that was wanted.
    pub wanted: Time,
    /// The pulse that there is.
    pub found: Time,
    /// The step between pulses.
    pub step: Time,
}

impl Described for PulseUnderHalfStep {
    const NAME: &'static str = "pulse-under-half-step";
    const ABOUT: &'static str = "A wanted pulse is shorter than half a step, and was rounded \
        away or up to a whole one. *Remedy*: a smaller divider, a faster clock, a longer pulse.";

    fn severity(&self) -> Severity {
        Severity::Error
    }

    fn remedies(&self) -> Vec<Remedy> {
        vec![Remedy::ShorterStep]
    }
}

impl fmt::Display for PulseUnderHalfStep {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(
            f,
            "the {} wanted on channel {} is under half a step of {}, and became {}",
            self.wanted.rounded(4),
            self.channel,
            self.step.rounded(4),
            self.found.rounded(4)
        )
    }
}

//! A pulse is shorter or longer than the load takes.

use std::fmt;

use serde::Serialize;

use super::{Described, Remedy, Severity};
use crate::quantity::Time;

/// A pulse is shorter or longer than the load takes.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct PulseOutsideLoad {
    /// What is driven.
    pub load: String,
    /// The pulse.
    pub pulse: Time,
    /// The end that it lies beyond.
    pub end: Time,
    /// How far beyond.
    pub beyond: Time,
    /// The step between pulses.
    pub step: Time,
}

impl Described for PulseOutsideLoad {
    const NAME: &'static str = "pulse-outside-load";
    const ABOUT: &'static str = "A pulse is shorter or longer than the load's span. Less than \
        a step beyond it is a warning: rounding can do that. *Remedy*: stay inside the span, or correct it in the \
        board file.";

    fn severity(&self) -> Severity {
        if self.beyond < self.step { Severity::Warning } else { Severity::Error }
    }

    fn remedies(&self) -> Vec<Remedy> {
        vec![Remedy::StayInsideSpan]
    }
}

impl fmt::Display for PulseOutsideLoad {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(
            f,
            "a pulse of {} is {} beyond the {} that {} takes",
            self.pulse.rounded(6),
            self.beyond.rounded(4),
            self.end,
            self.load
        )
    }
}

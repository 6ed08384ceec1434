//! A step that is rounded first drifts.

use std::fmt;

use serde::Serialize;

use super::{Described, Remedy, Severity};

/// A step that is rounded first drifts.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct RoundedStepDrifts {
    /// The arithmetic, as one would write it.
    pub arithmetic: String,
    /// The error at the highest input, in compare steps.
    pub drift: i128,
}

impl Described for RoundedStepDrifts {
    const NAME: &'static str = "rounded-step-drifts";
    const ABOUT: &'static str = "The compare steps of one input, rounded first and then \
        multiplied, drift: at the highest input by the number told. A note. *Remedy*: the arithmetic that was \
        found, which rounds last.";

    fn severity(&self) -> Severity {
        Severity::Note
    }

    fn remedies(&self) -> Vec<Remedy> {
        vec![Remedy::UseTheMap]
    }
}

impl fmt::Display for RoundedStepDrifts {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(
            f,
            "{} is {:+} compare steps off at the highest input: the rounding is multiplied as well",
            self.arithmetic, self.drift
        )
    }
}

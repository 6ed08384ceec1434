//! A step of a sequence is too short for a pulse of its own.

use std::fmt;

use serde::Serialize;

use super::{Described, Remedy, Severity};
use crate::quantity::Time;

/// A step of a sequence is too short for a pulse of its own.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct StepWithoutPulse {
    /// The signal.
    pub signal: String,
    /// The step of the sequence, from one on.
    pub step: usize,
    /// How long it is.
    pub length: Time,
    /// A period of the signal.
    pub period: Time,
}

impl Described for StepWithoutPulse {
    const NAME: &'static str = "step-without-pulse";
    const ABOUT: &'static str = "A step of a sequence ends before a period of its signal is over: a compare value counts for a whole \
        period, so that nothing of the step is seen at the pin. *Remedy*: the time that is named.";

    fn severity(&self) -> Severity {
        Severity::Error
    }

    fn remedies(&self) -> Vec<Remedy> {
        vec![Remedy::TimeAtLeast(self.period)]
    }
}

impl fmt::Display for StepWithoutPulse {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let Self { signal, step, length, period } = self;
        write!(
            f,
            "step {step} of {signal} takes {}, and a period {}: no pulse of it comes out",
            length.rounded(4),
            period.rounded(4)
        )
    }
}

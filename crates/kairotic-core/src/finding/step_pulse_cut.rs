//! Steps follow one another faster than their pulses allow.

use std::fmt;

use serde::Serialize;

use super::{Described, Remedy, Severity};
use crate::quantity::Time;

/// Steps follow one another faster than their pulses allow.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct StepPulseCut {
    /// The shortest time from step to step.
    pub interval: Time,
    /// The shortest pulse, and the shortest pause, that the driver sees.
    pub pulse: Time,
    /// What both take together, the pulse as the timer makes it.
    pub needed: Time,
}

impl Described for StepPulseCut {
    const NAME: &'static str = "step-pulse-cut";
    const ABOUT: &'static str = "A driver sees a step pulse only when it lasts a while, and needs a pause as long before the \
        next. At the fastest rate of the move there is no room for both, and steps are lost. *Remedy*: a rate that \
        leaves room, or a tick that is finer than the pulse.";

    fn severity(&self) -> Severity {
        Severity::Error
    }

    fn remedies(&self) -> Vec<Remedy> {
        vec![Remedy::IntervalAtLeast(self.needed)]
    }
}

impl fmt::Display for StepPulseCut {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(
            f,
            "the fastest steps are {} apart; a pulse of {} and a pause as long need {}",
            self.interval.rounded(4),
            self.pulse.rounded(4),
            self.needed.rounded(4)
        )
    }
}

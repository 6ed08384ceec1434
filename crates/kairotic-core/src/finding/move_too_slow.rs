//! A move takes longer than it may.

use std::fmt;

use serde::Serialize;

use super::{Described, Remedy, Severity};
use crate::quantity::{StepRate, Time};

/// A move takes longer than it may.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct MoveTooSlow {
    /// How long it may take.
    pub wanted: Time,
    /// How long it takes.
    pub time: Time,
    /// The fastest rate of the stepper.
    pub fastest: StepRate,
}

impl Described for MoveTooSlow {
    const NAME: &'static str = "move-too-slow";
    const ABOUT: &'static str = "Even at the fastest rate and acceleration of the stepper the move takes longer than was \
        asked. *Remedy*: allow the time that is named, or a stepper that is faster.";

    fn severity(&self) -> Severity {
        Severity::Error
    }

    fn remedies(&self) -> Vec<Remedy> {
        vec![Remedy::AllowTime(self.time)]
    }
}

impl fmt::Display for MoveTooSlow {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(
            f,
            "the move takes {} at no more than {}, and {} is asked for",
            self.time.rounded(6),
            self.fastest,
            self.wanted
        )
    }
}

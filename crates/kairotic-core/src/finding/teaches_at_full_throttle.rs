//! A sequence holds the longest pulse for a controller to learn it.

use std::fmt;

use serde::Serialize;

use super::{Described, Remedy, Severity};
use crate::quantity::Time;

/// A sequence holds the longest pulse for a controller to learn it.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct TeachesAtFullThrottle {
    /// The signal.
    pub signal: String,
    /// The longest pulse.
    pub pulse: Time,
    /// How long it is held.
    pub hold: Time,
}

impl Described for TeachesAtFullThrottle {
    const NAME: &'static str = "teaches-at-full-throttle";
    const ABOUT: &'static str = "The longest pulse teaches a speed controller its end only when it gets its supply. One that has its \
        supply already, or that is not one that learns, takes the pulse for what it is: full throttle. *Remedy*: take off \
        what the motor turns, and switch the supply on while the pulse is there.";

    fn severity(&self) -> Severity {
        Severity::Warning
    }

    fn remedies(&self) -> Vec<Remedy> {
        vec![Remedy::TakeLoadOff]
    }
}

impl fmt::Display for TeachesAtFullThrottle {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let Self { signal, pulse, hold } = self;
        write!(
            f,
            "{signal} is held at {} for {}: a controller that knows its ends, or has its supply before that, runs at full throttle",
            pulse.rounded(4),
            hold.rounded(4)
        )
    }
}

//! Readings of a speed lie further apart than was asked for.

use std::fmt;

use serde::Serialize;

use super::{Described, Remedy, Severity};
use crate::quantity::{Speed, Time};

/// Readings of a speed lie further apart than was asked for.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct SpeedStepTooCoarse {
    /// The speed at which they do.
    pub speed: Speed,
    /// How far they lie apart.
    pub step: Speed,
    /// What was asked for.
    pub wanted: Speed,
    /// So many pulses timed as one would do, where pulses are timed.
    pub together: Option<u64>,
    /// The window that would do.
    pub window: Time,
}

impl Described for SpeedStepTooCoarse {
    const NAME: &'static str = "speed-step-too-coarse";
    const ABOUT: &'static str = "At the fastest speed, readings lie further apart than the \
        resolution that was asked for. *Remedy*: the number of pulses to time as one, or the window that is named.";

    fn severity(&self) -> Severity {
        Severity::Error
    }

    fn remedies(&self) -> Vec<Remedy> {
        {
            let together = self.together.map(Remedy::TimePulsesTogether);
            together.into_iter().chain([Remedy::WindowAtLeast(self.window)]).collect()
        }
    }
}

impl fmt::Display for SpeedStepTooCoarse {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(
            f,
            "at {} readings lie {} apart: more than the {} that were asked for",
            self.speed.rounded(4),
            self.step.rounded(4),
            self.wanted
        )
    }
}

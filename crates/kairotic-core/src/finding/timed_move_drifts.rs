//! A move that is only timed ends further off than it may.

use std::fmt;

use serde::Serialize;

use super::{Described, Remedy, Severity};
use crate::quantity::Angle;

/// A move that is only timed ends further off than it may.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct TimedMoveDrifts {
    /// How far off it may end.
    pub need: Angle,
    /// The first move after which it may be further off.
    pub after: u32,
    /// How many moves are made.
    pub moves: u32,
}

impl Described for TimedMoveDrifts {
    const NAME: &'static str = "timed-move-drifts";
    const ABOUT: &'static str = "A motor that is run for a time is a little off each time: by the clock, by its \
        speed, by how it starts and stops. Nothing tells the firmware, and it adds up, even where the rest of a tick is \
        carried along. *Remedy*: go to a stop or a switch now and then, or count with an encoder.";

    fn severity(&self) -> Severity {
        Severity::Error
    }

    fn remedies(&self) -> Vec<Remedy> {
        vec![Remedy::ReferenceWithin(self.after.saturating_sub(1)), Remedy::CountTurns]
    }
}

impl fmt::Display for TimedMoveDrifts {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let Self { need, after, moves } = self;
        write!(f, "from move {after} of {moves} on the end may be more than {need} off")
    }
}

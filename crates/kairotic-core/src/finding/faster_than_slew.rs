//! A step of a sequence goes faster than its load can follow.

use std::fmt;

use serde::Serialize;

use super::{Described, Remedy, Severity};
use crate::quantity::Time;

/// A step of a sequence goes faster than its load can follow.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct FasterThanSlew {
    /// The signal.
    pub signal: String,
    /// The step of the sequence, from one on.
    pub step: usize,
    /// How long the load takes for it.
    pub needs: Time,
    /// How long it has.
    pub has: Time,
}

impl Described for FasterThanSlew {
    const NAME: &'static str = "faster-than-slew";
    const ABOUT: &'static str = "A step of a sequence, its stay at the end among it where it goes at once, is shorter than the \
        servo takes for the angle: it comes late, or is on its way when the next step begins. *Remedy*: the time that is named.";

    fn severity(&self) -> Severity {
        Severity::Warning
    }

    fn remedies(&self) -> Vec<Remedy> {
        vec![Remedy::TimeAtLeast(self.needs)]
    }
}

impl fmt::Display for FasterThanSlew {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let Self { signal, step, needs, has } = self;
        write!(f, "{signal} takes {} for step {step}, and has {}", needs.rounded(4), has.rounded(4))
    }
}

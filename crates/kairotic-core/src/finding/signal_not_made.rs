//! A signal of a board that cannot be made.

use std::fmt;

use serde::Serialize;

use super::{Described, Remedy, Severity};

/// A signal of a board that cannot be made.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct SignalNotMade {
    /// What is wrong.
    pub problem: String,
    /// What to try instead.
    pub instead: Option<String>,
}

impl Described for SignalNotMade {
    const NAME: &'static str = "signal-not-made";
    const ABOUT: &'static str = "A signal of a board is out of reach of its timer, or its clock is not legal: there is no \
        setting for it. *Remedy*: what is named, or another timer.";

    fn severity(&self) -> Severity {
        Severity::Error
    }

    fn remedies(&self) -> Vec<Remedy> {
        self.instead.iter().cloned().map(Remedy::Instead).collect()
    }
}

impl fmt::Display for SignalNotMade {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(&self.problem)
    }
}

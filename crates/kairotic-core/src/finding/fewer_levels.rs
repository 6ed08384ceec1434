//! A way has fewer levels than it was given.

use std::fmt;

use serde::Serialize;

use super::{Described, Remedy, Severity};

/// A way has fewer levels than it was given.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct FewerLevels {
    /// The signal.
    pub signal: String,
    /// The step of the sequence, from one on.
    pub step: usize,
    /// Levels that were asked for.
    pub asked: u32,
    /// Levels that there are.
    pub made: u64,
}

impl Described for FewerLevels {
    const NAME: &'static str = "fewer-levels";
    const ABOUT: &'static str = "A way of a sequence has fewer compare values, or fewer periods, than levels that were asked of it: \
        so many are made, as far apart as each other and each as long. *Remedy*: ask for those, or get finer steps by a faster \
        clock, a finer timer or a lower frequency, or a longer time.";

    fn severity(&self) -> Severity {
        Severity::Warning
    }

    fn remedies(&self) -> Vec<Remedy> {
        vec![Remedy::AskForLevels(self.made), Remedy::FinerSteps]
    }
}

impl fmt::Display for FewerLevels {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(
            f,
            "{} levels are asked of {} in step {}, and there are {}: each of them is made, for as long as the others",
            self.asked, self.signal, self.step, self.made
        )
    }
}

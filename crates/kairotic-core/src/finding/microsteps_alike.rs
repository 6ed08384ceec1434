//! Microsteps that have the same compare values.

use std::fmt;

use serde::Serialize;

use super::{Described, Remedy, Severity};

/// Microsteps that have the same compare values.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct MicrostepsAlike {
    /// Microsteps of four full steps that change a compare value.
    pub distinct: u32,
    /// Microsteps of four full steps.
    pub wanted: u32,
}

impl Described for MicrostepsAlike {
    const NAME: &'static str = "microsteps-alike";
    const ABOUT: &'static str = "Two windings are driven in more microsteps than their compare values tell apart: some steps turn \
        nothing, and the next ones turn as much more. *Remedy*: fewer microsteps, or finer steps by a faster clock, a finer \
        timer or a lower frequency of the windings' PWM.";

    fn severity(&self) -> Severity {
        Severity::Warning
    }

    fn remedies(&self) -> Vec<Remedy> {
        vec![Remedy::FinerSteps]
    }
}

impl fmt::Display for MicrostepsAlike {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(
            f,
            "of {} microsteps in four full steps {} change a compare value, and the others turn nothing",
            self.wanted, self.distinct
        )
    }
}

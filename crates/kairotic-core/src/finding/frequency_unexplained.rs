//! A measured frequency that neither the clock nor a register next to the planned one explains.

use std::fmt;

use serde::Serialize;

use super::{Described, Remedy, Severity};
use crate::quantity::Frequency;

/// A measured frequency that neither the clock nor a register next to the planned one explains.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct FrequencyUnexplained {
    /// The signal.
    pub signal: String,
    /// What was measured.
    pub measured: Frequency,
    /// What was planned.
    pub planned: Frequency,
}

impl Described for FrequencyUnexplained {
    const NAME: &'static str = "frequency-unexplained";
    const ABOUT: &'static str = "A measured frequency is neither the planned one nor what a \
        clock of the part, or one count more or less in a register, would make. *Remedy*: read the timer's registers \
        on the target, and decode them.";

    fn severity(&self) -> Severity {
        Severity::Error
    }

    fn remedies(&self) -> Vec<Remedy> {
        vec![Remedy::DecodeRegisters]
    }
}

impl fmt::Display for FrequencyUnexplained {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(
            f,
            "{} has {}, and {} was planned: no clock of the part and no single count explains that",
            self.signal,
            self.measured.rounded(6),
            self.planned.rounded(6)
        )
    }
}

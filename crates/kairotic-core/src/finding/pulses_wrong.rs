//! Pulses are missing, too many, or out of step: what the registers do not do, software does.

use std::fmt;

use serde::Serialize;

use super::{Described, Remedy, Severity};

/// Pulses are missing, too many, or out of step: what the registers do not do, software does.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct PulsesWrong {
    /// The signal.
    pub signal: String,
    /// Cycles with pulses missing.
    pub missing: u64,
    /// Cycles with a pulse too many.
    pub doubled: u64,
    /// Cycles of another length.
    pub irregular: u64,
}

impl Described for PulsesWrong {
    const NAME: &'static str = "pulses-wrong";
    const ABOUT: &'static str = "A capture has cycles that are none of the timer's: with \
        pulses missing, with one too many, or of another length. What the registers do not do, software does. \
        *Remedy*: look for firmware that stops the timer or writes its registers in the middle of a period.";

    fn severity(&self) -> Severity {
        Severity::Error
    }

    fn remedies(&self) -> Vec<Remedy> {
        vec![Remedy::LookForWritesInPeriod]
    }
}

impl fmt::Display for PulsesWrong {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let words = [
            (self.missing, "with pulses missing"),
            (self.doubled, "with a pulse too many"),
            (self.irregular, "of another length"),
        ];
        let told = words.iter().filter(|(count, _)| *count > 0);
        let told: Vec<String> = told.map(|(count, words)| format!("{count} {words}")).collect();
        write!(f, "{} has cycles that are none of the timer's: {}", self.signal, told.join(", "))
    }
}

//! A motor or coil can be heard.

use std::fmt;

use serde::Serialize;

use super::{Described, Remedy, Severity};
use crate::quantity::Frequency;

/// A motor or coil can be heard.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct AudibleFrequency {
    /// What is driven.
    pub load: String,
    /// The frequency of the signal.
    pub frequency: Frequency,
    /// The frequency from which on it is quiet.
    pub quiet: Frequency,
}

impl Described for AudibleFrequency {
    const NAME: &'static str = "audible-frequency";
    const ABOUT: &'static str = "The motor is switched below the frequency from which its \
        board file calls it `quiet`. *Remedy*: at least that frequency, where the driver switches that fast.";

    fn severity(&self) -> Severity {
        Severity::Warning
    }

    fn remedies(&self) -> Vec<Remedy> {
        vec![Remedy::FrequencyAtLeast(self.quiet)]
    }
}

impl fmt::Display for AudibleFrequency {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(
            f,
            "{} can be heard in {}: it is quiet from {} on",
            self.frequency.rounded(6),
            self.load,
            self.quiet
        )
    }
}

//! A lamp is seen to flicker.

use std::fmt;

use serde::Serialize;

use super::{Described, Remedy, Severity};
use crate::quantity::Frequency;

/// A lamp is seen to flicker.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct VisibleFlicker {
    /// What is driven.
    pub load: String,
    /// The frequency of the signal.
    pub frequency: Frequency,
    /// The lowest at which it is not seen to.
    pub least: Frequency,
}

impl Described for VisibleFlicker {
    const NAME: &'static str = "visible-flicker";
    const ABOUT: &'static str = "A lamp is switched below the frequency that its board file \
        calls `flicker-free`. *Remedy*: at least that frequency.";

    fn severity(&self) -> Severity {
        Severity::Warning
    }

    fn remedies(&self) -> Vec<Remedy> {
        vec![Remedy::FrequencyAtLeast(self.least)]
    }
}

impl fmt::Display for VisibleFlicker {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(
            f,
            "at {} {} is seen to flicker: it takes {}",
            self.frequency.rounded(6),
            self.load,
            self.least
        )
    }
}

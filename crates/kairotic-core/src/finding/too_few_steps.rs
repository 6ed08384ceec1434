//! The setting has fewer steps than the load needs.

use std::fmt;

use serde::Serialize;

use super::{Described, Remedy, Severity};
use crate::quantity::show;

/// The setting has fewer steps than the load needs.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct TooFewSteps {
    /// The steps that there are.
    pub steps: u64,
    /// Those that were asked for.
    pub needed: u64,
}

fn bits(steps: u64) -> String {
    show::significant((steps as f64).log2(), 3)
}

impl Described for TooFewSteps {
    const NAME: &'static str = "too-few-steps";
    const ABOUT: &'static str = "The setting has fewer steps than were asked for. *Remedy*: a \
        lower frequency, a wider window, or a faster clock.";

    fn severity(&self) -> Severity {
        Severity::Error
    }

    fn remedies(&self) -> Vec<Remedy> {
        vec![Remedy::LowerFrequencyOrFasterClock]
    }
}

impl fmt::Display for TooFewSteps {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(
            f,
            "{} steps ({} bit) are fewer than the {} ({} bit) that were asked for",
            self.steps,
            bits(self.steps),
            self.needed,
            bits(self.needed)
        )
    }
}

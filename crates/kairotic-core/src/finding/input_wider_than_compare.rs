//! Several inputs share a compare value.

use std::fmt;

use serde::Serialize;

use super::{Described, Remedy, Severity};

/// Several inputs share a compare value.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct InputWiderThanCompare {
    /// The inputs.
    pub inputs: u64,
    /// The compare values.
    pub steps: u64,
}

impl Described for InputWiderThanCompare {
    const NAME: &'static str = "input-wider-than-compare";
    const ABOUT: &'static str = "A map has more inputs than compare values: several inputs \
        share one. A note. *Remedy*: more steps in the span, or a coarser input.";

    fn severity(&self) -> Severity {
        Severity::Note
    }

    fn remedies(&self) -> Vec<Remedy> {
        vec![Remedy::MoreStepsOrCoarserInput]
    }
}

impl fmt::Display for InputWiderThanCompare {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(
            f,
            "{} inputs share {} compare values: the input is finer than the signal",
            self.inputs, self.steps
        )
    }
}

//! A step is longer than the load's requirement.

use std::fmt;

use serde::Serialize;

use super::{Described, Remedy, Severity};
use crate::quantity::{Frequency, LoadLevel};

/// A step is longer than the load's requirement.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct FewStepsInSpan {
    /// What is driven.
    pub load: String,
    /// The steps in its span.
    pub steps: u64,
    /// The longest of them.
    pub step: LoadLevel,
    /// The steps that it takes.
    pub needed: u64,
    /// The longest step that will do.
    pub wanted: LoadLevel,
    /// A timer that makes as many.
    pub elsewhere: Option<Place>,
}

/// A timer that makes enough steps.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct Place {
    /// The timer, as `PART/TIMER`.
    pub timer: String,
    /// The steps that it makes.
    pub steps: u64,
    /// The clock from which it makes them.
    pub clock: Frequency,
}

impl Described for FewStepsInSpan {
    const NAME: &'static str = "few-steps-in-span";
    const ABOUT: &'static str = "A step is longer, in the load's own unit, than the signal's \
        `needs` allow. Steps are counted inside the load's span, not over the whole period. *Remedy*: the timer \
        named, of this part or of another.";

    fn severity(&self) -> Severity {
        Severity::Error
    }

    fn remedies(&self) -> Vec<Remedy> {
        vec![match &self.elsewhere {
            Some(Place { timer, steps, clock }) => {
                Remedy::UseFinerTimer { timer: timer.clone(), steps: *steps, clock: *clock }
            }
            None => Remedy::FinerSteps,
        }]
    }
}

impl fmt::Display for FewStepsInSpan {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(
            f,
            "inside the span of {} there are {} steps of {}: {} too few for steps of {}, which take {}",
            self.load,
            self.steps,
            self.step.rounded(3),
            self.needed.saturating_sub(self.steps),
            self.wanted.told(),
            self.needed
        )
    }
}

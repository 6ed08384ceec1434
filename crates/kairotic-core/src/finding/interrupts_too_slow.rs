//! Steps come faster than interrupts can be served.

use std::fmt;

use serde::Serialize;

use super::{Described, Remedy, Severity};
use crate::quantity::{Frequency, Rational, StepRate};

/// Steps come faster than interrupts can be served.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct InterruptsTooSlow {
    /// Clocks that each takes.
    pub cycles: u64,
    /// The clock.
    pub clock: Frequency,
    /// The fastest rate of the move.
    pub rate: StepRate,
    /// The fastest that can be served.
    pub most: StepRate,
}

impl InterruptsTooSlow {
    /// Whole clocks from step to step.
    fn clocks(&self) -> i128 {
        self.clock.value().over(self.rate.value()).map_or(0, Rational::floor)
    }
}

impl Described for InterruptsTooSlow {
    const NAME: &'static str = "interrupts-too-slow";
    const ABOUT: &'static str = "Each step takes an interrupt, and at the fastest rate of the move the next one comes before the \
        last is served: steps are lost, or the whole firmware stands still. *Remedy*: a rate that can be served, fewer \
        microsteps, or a shorter interrupt.";

    fn severity(&self) -> Severity {
        Severity::Error
    }

    fn remedies(&self) -> Vec<Remedy> {
        vec![Remedy::RateAtMost(self.most), Remedy::FewerMicrosteps]
    }
}

impl fmt::Display for InterruptsTooSlow {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(
            f,
            "at {} a step comes every {} clocks of {}, and its interrupt takes {}",
            self.rate.rounded(6),
            self.clocks(),
            self.clock,
            self.cycles
        )
    }
}

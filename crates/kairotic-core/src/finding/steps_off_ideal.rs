//! No way to make a ramp keeps its edges as near to the ideal as they should be.

use std::fmt;

use serde::Serialize;

use super::{Described, Remedy, Severity};
use crate::quantity::{Rational, show};

/// No way to make a ramp keeps its edges as near to the ideal as they should be.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct StepsOffIdeal {
    /// How far an edge is off, in ticks.
    pub ticks: Rational,
    /// How far it may be.
    pub wanted: Rational,
}

impl Described for StepsOffIdeal {
    const NAME: &'static str = "steps-off-ideal";
    const ABOUT: &'static str = "Of the ways for firmware to make a ramp, a table, a root for each step and a list of rates, none \
        keeps every edge within the ticks that were asked for: edges are rounded to ticks, and a ramp that is turned \
        round rounds twice. *Remedy*: allow what is named, or a finer tick.";

    fn severity(&self) -> Severity {
        Severity::Error
    }

    fn remedies(&self) -> Vec<Remedy> {
        vec![Remedy::AllowTicks(self.ticks), Remedy::FinerTick]
    }
}

impl fmt::Display for StepsOffIdeal {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(
            f,
            "an edge is up to {} ticks off the ideal, and {} are allowed",
            show::significant(self.ticks.approx(), 4),
            show::significant(self.wanted.approx(), 4)
        )
    }
}

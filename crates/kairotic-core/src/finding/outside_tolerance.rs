//! The frequency (or tick) is further off than was tolerated.

use std::fmt;

use serde::Serialize;

use super::{Described, Remedy, Severity};
use crate::quantity::{Deviation, Frequency, Rational, Time};

/// The frequency (or tick) is further off than was tolerated.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct OutsideTolerance {
    /// What there is.
    pub found: Made,
    /// What was wanted.
    pub wanted: Made,
    /// Found over wanted, less one.
    pub error: Deviation,
    /// How far it may be off.
    pub tolerance: Deviation,
    /// Changes of one register that would make it, where registers were decoded.
    pub changes: Vec<Remedy>,
}

/// What a timer makes.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum Made {
    /// A frequency.
    Frequency(Frequency),
    /// The tick of a counter.
    Tick(Time),
}

impl Made {
    fn rounded(self) -> String {
        match self {
            Self::Frequency(frequency) => frequency.rounded(6),
            Self::Tick(tick) => tick.rounded(6),
        }
    }

    fn told(self) -> String {
        match self {
            Self::Frequency(frequency) => frequency.told(),
            Self::Tick(tick) => tick.told(),
        }
    }
}

/// The smallest whole number of ppm, or of percent from one on, that covers an error.
fn covering(error: Deviation) -> Deviation {
    let size = error.value().magnitude();
    let parts = if size.times(Rational::whole(100)) >= Some(Rational::ONE) { 100 } else { 1_000_000 };
    let covering =
        size.times(Rational::whole(parts)).and_then(|size| Rational::new(size.ceiling(), parts.into()));
    Deviation::new(covering.unwrap_or(size))
}

impl Described for OutsideTolerance {
    const NAME: &'static str = "outside-tolerance";
    const ABOUT: &'static str = "The best frequency (or tick) is further off than the \
        tolerance allows. *Remedy*: a clock that the frequency divides, or more tolerance. From decoded registers, \
        the one register that would make the expected frequency with all others as they are.";

    fn severity(&self) -> Severity {
        Severity::Error
    }

    fn remedies(&self) -> Vec<Remedy> {
        if !self.changes.is_empty() {
            return self.changes.clone();
        }
        vec![
            match self.wanted {
                Made::Frequency(frequency) => Remedy::ClockMultipleOf(frequency),
                Made::Tick(tick) => Remedy::ClockWithTick(tick),
            },
            Remedy::WidenTolerance(covering(self.error)),
        ]
    }
}

impl fmt::Display for OutsideTolerance {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(
            f,
            "{} is {} off {}, more than {}",
            self.found.rounded(),
            self.error.rounded(4),
            self.wanted.told(),
            self.tolerance
        )
    }
}

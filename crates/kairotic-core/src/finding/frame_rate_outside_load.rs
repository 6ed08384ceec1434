//! Pulses come more or less often than the load tolerates.

use std::fmt;

use serde::Serialize;

use super::{Described, Remedy, Severity};
use crate::quantity::{Frequency, Range};

/// Pulses come more or less often than the load tolerates.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct FrameRateOutsideLoad {
    /// What is driven.
    pub load: String,
    /// How often they come.
    pub frequency: Frequency,
    /// What it tolerates.
    pub limits: Range<Frequency>,
}

impl Described for FrameRateOutsideLoad {
    const NAME: &'static str = "frame-rate-outside-load";
    const ABOUT: &'static str = "Pulses come more or less often than the load tolerates: the \
        `frame` of a servo or speed controller, the `window` of a fan. *Remedy*: a frequency inside it.";

    fn severity(&self) -> Severity {
        Severity::Error
    }

    fn remedies(&self) -> Vec<Remedy> {
        vec![Remedy::FrequencyWithin(self.limits)]
    }
}

impl fmt::Display for FrameRateOutsideLoad {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let Self { load, frequency, limits } = self;
        let (side, end) =
            if *frequency < limits.low { ("below", limits.low) } else { ("above", limits.high) };
        write!(f, "{} is {side} the {end} that {load} tolerates", frequency.rounded(6))
    }
}

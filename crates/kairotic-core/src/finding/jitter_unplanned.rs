//! Periods differ by more than the timer makes them.

use std::fmt;

use serde::Serialize;

use super::{Described, Remedy, Severity};
use crate::quantity::Time;

/// Periods differ by more than the timer makes them.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct JitterUnplanned {
    /// The signal.
    pub signal: String,
    /// How far its periods differ.
    pub measured: Time,
    /// How far the timer's do.
    pub planned: Time,
}

impl Described for JitterUnplanned {
    const NAME: &'static str = "jitter-unplanned";
    const ABOUT: &'static str = "The periods of a measured signal differ by more than the \
        timer makes them, and by more than the capture could. *Remedy*: edges that a timer makes by itself do not \
        shake so; look for pins that software moves.";

    fn severity(&self) -> Severity {
        Severity::Warning
    }

    fn remedies(&self) -> Vec<Remedy> {
        vec![Remedy::LookForSoftwareEdges]
    }
}

impl fmt::Display for JitterUnplanned {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "the periods of {} differ by {}, and the timer's ", self.signal, self.measured.rounded(3))?;
        if self.planned == Time::ZERO {
            return f.write_str("not at all");
        }
        write!(f, "by {}", self.planned.rounded(3))
    }
}

//! A measured frequency is explained by more than one thing, and the measurement cannot tell them apart.

use std::fmt;

use serde::Serialize;

use super::{Described, Remedy, Severity};
use crate::quantity::{Deviation, Frequency};

/// A measured frequency is explained by more than one thing, and the measurement cannot tell them apart.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct CauseUndecided {
    /// The signal.
    pub signal: String,
    /// What was measured.
    pub measured: Frequency,
    /// What was planned.
    pub planned: Frequency,
    /// What would make the measured frequency.
    pub explanations: Vec<Explanation>,
    /// What would tell them apart.
    pub would: Remedy,
}

/// Something that makes a measured frequency.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum Explanation {
    /// The planned registers, with a clock that is off.
    ClockOff {
        /// By how much.
        error: Deviation,
    },
    /// A register that holds another value than was planned.
    Register {
        /// The register or field.
        field: String,
        /// What it would hold.
        holds: u64,
        /// What was planned.
        planned: u64,
    },
    /// Another clock.
    OtherClock {
        /// The clock that would make it.
        clock: Frequency,
        /// What that clock is.
        origin: String,
        /// The clock that was planned.
        planned: Frequency,
    },
}

impl fmt::Display for Explanation {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::ClockOff { error } => {
                write!(f, "the planned registers with a clock that is {} off", error.rounded(3))
            }
            Self::Register { field, holds, planned } => {
                write!(f, "{field}={holds} in place of {field}={planned}")
            }
            Self::OtherClock { clock, origin, planned } => {
                write!(f, "{} ({origin}) in place of {}", clock.rounded(6), planned.rounded(6))
            }
        }
    }
}

impl Described for CauseUndecided {
    const NAME: &'static str = "cause-undecided";
    const ABOUT: &'static str = "A measured frequency is not the planned one, and more than \
        one thing would make it: the planned registers with a clock that is off by what it may be, a register that \
        is one off, or another clock. *Remedy*: what is named, since it would tell them apart: another signal of the \
        same clock in the same capture (a count of one timer does not move that), a clock whose tolerance is stated \
        closer, a better recorder, or a longer capture.";

    fn severity(&self) -> Severity {
        Severity::Warning
    }

    fn remedies(&self) -> Vec<Remedy> {
        vec![self.would.clone()]
    }
}

impl fmt::Display for CauseUndecided {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{} has {}, planned {}: ", self.signal, self.measured.rounded(9), self.planned.rounded(9))?;
        let words: Vec<String> = self.explanations.iter().map(ToString::to_string).collect();
        write!(f, "{} would make that, and the measurement cannot tell which", words.join(", or "))
    }
}

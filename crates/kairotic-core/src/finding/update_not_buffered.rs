//! A new compare value takes effect in the middle of a period.

use std::fmt;

use serde::Serialize;

use super::{Described, Remedy, Severity};
use crate::quantity::Time;

/// A new compare value takes effect in the middle of a period.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct UpdateNotBuffered {
    /// By so much one pulse can be too long.
    pub glitch: Time,
    /// Written before so much of a period has passed, it is not.
    pub safe: Time,
    /// What buffers it.
    pub buffered: Option<Remedy>,
}

impl Described for UpdateNotBuffered {
    const NAME: &'static str = "update-not-buffered";
    const ABOUT: &'static str = "A compare value takes effect as soon as it is written. One \
        that is below the counter already is not met in this period any more, and the output stays active to its \
        end. Not told where the latency of the write says that the firmware writes in time. *Remedy*: the mode or \
        timer named, which buffers; or write early in the period.";

    fn severity(&self) -> Severity {
        Severity::Warning
    }

    fn remedies(&self) -> Vec<Remedy> {
        {
            let write = Remedy::WriteEarlyInPeriod(self.safe);
            self.buffered.clone().into_iter().chain([write]).collect()
        }
    }
}

impl fmt::Display for UpdateNotBuffered {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(
            f,
            "a compare value takes effect at once: one that is below the counter already leaves the output active to the period's end, up to {} too long",
            self.glitch.rounded(4)
        )
    }
}

//! A compare value beyond the period: the counter never meets it, and the output never moves.

use std::fmt;

use serde::Serialize;

use super::{Described, Remedy, Severity};
use crate::target::Level;

/// A compare value beyond the period: the counter never meets it, and the output never moves.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct ComparePastTop {
    /// The channel.
    pub channel: String,
    /// Its compare value.
    pub compare: u64,
    /// The top.
    pub top: u64,
    /// The last compare value that changes anything.
    pub last: u64,
    /// The level at which the output stays.
    pub constant: Level,
}

impl Described for ComparePastTop {
    const NAME: &'static str = "compare-past-top";
    const ABOUT: &'static str = "The compare value is beyond the last one that changes \
        anything: the counter never meets it, and the output stays constant. *Remedy*: a compare value within the \
        range named.";

    fn severity(&self) -> Severity {
        Severity::Warning
    }

    fn remedies(&self) -> Vec<Remedy> {
        vec![Remedy::CompareAtMost(self.last)]
    }
}

impl fmt::Display for ComparePastTop {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(
            f,
            "compare {} on channel {} is past the top, {}: the counter never meets it, and the output stays {}",
            self.compare,
            self.channel,
            self.top,
            self.constant.word()
        )
    }
}

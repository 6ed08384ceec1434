//! A load does not follow some levels of a sequence.

use std::fmt;

use serde::Serialize;

use super::{Described, Remedy, Severity};
use crate::quantity::Time;

/// A load does not follow some levels of a sequence.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct DeadBandSwallows {
    /// The signal.
    pub signal: String,
    /// Levels that it does not follow.
    pub swallowed: u64,
    /// Levels of the sequence.
    pub levels: u64,
    /// Changes of the pulse that it does not follow.
    pub dead_band: Time,
}

impl Described for DeadBandSwallows {
    const NAME: &'static str = "dead-band-swallows";
    const ABOUT: &'static str = "Between levels of a sequence the pulse changes by no more than the servo's dead band: it stays, until \
        the pulse is further away, and moves in fewer and coarser steps than are written. *Remedy*: fewer levels do the same.";

    fn severity(&self) -> Severity {
        Severity::Warning
    }

    fn remedies(&self) -> Vec<Remedy> {
        vec![Remedy::LevelsApart(self.dead_band)]
    }
}

impl fmt::Display for DeadBandSwallows {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let Self { signal, swallowed, levels, dead_band } = self;
        write!(
            f,
            "{signal} does not follow {swallowed} of {levels} levels, since its pulse is no more than {} from where it acted last",
            dead_band.rounded(4)
        )
    }
}

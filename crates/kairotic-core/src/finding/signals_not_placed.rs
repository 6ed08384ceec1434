//! Signals of a board that cannot all be placed.

use std::fmt;

use serde::Serialize;

use super::{Described, Remedy, Severity};
use crate::error::{ConflictingSignal, PlacementConflict};

/// Signals of a board that cannot all be placed.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct SignalsNotPlaced {
    /// A smallest set of them: without any one of them the others can.
    pub conflict: PlacementConflict,
}

impl Described for SignalsNotPlaced {
    const NAME: &'static str = "signals-not-placed";
    const ABOUT: &'static str = "There is no way to give every signal a channel and a pin of its own, with one period and \
        one division for all signals of a counter. Those named are a smallest set: without any one of them the others can \
        be placed. *Remedy*: leave the place of one open where that is said to help, let signals share a frequency, or take \
        a part with more timers.";

    fn severity(&self) -> Severity {
        Severity::Error
    }

    fn remedies(&self) -> Vec<Remedy> {
        let freed = |signal: &ConflictingSignal| {
            let place = signal.instead.clone()?;
            Some(Remedy::LeavePlaceOpen { signal: signal.name.clone(), place })
        };
        let freed: Vec<Remedy> = self.conflict.signals.iter().filter_map(freed).collect();
        if freed.is_empty() { vec![Remedy::SeparateSignals] } else { freed }
    }
}

impl fmt::Display for SignalsNotPlaced {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        self.conflict.fmt(f)
    }
}

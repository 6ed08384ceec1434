//! A motor is turned the other way without a rest.

use std::fmt;

use serde::Serialize;

use super::{Described, Remedy, Severity};

/// A motor is turned the other way without a rest.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct ReversalWithoutPause {
    /// What is driven.
    pub load: String,
}

impl Described for ReversalWithoutPause {
    const NAME: &'static str = "reversal-without-pause";
    const ABOUT: &'static str = "A motor behind a bridge can be turned the other way, and \
        nobody said how long it rests before. Reversed at full speed it takes twice the current of a standing one. \
        *Remedy*: let it come to rest, and say how long with `pause`.";

    fn severity(&self) -> Severity {
        Severity::Warning
    }

    fn remedies(&self) -> Vec<Remedy> {
        vec![Remedy::DeclarePause]
    }
}

impl fmt::Display for ReversalWithoutPause {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(
            f,
            "{} can be reversed at full speed: the current is then twice that of a standing motor",
            self.load
        )
    }
}

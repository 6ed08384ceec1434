//! So many settings were asked for that not all are shown.

use std::fmt;

use serde::Serialize;

use super::{Described, Remedy, Severity};

/// So many settings were asked for that not all are shown.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct SettingsLeftOut {
    /// The settings that are shown.
    pub shown: u64,
    /// Those that are not.
    pub omitted: u64,
}

impl Described for SettingsLeftOut {
    const NAME: &'static str = "settings-left-out";
    const ABOUT: &'static str = "More settings were found than are shown; the best are. \
        *Remedy*: a narrower tolerance, one mode, or more steps.";

    fn severity(&self) -> Severity {
        Severity::Note
    }

    fn remedies(&self) -> Vec<Remedy> {
        vec![Remedy::NarrowSearch]
    }
}

impl fmt::Display for SettingsLeftOut {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(
            f,
            "{} settings are shown, the best ones; {} more are within the tolerance",
            self.shown, self.omitted
        )
    }
}

//! A window is shorter than the time between two pulses of the slowest speed.

use std::fmt;

use serde::Serialize;

use super::{Described, Remedy, Severity};
use crate::quantity::{Speed, Time};

/// A window is shorter than the time between two pulses of the slowest speed.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct WindowTooShort {
    /// The window.
    pub window: Time,
    /// The slowest speed.
    pub speed: Speed,
    /// The window that would see a pulse.
    pub needed: Time,
    /// Whether there is no other method.
    pub alone: bool,
}

impl Described for WindowTooShort {
    const NAME: &'static str = "window-too-short";
    const ABOUT: &'static str = "At the slowest speed some windows see no pulse, so that it \
        reads as standing still. An error where there is no other method, else a note. *Remedy*: the window that is \
        named, or period measurement.";

    fn severity(&self) -> Severity {
        if self.alone { Severity::Error } else { Severity::Note }
    }

    fn remedies(&self) -> Vec<Remedy> {
        vec![Remedy::WindowAtLeast(self.needed), Remedy::TimePulsesWhenSlow]
    }
}

impl fmt::Display for WindowTooShort {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(
            f,
            "at {} some windows of {} see no pulse and read as standing still",
            self.speed.rounded(4),
            self.window.rounded(4)
        )
    }
}

//! How finely a speed is told, by each way to tell it.

use serde::Serialize;

use crate::quantity::{Speed, Time};

/// One reading of a speed.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct SpeedReading {
    /// What is counted.
    pub counts: u64,
    /// How far the next reading lies.
    pub step: Speed,
    /// How long it takes.
    pub takes: Time,
}

/// Both methods at one speed.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct AtSpeed {
    /// The speed.
    pub speed: Speed,
    /// From one pulse to the next, where the timer can capture.
    pub interval: Option<SpeedReading>,
    /// Over a whole turn, where that is more than one pulse.
    pub turn: Option<SpeedReading>,
    /// In a window.
    pub window: SpeedReading,
}

/// One of the two methods.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum Method {
    /// From one pulse to the next.
    Period,
    /// Pulses in a window.
    Window,
}

impl Method {
    /// The word for it.
    pub const fn word(self) -> &'static str {
        match self {
            Self::Period => "period",
            Self::Window => "window",
        }
    }
}

impl AtSpeed {
    /// The method whose readings lie closer together.
    pub fn finer(&self) -> Method {
        match &self.interval {
            Some(interval) if interval.step <= self.window.step => Method::Period,
            _ => Method::Window,
        }
    }
}

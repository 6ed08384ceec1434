//! One change of one signal.

use serde::Serialize;

/// The level of a recorded signal.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum Logic {
    /// Low.
    Low,
    /// High.
    High,
    /// Neither, or not known.
    Unknown,
}

impl Logic {
    /// High for `true`.
    pub const fn of(high: bool) -> Self {
        if high { Self::High } else { Self::Low }
    }

    /// The word for it.
    pub const fn word(self) -> &'static str {
        match self {
            Self::Low => "low",
            Self::High => "high",
            Self::Unknown => "unknown",
        }
    }
}

/// One change of one signal, as a recorder saw it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Change {
    /// When, in ticks of the recorder.
    pub at: u64,
    /// The signal's place in the capture.
    pub signal: u32,
    /// What it became.
    pub level: Logic,
}

//! What is required of a signal.

use serde::Serialize;

use crate::quantity::{Deviation, LoadLevel, Time};

/// What is required of a signal.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Needs {
    /// How far the frequency may be off by the registers.
    pub frequency: Option<Deviation>,
    /// How far the pulse may be off by the registers.
    pub pulse: Option<Time>,
    /// How far the level may be off, in the load's unit.
    pub level: Option<LoadLevel>,
    /// The fewest steps that will do, in the span if there is one.
    pub steps: Option<u64>,
    /// The longest step that will do, in the load's unit.
    pub step: Option<LoadLevel>,
    /// The largest difference between periods that will do.
    pub jitter: Option<Time>,
    /// How far the clock may be off.
    pub clock: Option<Deviation>,
}

/// The kinds of requirements.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum Need {
    /// The frequency's error.
    Frequency,
    /// The pulse's error.
    Pulse,
    /// The level's error.
    Level,
    /// The number of steps.
    Steps,
    /// The length of a step.
    Step,
    /// The jitter.
    Jitter,
    /// The clock's error.
    Clock,
}

impl Need {
    /// The key that board files have for it.
    pub const fn key(self) -> &'static str {
        match self {
            Self::Frequency => "frequency",
            Self::Pulse => "pulse",
            Self::Level => "level",
            Self::Steps => "steps",
            Self::Step => "step",
            Self::Jitter => "jitter",
            Self::Clock => "clock",
        }
    }

    /// The words that outputs use.
    pub const fn words(self) -> &'static str {
        match self {
            Self::Frequency => "frequency error",
            Self::Pulse => "pulse error",
            Self::Level => "level error",
            Self::Steps => "steps",
            Self::Step => "step",
            Self::Jitter => "jitter",
            Self::Clock => "clock error",
        }
    }
}

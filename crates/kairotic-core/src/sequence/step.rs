//! A sequence as it is wanted: steps of signals, one after the other or at times that are said.

use serde::Serialize;

use super::setpoint::Setpoint;
use crate::quantity::Time;

/// What several signals do, one step after the other.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Sequence {
    /// Its name.
    pub name: String,
    /// Its steps.
    pub steps: Vec<SequenceStep>,
    /// How often all of them are made.
    pub repeat: u32,
}

/// A step of a sequence.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct SequenceStep {
    /// The signal that it moves.
    pub signal: String,
    /// When it begins, from the beginning of the sequence; when the one before it ends, where that is not said.
    pub begins: Option<Time>,
    /// Where it begins; where the signal is, if that is not said.
    pub from: Option<Setpoint>,
    /// Where it goes.
    pub to: StepGoal,
    /// How long it is on its way.
    pub over: Time,
    /// Levels of the way, both ends among them; as many as there are, where that is not said.
    pub levels: Option<u32>,
    /// How the level changes.
    pub shape: LevelShape,
    /// How long it stays, at both ends of a way there and back.
    pub hold: Time,
    /// Whether it goes back as it came.
    pub back: bool,
    /// How often it is made.
    pub repeat: u32,
}

impl SequenceStep {
    /// A step that goes somewhere at once.
    pub const fn at_once(signal: String, to: StepGoal) -> Self {
        Self {
            signal,
            begins: None,
            from: None,
            to,
            over: Time::ZERO,
            levels: None,
            shape: LevelShape::Linear,
            hold: Time::ZERO,
            back: false,
            repeat: 1,
        }
    }
}

/// Where a step goes.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum StepGoal {
    /// To a place.
    Setpoint(Setpoint),
    /// Nowhere: the signal stays.
    Stay,
    /// To the pulse that a speed controller wants to see, as long as it wants to see it.
    Arm,
    /// To the longest pulse and then to the shortest, for a speed controller that learns its ends.
    Teach,
}

/// How a level changes on its way.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum LevelShape {
    /// Evenly.
    Linear,
    /// Slowly at both ends: with the share u of the time it has gone 3u^2 - 2u^3 of the way.
    Smooth,
}

impl LevelShape {
    /// The word for it.
    pub const fn word(self) -> &'static str {
        match self {
            Self::Linear => "linear",
            Self::Smooth => "smooth",
        }
    }
}

/// What a goal is called that is no place: in board files and in texts.
pub const ARM: &str = "arm";
/// The same for a controller that learns its ends.
pub const TEACH: &str = "calibrate";

impl StepGoal {
    /// A goal from text: a word, or what `place` makes of it.
    ///
    /// # Errors
    /// What `place` refuses.
    pub fn read<E>(text: &str, place: impl FnOnce(&str) -> Result<Setpoint, E>) -> Result<Self, E> {
        match text {
            ARM => Ok(Self::Arm),
            TEACH => Ok(Self::Teach),
            _ => place(text).map(Self::Setpoint),
        }
    }
}

//! The legs of a signal: ways and stays on a line of time without periods.

use serde::Serialize;

use super::setpoint::Setpoint;
use super::step::LevelShape;
use crate::error::Result;
use crate::quantity::Time;

/// A way of a signal, and its stay at the end. What comes before it has its own.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) struct Leg {
    /// The step that it belongs to, from zero on, and which time all steps are made.
    pub(super) step: usize,
    pub(super) pass: u32,
    /// Why it is made.
    pub(super) cause: LegCause,
    /// When it begins, from the beginning of the sequence.
    pub(super) begins: Time,
    pub(super) from: Setpoint,
    pub(super) to: Setpoint,
    pub(super) over: Time,
    pub(super) levels: Option<u32>,
    pub(super) shape: LevelShape,
    pub(super) hold: Time,
    /// Whether the load turns the other way on it.
    pub(super) backward: bool,
    /// Whether the load has been kicked and turns already: the way begins at the least that keeps it turning.
    pub(super) rolling: bool,
}

/// Why a leg is made.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum LegCause {
    /// A step asks for it.
    Asked,
    /// A speed controller wants to see it before it lets the motor turn.
    Arming,
    /// A speed controller learns its longest pulse.
    Longest,
    /// A speed controller learns its shortest pulse.
    Shortest,
    /// It makes the load break away.
    Kick,
    /// The load rests before it turns the other way.
    Pause,
}

impl LegCause {
    /// In a few words, where no step asks for it as it is.
    pub const fn words(self) -> Option<&'static str> {
        match self {
            Self::Asked => None,
            Self::Arming => Some("arms it"),
            Self::Longest => Some("its longest, to learn"),
            Self::Shortest => Some("its shortest, to learn"),
            Self::Kick => Some("breaks it away"),
            Self::Pause => Some("rests before it turns"),
        }
    }

    /// Whether the program put it in, and the step says nothing of it.
    pub const fn is_inserted(self) -> bool {
        matches!(self, Self::Kick | Self::Pause)
    }
}

impl Leg {
    /// When it is where it goes.
    pub(super) fn arrives(&self) -> Result<Time> {
        Ok(self.begins.plus(self.over)?)
    }

    /// When it ends.
    pub(super) fn ends(&self) -> Result<Time> {
        Ok(self.arrives()?.plus(self.hold)?)
    }
}

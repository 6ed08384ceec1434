//! A setting as its load sees it.

use serde::Serialize;

use crate::quantity::{LoadLevel, Time, Voltage};

/// The change of pulse that a servo does not follow.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
pub struct DeadBand {
    /// As a pulse.
    pub pulse: Time,
    /// In the load's unit.
    pub level: LoadLevel,
}

/// A setting as its load sees it.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct Driven {
    /// The load's name.
    pub load: String,
    /// The word for its kind.
    pub kind: &'static str,
    /// What its own unit measures.
    pub measures: &'static str,
    /// The level of each output.
    pub outputs: Vec<LoadLevel>,
    /// The largest change that one step makes, inside the load's span.
    pub step: LoadLevel,
    /// How many steps lie inside the load's span.
    pub steps: u64,
    /// The average voltage at the first output's duty, at a motor.
    pub average: Option<Voltage>,
    /// What the lines of a bridge do, at a motor.
    pub lines: Option<&'static str>,
    /// Changes that a servo does not follow, as a pulse and as an angle.
    pub dead_band: Option<DeadBand>,
    /// What a speed controller wants to see before it lets the motor turn.
    pub arming: Option<Arming>,
}

/// What a speed controller wants to see before it lets the motor turn.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
pub struct Arming {
    /// The pulse.
    pub pulse: Time,
    /// For how long.
    pub hold: Time,
}

//! A fan with a control input: speed against duty.

use serde::Serialize;

use super::line::Line;
use crate::error::Result;
use crate::quantity::{Duty, Frequency, Range, Rational};

/// A fan.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
pub struct Fan {
    /// The frequencies that its input takes.
    pub window: Option<Range<Frequency>>,
    /// The duty of its slowest speed.
    pub lowest: Duty,
    /// Its slowest speed as a share of full speed.
    pub slowest: Duty,
    /// Pulses that it gives for each turn.
    pub pulses_per_turn: Option<u32>,
}

impl Fan {
    fn line(&self) -> Line {
        Line { from: (self.slowest.value(), self.lowest.value()), to: (Rational::ONE, Rational::ONE) }
    }

    /// The duty for a speed from 0 to 1; below the slowest it is off.
    pub(super) fn duty(&self, speed: Rational) -> Result<Duty> {
        if speed < self.slowest.value() {
            return Ok(Duty::ZERO);
        }
        self.line().at(speed).map(Duty::new)
    }

    /// The speed of a duty; zero below the lowest.
    pub(super) fn speed(&self, duty: Rational) -> Result<Rational> {
        if duty < self.lowest.value() {
            return Ok(Rational::ZERO);
        }
        self.line().turned().at(duty)
    }
}

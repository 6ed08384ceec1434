//! A speed controller: the length of the pulse is a throttle, in one direction or in both.

use serde::Serialize;

use super::line::Line;
use crate::error::Result;
use crate::quantity::{Frequency, Range, Rational, Time};

/// A speed controller.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
pub struct SpeedController {
    /// The pulses for the lowest and for full throttle.
    pub span: Range<Time>,
    /// The pulse at rest of one that goes both ways; one that goes one way rests at its lowest pulse.
    pub neutral: Option<Time>,
    /// What it wants to see before it lets the motor turn.
    pub arming: Option<Arming>,
    /// The frame rates that it tolerates.
    pub frame: Option<Range<Frequency>>,
}

/// What a speed controller wants to see before it lets the motor turn.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
pub struct Arming {
    /// The pulse.
    pub pulse: Time,
    /// For how long.
    pub hold: Time,
}

impl SpeedController {
    /// The line of forward throttle, or of reverse.
    fn line(&self, forward: bool) -> Line {
        let rest = self.neutral.unwrap_or(self.span.low).value();
        if forward || self.neutral.is_none() {
            Line { from: (Rational::ZERO, rest), to: (Rational::ONE, self.span.high.value()) }
        } else {
            Line { from: (Rational::whole(-1), self.span.low.value()), to: (Rational::ZERO, rest) }
        }
    }

    /// The pulse for a throttle from -1 to 1.
    pub(super) fn pulse(&self, throttle: Rational) -> Result<Time> {
        self.line(throttle >= Rational::ZERO).at(throttle).map(Time::new)
    }

    /// The throttle for a pulse, in seconds.
    pub(super) fn throttle(&self, pulse: Rational) -> Result<Rational> {
        let rest = self.neutral.unwrap_or(self.span.low).value();
        self.line(pulse >= rest).turned().at(pulse)
    }
}

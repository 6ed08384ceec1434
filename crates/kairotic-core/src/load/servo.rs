//! A servo: the length of the pulse is an angle.

use serde::Serialize;

use super::line::Line;
use crate::error::Result;
use crate::quantity::{Angle, Frequency, Range, Rational, Time};

/// A servo.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
pub struct Servo {
    /// The shortest and the longest pulse that it is given.
    pub span: Range<Time>,
    /// The angles for the two, in either order.
    pub travel: Range<Angle>,
    /// Changes of the pulse that it does not follow.
    pub dead_band: Option<Time>,
    /// The frame rates that it tolerates.
    pub frame: Option<Range<Frequency>>,
}

impl Servo {
    fn line(&self) -> Line {
        Line {
            from: (self.span.low.value(), self.travel.low.value()),
            to: (self.span.high.value(), self.travel.high.value()),
        }
    }

    /// The pulse for an angle, in turns.
    pub(super) fn pulse(&self, angle: Rational) -> Result<Time> {
        self.line().turned().at(angle).map(Time::new)
    }

    /// The angle for a pulse, in seconds.
    pub(super) fn angle(&self, pulse: Rational) -> Result<Angle> {
        self.line().at(pulse).map(Angle::new)
    }
}

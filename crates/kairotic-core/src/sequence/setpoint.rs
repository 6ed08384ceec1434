//! Where a signal stands: at a level of its load, or at a duty or pulse.

use serde::Serialize;

use crate::error::{OrOverflow, Result};
use crate::load::{Kind, LoadKind, Realised};
use crate::quantity::{Duty, LoadLevel, Rational, Time};
use crate::target::{Active, Span};

/// Where a signal stands.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum Setpoint {
    /// At a level of its load.
    Level(LoadLevel),
    /// At a duty or a pulse.
    Active(Active),
}

impl Setpoint {
    /// A place from text: a level of a load, or a pulse where that is what the load sees; without a load a duty or a pulse.
    ///
    /// # Errors
    /// [`Error::Quantity`](crate::Error::Quantity) that names the units which fit.
    pub fn read(load: Option<&Kind>, text: &str) -> Result<Self> {
        let pulse = text.parse::<Time>().ok().map(|pulse| Self::Active(Active::Pulse(pulse)));
        match load {
            Some(load) => {
                let pulse = pulse.filter(|_| matches!(load.span(), Ok(Span::Pulse(_))));
                pulse.map_or_else(|| load.read_level(text).map(Self::Level), Ok)
            }
            None => {
                let duty = || Ok(Self::Active(Active::Duty(text.parse::<Duty>()?)));
                pulse.map_or_else(duty, Ok)
            }
        }
    }

    /// The active time that it is.
    ///
    /// # Errors
    /// [`Error::LevelOutside`](crate::Error::LevelOutside) for a level that the load does not have.
    pub(super) fn active(self, load: Option<&Kind>) -> Result<Active> {
        match (self, load) {
            (Self::Active(active), _) => Ok(active),
            (Self::Level(level), Some(load)) => load.active(level),
            // Without a load a level is the share of the period.
            (Self::Level(level), None) => Ok(Active::Duty(Duty::new(level.value()))),
        }
    }

    /// The same as a level of the load, where it has one.
    pub(super) fn as_level(self, load: Option<&Kind>, period: Time) -> Result<Self> {
        let (Self::Active(active), Some(load)) = (self, load) else { return Ok(self) };
        let realised = match active {
            Active::Duty(duty) => Realised { duty, pulse: duty.of(period)? },
            Active::Pulse(pulse) => Realised { duty: Duty::new(pulse.ratio_to(period)?), pulse },
        };
        load.level(realised).map(Self::Level)
    }

    /// The number of base units.
    pub(super) fn value(self) -> Rational {
        match self {
            Self::Level(level) => level.value(),
            Self::Active(active) => active.value(),
        }
    }

    /// The same kind of place with another number of base units.
    pub(super) const fn with(self, value: Rational) -> Self {
        match self {
            Self::Level(level) => Self::Level(level.with(value)),
            Self::Active(Active::Duty(_)) => Self::Active(Active::Duty(Duty::new(value))),
            Self::Active(Active::Pulse(_)) => Self::Active(Active::Pulse(Time::new(value))),
        }
    }

    /// So far on the way to another place of the same kind, from 0 to 1.
    pub(super) fn towards(self, to: Self, share: Rational) -> Result<Self> {
        let way = to.value().minus(self.value()).and_then(|way| way.times(share));
        way.and_then(|way| self.value().plus(way)).or_overflow("level").map(|value| self.with(value))
    }

    /// Text to a number of significant digits.
    pub fn rounded(self, digits: usize) -> String {
        match self {
            Self::Level(level) => level.rounded(digits),
            Self::Active(Active::Duty(duty)) => duty.rounded(digits),
            Self::Active(Active::Pulse(pulse)) => pulse.rounded(digits),
        }
    }

    /// The number in the unit that programs are told it in, with that unit; a share has none.
    pub fn reported(self) -> (Rational, Option<&'static str>) {
        match self {
            Self::Level(level) => level.reported(),
            Self::Active(Active::Duty(duty)) => duty.reported(),
            Self::Active(Active::Pulse(pulse)) => pulse.reported(),
        }
    }
}

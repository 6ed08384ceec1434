//! A value in a load's own unit.

use std::fmt;

use serde::Serialize;

use super::error::Result;
use super::{Angle, Duty, Power, QuantityError, Range, Rational};

/// A value in a load's own unit.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(untagged)]
pub enum LoadLevel {
    /// A servo's angle.
    Angle(Angle),
    /// A throttle, brightness or speed as a share of the whole; less than zero the other way round.
    Share(Duty),
    /// A heater's power.
    Power(Power),
}

impl LoadLevel {
    /// The number of base units: turns, wholes, watts.
    pub fn value(self) -> Rational {
        match self {
            Self::Angle(angle) => angle.value(),
            Self::Share(share) => share.value(),
            Self::Power(power) => power.value(),
        }
    }

    /// The number in the unit that programs are told it in, with that unit; a share has none.
    pub fn reported(self) -> (Rational, Option<&'static str>) {
        match self {
            Self::Angle(angle) => angle.reported(),
            Self::Share(share) => share.reported(),
            Self::Power(power) => power.reported(),
        }
    }

    /// The same kind of level with another number of base units.
    pub const fn with(self, value: Rational) -> Self {
        match self {
            Self::Angle(_) => Self::Angle(Angle::new(value)),
            Self::Share(_) => Self::Share(Duty::new(value)),
            Self::Power(_) => Self::Power(Power::new(value)),
        }
    }

    /// The difference of two levels of one kind.
    ///
    /// # Errors
    /// A difference that does not fit.
    pub fn less(self, other: Self) -> Result<Self> {
        let difference = self.value().minus(other.value());
        difference.map(|value| self.with(value)).ok_or(QuantityError::Overflow { quantity: "level" })
    }

    /// The end of a range that is further from zero, without its sign.
    pub fn further(range: Range<Self>) -> Self {
        let (low, high) = (range.low.magnitude(), range.high.magnitude());
        if low.value() > high.value() { low } else { high }
    }

    /// The distance from zero.
    pub fn magnitude(self) -> Self {
        self.with(self.value().magnitude())
    }

    /// The shortest exact text.
    pub fn told(self) -> String {
        match self {
            Self::Angle(angle) => angle.told(),
            Self::Share(share) => share.told(),
            Self::Power(power) => power.told(),
        }
    }

    /// Text to a number of significant digits.
    pub fn rounded(self, digits: usize) -> String {
        match self {
            Self::Angle(angle) => angle.rounded(digits),
            Self::Share(share) => share.rounded(digits),
            Self::Power(power) => power.rounded(digits),
        }
    }
}

/// The exact text, as [`LoadLevel::told`].
impl fmt::Display for LoadLevel {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(&self.told())
    }
}

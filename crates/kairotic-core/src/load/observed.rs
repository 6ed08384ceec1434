//! What was seen of a load, in the unit that it was measured in.

use serde::Serialize;

use crate::quantity::{Figure, LoadLevel, Rational, Speed, Voltage};

/// What was seen of a load.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(untagged)]
pub enum ObservedValue {
    /// A level in the load's own unit.
    Level(LoadLevel),
    /// How fast it turns, the other way round less than zero.
    Speed(Speed),
    /// The average voltage over a motor.
    Voltage(Voltage),
}

impl ObservedValue {
    /// The same as a figure of any kind.
    pub const fn figure(self) -> Figure {
        match self {
            Self::Level(level) => Figure::Level(level),
            Self::Speed(speed) => Figure::Speed(speed),
            Self::Voltage(voltage) => Figure::Voltage(voltage),
        }
    }

    /// The number of base units: those of the level, turns a second, or volts.
    pub fn value(self) -> Rational {
        match self {
            Self::Level(level) => level.value(),
            Self::Speed(speed) => speed.value(),
            Self::Voltage(voltage) => voltage.value(),
        }
    }

    /// The number in the unit that programs are told it in, with that unit; a share has none.
    pub fn reported(self) -> (Rational, Option<&'static str>) {
        match self {
            Self::Level(level) => level.reported(),
            Self::Speed(speed) => speed.reported(),
            Self::Voltage(voltage) => voltage.reported(),
        }
    }

    /// The same kind of reading with another number of base units.
    pub const fn with(self, value: Rational) -> Self {
        match self {
            Self::Level(level) => Self::Level(level.with(value)),
            Self::Speed(_) => Self::Speed(Speed::new(value)),
            Self::Voltage(_) => Self::Voltage(Voltage::new(value)),
        }
    }

    /// The shortest exact text.
    pub fn told(self) -> String {
        match self {
            Self::Level(level) => level.told(),
            Self::Speed(speed) => speed.told(),
            Self::Voltage(voltage) => voltage.told(),
        }
    }

    /// Text to a number of significant digits.
    pub fn rounded(self, digits: usize) -> String {
        match self {
            Self::Level(level) => level.rounded(digits),
            Self::Speed(speed) => speed.rounded(digits),
            Self::Voltage(voltage) => voltage.rounded(digits),
        }
    }
}

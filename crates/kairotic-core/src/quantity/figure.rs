//! A figure of any kind, as requirements and findings have them.

use std::fmt;

use serde::Serialize;

use super::{Deviation, Duty, Frequency, LoadLevel, Rational, Resistance, Speed, Time, Voltage};

/// A figure of any kind.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(untagged)]
pub enum Figure {
    /// A number of things, such as steps.
    Count(u64),
    /// A relative deviation.
    Deviation(Deviation),
    /// A duty.
    Duty(Duty),
    /// A frequency.
    Frequency(Frequency),
    /// A time.
    Time(Time),
    /// A level in a load's own unit.
    Level(LoadLevel),
    /// A speed of turning.
    Speed(Speed),
    /// A voltage.
    Voltage(Voltage),
    /// A resistance.
    Resistance(Resistance),
}

impl Figure {
    /// The number of base units, or of things.
    pub fn value(self) -> Rational {
        match self {
            Self::Count(count) => count.into(),
            Self::Deviation(deviation) => deviation.value(),
            Self::Duty(duty) => duty.value(),
            Self::Frequency(frequency) => frequency.value(),
            Self::Time(time) => time.value(),
            Self::Level(level) => level.value(),
            Self::Speed(speed) => speed.value(),
            Self::Voltage(voltage) => voltage.value(),
            Self::Resistance(resistance) => resistance.value(),
        }
    }

    /// Text to a number of significant digits; a count is told whole.
    pub fn rounded(self, digits: usize) -> String {
        match self {
            Self::Count(count) => count.to_string(),
            Self::Deviation(deviation) => deviation.rounded(digits),
            Self::Duty(duty) => duty.rounded(digits),
            Self::Frequency(frequency) => frequency.rounded(digits),
            Self::Time(time) => time.rounded(digits),
            Self::Level(level) => level.rounded(digits),
            Self::Speed(speed) => speed.rounded(digits),
            Self::Voltage(voltage) => voltage.rounded(digits),
            Self::Resistance(resistance) => resistance.rounded(digits),
        }
    }
}

/// Exact text where it is short, as quantities have it.
impl fmt::Display for Figure {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Count(count) => count.fmt(f),
            Self::Deviation(deviation) => deviation.fmt(f),
            Self::Duty(duty) => duty.fmt(f),
            Self::Frequency(frequency) => frequency.fmt(f),
            Self::Time(time) => time.fmt(f),
            Self::Level(level) => level.fmt(f),
            Self::Speed(speed) => speed.fmt(f),
            Self::Voltage(voltage) => voltage.fmt(f),
            Self::Resistance(resistance) => resistance.fmt(f),
        }
    }
}

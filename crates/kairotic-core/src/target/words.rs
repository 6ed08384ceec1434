//! The words that a target is stated in: how often, how long active, between which ends, at which level.

use std::str::FromStr;

use serde::Serialize;

use crate::error::{Error, Result};
use crate::quantity::{Duty, Figure, Frequency, Range, Rational, Time, parse};

/// The repetition that is wanted, as it was stated.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum Aim {
    /// As a frequency.
    Frequency(Frequency),
    /// As a period.
    Period(Time),
    /// As a window: any frequency in it will do.
    Window(Range<Frequency>),
}

/// A frequency, `25kHz`, or a window with its lower end first, `18kHz..25kHz`; greater than zero.
impl FromStr for Aim {
    type Err = Error;

    fn from_str(text: &str) -> Result<Self> {
        if text.contains("..") {
            return Ok(Self::Window(rising(parse::range(text)?)?));
        }
        let frequency: Frequency = parse::quantity(text)?;
        Ok(Self::Frequency(frequency.positive()?))
    }
}

/// A window of frequencies greater than zero, if its lower end stands first.
pub(super) fn rising(window: Range<Frequency>) -> Result<Range<Frequency>> {
    if window.low >= window.high {
        let [low, high] = [window.low, window.high].map(Figure::Frequency);
        return Err(Error::reversed(low, high));
    }
    window.low.positive()?;
    Ok(window)
}

/// The active time that is wanted in each period, as it was stated.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum Active {
    /// As a share of the period.
    Duty(Duty),
    /// As a time.
    Pulse(Time),
}

impl Active {
    /// The number of base units: wholes of the period, or seconds.
    pub fn value(self) -> Rational {
        match self {
            Self::Duty(duty) => duty.value(),
            Self::Pulse(pulse) => pulse.value(),
        }
    }

    /// The same as a figure of any kind.
    pub const fn figure(self) -> Figure {
        match self {
            Self::Duty(duty) => Figure::Duty(duty),
            Self::Pulse(pulse) => Figure::Time(pulse),
        }
    }

    /// Exact text with its unit.
    pub fn told(self) -> String {
        match self {
            Self::Duty(duty) => duty.told(),
            Self::Pulse(pulse) => pulse.told(),
        }
    }

    /// The word for what it is.
    pub const fn word(self) -> &'static str {
        match self {
            Self::Duty(_) => "duty",
            Self::Pulse(_) => "pulse",
        }
    }
}

/// One signal on one channel.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct Ask {
    /// The channel's label; the next free one where none is given.
    pub channel: Option<String>,
    /// Its active time.
    #[serde(flatten)]
    pub active: Active,
    /// How long after the start of the period it begins.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub start: Option<Active>,
}

/// The active times that the load uses, from lowest to highest.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum Span {
    /// As shares of the period.
    Duty(Range<Duty>),
    /// As times.
    Pulse(Range<Time>),
}

impl Span {
    /// The lower end.
    pub const fn low(self) -> Active {
        match self {
            Self::Duty(range) => Active::Duty(range.low),
            Self::Pulse(range) => Active::Pulse(range.low),
        }
    }

    /// The higher end.
    pub const fn high(self) -> Active {
        match self {
            Self::Duty(range) => Active::Duty(range.high),
            Self::Pulse(range) => Active::Pulse(range.high),
        }
    }

    /// The same span, if its lower end stands first.
    ///
    /// # Errors
    /// [`Error::RangeReversed`].
    pub fn rising(self) -> Result<Self> {
        let rises = match self {
            Self::Duty(range) => range.low < range.high,
            Self::Pulse(range) => range.low < range.high,
        };
        match rises {
            true => Ok(self),
            false => Err(Error::reversed(self.low().figure(), self.high().figure())),
        }
    }

    /// Exact text, as it could have been typed.
    pub fn told(self) -> String {
        format!("{}..{}", self.low().told(), self.high().told())
    }
}

/// Duties where the text has percents, else pulses.
impl FromStr for Span {
    type Err = Error;

    fn from_str(text: &str) -> Result<Self> {
        if text.contains('%') {
            Ok(Self::Duty(parse::range(text)?))
        } else {
            Ok(Self::Pulse(parse::range(text)?))
        }
    }
}

/// The pin's level while the output is active.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum Level {
    /// The pin is high.
    #[default]
    High,
    /// The pin is low.
    Low,
}

impl Level {
    /// The word for it.
    pub const fn word(self) -> &'static str {
        match self {
            Self::High => "high",
            Self::Low => "low",
        }
    }
}

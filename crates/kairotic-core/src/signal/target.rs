//! What is wanted of a timer.

use std::str::FromStr;

use serde::Serialize;

use crate::error::{Error, Result};
use crate::quantity::{Deviation, Duty, Frequency, OrOverflow, Range, Rational, Time, parse};

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
    /// [`Error::SpanReversed`].
    pub fn rising(self) -> Result<Self> {
        let rises = match self {
            Self::Duty(range) => range.low < range.high,
            Self::Pulse(range) => range.low < range.high,
        };
        let (low, high) = (self.low().told(), self.high().told());
        if rises { Ok(self) } else { Err(Error::SpanReversed { low, high }) }
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
            parse::range(text).map(Self::Duty)
        } else {
            parse::range(text).map(Self::Pulse)
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

/// A signal that is wanted of a timer.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct Target {
    /// Frequency or period.
    #[serde(flatten)]
    pub aim: Aim,
    /// The signals, one a channel; none for the period alone.
    pub asks: Vec<Ask>,
    /// The active times between which resolution counts.
    pub span: Option<Span>,
    /// How far the frequency may be off.
    pub within: Deviation,
    /// The pin's level while the output is active.
    pub level: Level,
    /// How long both complementary outputs shall be off between one and the other, at least.
    pub dead_time: Option<Time>,
    /// The fewest steps that will do, in the span if there is one.
    pub min_steps: u64,
}

impl Target {
    /// Checks that the numbers make sense together.
    ///
    /// # Errors
    /// [`Error::NotPositive`], [`Error::DutyRange`], [`Error::PulseRange`] or [`Error::SpanReversed`].
    pub fn checked(self) -> Result<Self> {
        if let Aim::Window(window) = self.aim {
            rising(window)?;
        }
        let period = match self.aim {
            Aim::Window(window) => window.high.period()?,
            _ => self.period()?,
        };
        for ask in &self.asks {
            check_active(ask.active, period)?;
            ask.start.map(|start| check_active(start, period)).transpose()?;
        }
        if let Some(span) = self.span {
            span.rising()?;
            check_active(span.low(), period)?;
            check_active(span.high(), period)?;
        }
        if self.dead_time.is_some_and(|dead_time| dead_time < Time::ZERO) {
            let value = self.dead_time.map(Time::told).unwrap_or_default();
            return Err(Error::NotPositive { quantity: "dead time", value });
        }
        if self.within < Deviation::ZERO {
            return Err(Error::NotPositive { quantity: "tolerance", value: self.within.told() });
        }
        Ok(self)
    }

    /// The wanted frequency.
    ///
    /// # Errors
    /// [`Error::NotPositive`].
    pub fn frequency(&self) -> Result<Frequency> {
        match self.aim {
            Aim::Frequency(frequency) => frequency.positive(),
            Aim::Period(period) => period.frequency(),
            Aim::Window(window) => window.low.positive(),
        }
    }

    /// The wanted period.
    ///
    /// # Errors
    /// [`Error::NotPositive`].
    pub fn period(&self) -> Result<Time> {
        match self.aim {
            Aim::Frequency(frequency) => frequency.period(),
            Aim::Period(period) => period.positive(),
            // The longest: what fits every period of the window fits the shortest, which is looked at by itself.
            Aim::Window(window) => window.low.period(),
        }
    }

    /// Whether a square wave would do: signals are asked for, and each of them is active half the time.
    pub(crate) fn is_square(&self) -> Result<bool> {
        let half = Rational::new(1, 2).or_overflow("duty")?;
        let period = self.period()?.value();
        let square = self.asks.iter().all(|ask| match ask.active {
            Active::Duty(duty) => duty.value() == half,
            Active::Pulse(pulse) => pulse.value().plus(pulse.value()) == Some(period),
        });
        Ok(square && !self.asks.is_empty() && self.span.is_none())
    }
}

/// A window of frequencies greater than zero, if its lower end stands first.
///
/// # Errors
/// [`Error::WindowReversed`], [`Error::NotPositive`].
pub fn rising(window: Range<Frequency>) -> Result<Range<Frequency>> {
    if window.low >= window.high {
        let (low, high) = (window.low.told(), window.high.told());
        return Err(Error::WindowReversed { low, high });
    }
    window.low.positive().map(|_| window)
}

fn check_active(active: Active, period: Time) -> Result<()> {
    match active {
        Active::Duty(duty) => duty.share().map(|_| ()),
        Active::Pulse(pulse) if pulse < Time::ZERO || pulse > period => {
            Err(Error::PulseRange { pulse: pulse.told(), period: period.told() })
        }
        _ => Ok(()),
    }
}

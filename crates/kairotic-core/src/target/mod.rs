//! What is wanted of a pin: how often, how long active, between which ends.
//!
//! ```
//! use kairotic_core::quantity::units::{hz, ms, us};
//! use kairotic_core::target::{Span, Target};
//!
//! let servo = Target::frequency(hz(50)).pulse(us(1500)).checked()?;
//! assert_eq!(servo.wanted_period()?, ms(20));
//! let span: Span = "900us..2100us".parse()?;
//! assert_eq!(span.low().told(), "900 us");
//! # Ok::<(), kairotic_core::Error>(())
//! ```

mod words;

use serde::Serialize;

use self::words::rising;
pub use self::words::{Active, Aim, Ask, Level, Span};
use crate::error::{Error, OrOverflow, Result};
use crate::quantity::{Deviation, Duty, Frequency, QuantityError, Rational, Time, units};

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
    /// The channel that the first signal without one goes to, and in which a span is counted.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub channel: Option<String>,
    /// A mode's name, or an alignment, to insist on.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub mode: Option<String>,
    /// How the counter counts, where other signals of the same counter settle that.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub counter: Option<CounterSetting>,
}

/// How a counter counts: what all signals that it makes have in common.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct CounterSetting {
    /// The base counter, where the timer can choose one.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub base: Option<String>,
    /// The mode's name.
    pub mode: String,
    /// Source clocks in a tick.
    pub divider: Rational,
    /// The top.
    pub top: u64,
}

impl Target {
    /// A signal of that frequency: active high, within 100 ppm, and so far without duty or pulse.
    pub fn frequency(frequency: Frequency) -> Self {
        Self::of(Aim::Frequency(frequency))
    }

    /// A signal of that period, as [`Target::frequency`].
    pub fn period(period: Time) -> Self {
        Self::of(Aim::Period(period))
    }

    /// A signal that repeats as stated, as [`Target::frequency`].
    pub fn of(aim: Aim) -> Self {
        Self {
            aim,
            asks: Vec::new(),
            span: None,
            within: units::ppm(100),
            level: Level::High,
            dead_time: None,
            min_steps: 0,
            channel: None,
            mode: None,
            counter: None,
        }
    }

    /// The same from a timer's channel of that label.
    #[must_use]
    pub fn on_channel(self, label: impl Into<String>) -> Self {
        Self { channel: Some(label.into()), ..self }
    }

    /// The same with a duty on the next free channel.
    #[must_use]
    pub fn duty(self, duty: Duty) -> Self {
        self.active(Active::Duty(duty))
    }

    /// The same with a pulse on the next free channel.
    #[must_use]
    pub fn pulse(self, pulse: Time) -> Self {
        self.active(Active::Pulse(pulse))
    }

    fn active(mut self, active: Active) -> Self {
        self.asks.push(Ask { channel: None, active, start: None });
        self
    }

    /// The same with an inactive signal where none is asked for: what a pin does until something else is set.
    #[must_use]
    pub fn begun(self) -> Self {
        if self.asks.is_empty() { self.duty(Duty::ZERO) } else { self }
    }

    /// Checks that the numbers make sense together.
    ///
    /// # Errors
    /// [`QuantityError::NotPositive`],
    /// [`QuantityError::DutyRange`], [`Error::PulseRange`] or
    /// [`Error::RangeReversed`].
    pub fn checked(self) -> Result<Self> {
        if let Aim::Window(window) = self.aim {
            rising(window)?;
        }
        let period = match self.aim {
            Aim::Window(window) => window.high.period()?,
            _ => self.wanted_period()?,
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
            return Err(QuantityError::NotPositive { quantity: "dead time", value }.into());
        }
        if self.within < Deviation::ZERO {
            return Err(
                QuantityError::NotPositive { quantity: "tolerance", value: self.within.told() }.into()
            );
        }
        Ok(self)
    }

    /// The wanted frequency.
    ///
    /// # Errors
    /// [`QuantityError::NotPositive`].
    pub fn wanted_frequency(&self) -> Result<Frequency> {
        match self.aim {
            Aim::Frequency(frequency) => Ok(frequency.positive()?),
            Aim::Period(period) => Ok(period.frequency()?),
            Aim::Window(window) => Ok(window.low.positive()?),
        }
    }

    /// The wanted period.
    ///
    /// # Errors
    /// [`QuantityError::NotPositive`].
    pub fn wanted_period(&self) -> Result<Time> {
        match self.aim {
            Aim::Frequency(frequency) => Ok(frequency.period()?),
            Aim::Period(period) => Ok(period.positive()?),
            // The longest: what fits every period of the window fits the shortest, which is looked at by itself.
            Aim::Window(window) => Ok(window.low.period()?),
        }
    }

    /// Whether a square wave would do: signals are asked for, and each of them is active half the time.
    pub(crate) fn is_square(&self) -> Result<bool> {
        let half = Rational::new(1, 2).or_overflow("duty")?;
        let period = self.wanted_period()?.value();
        let square = self.asks.iter().all(|ask| match ask.active {
            Active::Duty(duty) => duty.value() == half,
            Active::Pulse(pulse) => pulse.value().plus(pulse.value()) == Some(period),
        });
        Ok(square && !self.asks.is_empty() && self.span.is_none())
    }
}

pub(crate) fn check_active(active: Active, period: Time) -> Result<()> {
    match active {
        Active::Duty(duty) => Ok(duty.share().map(|_| ())?),
        Active::Pulse(pulse) if pulse < Time::ZERO || pulse > period => {
            Err(Error::PulseRange { pulse, period })
        }
        _ => Ok(()),
    }
}

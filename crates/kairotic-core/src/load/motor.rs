//! A DC motor on a supply, behind a switch or a bridge.

use serde::Serialize;

use super::line::Line;
use crate::error::OrOverflow;
use crate::error::Result;
use crate::quantity::{Duty, Frequency, Rational, Time, Voltage};

/// A DC motor.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
pub struct Motor {
    /// What the bridge switches.
    pub supply: Voltage,
    /// What the motor is made for.
    pub rated: Voltage,
    /// The duty below which it hums and stands.
    pub start: Duty,
    /// The duty at full throttle; where none is given, the one whose average is the rated voltage.
    pub full: Option<Duty>,
    /// How it is wired.
    pub wiring: Wiring,
    /// The lowest frequency that is pleasant to hear, or not heard at all.
    pub quiet: Option<Frequency>,
    /// How long it rests before it turns the other way.
    pub pause: Option<Time>,
}

/// How a motor is wired to what switches it.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum Wiring {
    /// One switch: one direction.
    OneSwitch,
    /// A bridge with two lines: one carries the PWM, the other rests; which one is the direction.
    TwoLines,
    /// A bridge with an enable line that carries the PWM and two lines for the direction.
    EnableAndDirection,
}

impl Wiring {
    /// Whether the motor can turn both ways.
    pub const fn reverses(self) -> bool {
        !matches!(self, Self::OneSwitch)
    }

    /// What the lines do for a throttle.
    pub fn lines(self, throttle: Rational) -> &'static str {
        let forward = throttle >= Rational::ZERO;
        match self {
            Self::OneSwitch => "the switch carries the PWM",
            Self::TwoLines if forward => "the first line carries the PWM, the second rests low",
            Self::TwoLines => "the second line carries the PWM, the first rests low",
            Self::EnableAndDirection if forward => "enable carries the PWM, the first direction line is high",
            Self::EnableAndDirection => "enable carries the PWM, the second direction line is high",
        }
    }
}

impl Motor {
    /// The duty at full throttle.
    pub(super) fn full(&self) -> Result<Duty> {
        if let Some(full) = self.full {
            return Ok(full);
        }
        let share = self.rated.value().over(self.supply.value()).or_overflow("duty")?;
        Ok(Duty::new(share.min(Rational::ONE)))
    }

    /// The average voltage of a duty.
    pub(super) fn average(&self, duty: Rational) -> Result<Voltage> {
        duty.times(self.supply.value()).or_overflow("voltage").map(Voltage::new)
    }

    /// Throttle against duty, over the part that makes the motor turn.
    fn line(&self) -> Result<Line> {
        Ok(Line { from: (Rational::ZERO, self.start.value()), to: (Rational::ONE, self.full()?.value()) })
    }

    /// The duty for a throttle from -1 to 1; the direction is the wiring's.
    pub(super) fn duty(&self, throttle: Rational) -> Result<Duty> {
        if throttle.is_zero() {
            return Ok(Duty::ZERO);
        }
        self.line()?.at(throttle.magnitude()).map(Duty::new)
    }

    /// The throttle of a duty; zero where the motor stands.
    pub(super) fn throttle(&self, duty: Rational) -> Result<Rational> {
        self.line()?.turned().at(duty).map(|throttle| throttle.max(Rational::ZERO))
    }
}

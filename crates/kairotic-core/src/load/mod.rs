//! What a signal drives: each load turns its own unit into duty or pulse and back, and says what it tolerates.

mod calibrate;
mod fan;
mod heater;
mod judge;
mod lamp;
mod line;
mod line_fit;
mod motor;
mod observed;
mod servo;
mod speed_controller;

pub use self::calibrate::{Calibration, CalibrationPoint, Observation, Taken, calibrate};
pub use self::fan::Fan;
pub use self::heater::Heater;
pub use self::judge::{DeadBand, Driven, drive, judge};
pub use self::lamp::{Curve, Lamp};
pub use self::motor::{Motor, Wiring};
pub use self::observed::ObservedValue;
pub use self::servo::Servo;
pub use self::speed_controller::{Arming, SpeedController};

use serde::Serialize;

use crate::error::{Error, LevelOutside, Result};
use crate::quantity::{Deviation, Duty, Frequency, LoadLevel, Range, Rational, Time};
use crate::target::{Active, Span};

/// Something that a signal drives.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct Load {
    /// Its name on the board.
    pub name: String,
    /// What it is.
    pub kind: Kind,
    /// How far its level may be off for a given signal, as a share of its range.
    pub tolerance: Option<Deviation>,
}

/// The kinds of loads.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum Kind {
    /// A servo: the pulse is an angle.
    Servo(Servo),
    /// A speed controller: the pulse is a throttle.
    SpeedController(SpeedController),
    /// A DC motor behind a switch or a bridge.
    Motor(Motor),
    /// A lamp.
    Lamp(Lamp),
    /// A resistive heater.
    Heater(Heater),
    /// A fan with a control input.
    Fan(Fan),
    /// Anything else: the duty is all there is.
    Plain,
}

/// What a load makes of an active time: shares of the period, or times.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
pub struct Realised {
    /// The share of the period.
    pub duty: Duty,
    /// The same as a time.
    pub pulse: Time,
}

impl Kind {
    /// The word for it, as board files have it.
    pub const fn word(&self) -> &'static str {
        match self {
            Self::Servo(_) => "servo",
            Self::SpeedController(_) => "speed-controller",
            Self::Motor(_) => "motor",
            Self::Lamp(_) => "lamp",
            Self::Heater(_) => "heater",
            Self::Fan(_) => "fan",
            Self::Plain => "plain",
        }
    }

    /// What the load's own unit measures: angle, throttle, brightness.
    pub const fn measures(&self) -> &'static str {
        match self {
            Self::Servo(_) => "angle",
            Self::SpeedController(_) | Self::Motor(_) => "throttle",
            Self::Lamp(_) => "brightness",
            Self::Heater(_) => "heat",
            Self::Fan(_) => "speed",
            Self::Plain => "level",
        }
    }

    /// A level in the load's own unit, from text.
    ///
    /// # Errors
    /// [`Error::Quantity`](crate::Error::Quantity) that names the units which fit.
    pub fn read_level(&self, text: &str) -> Result<LoadLevel> {
        Ok(match self {
            Self::Servo(_) => LoadLevel::Angle(text.parse()?),
            Self::Heater(_) => LoadLevel::Power(text.parse()?),
            _ => LoadLevel::Share(text.parse()?),
        })
    }

    /// The lowest and the highest level, in the order of their active times.
    ///
    /// # Errors
    /// Numbers that do not fit.
    pub fn levels(&self) -> Result<[LoadLevel; 2]> {
        let share = |value: Rational| LoadLevel::Share(Duty::new(value));
        let below = Rational::whole(-1);
        Ok(match self {
            Self::Servo(servo) => [LoadLevel::Angle(servo.travel.low), LoadLevel::Angle(servo.travel.high)],
            Self::SpeedController(controller) if controller.neutral.is_some() => {
                [share(below), share(Rational::ONE)]
            }
            Self::Motor(motor) if motor.wiring.reverses() => [share(below), share(Rational::ONE)],
            Self::Heater(heater) => {
                let power = |value: Rational| LoadLevel::Power(crate::quantity::Power::new(value));
                [power(Rational::ZERO), power(heater.most()?)]
            }
            _ => [share(Rational::ZERO), share(Rational::ONE)],
        })
    }

    /// The active times that the load uses, from lowest to highest.
    ///
    /// # Errors
    /// Numbers that do not fit.
    pub fn span(&self) -> Result<Span> {
        let duties =
            |low: Rational, high: Rational| Span::Duty(Range { low: Duty::new(low), high: Duty::new(high) });
        Ok(match self {
            Self::Servo(servo) => Span::Pulse(servo.span),
            Self::SpeedController(controller) => Span::Pulse(controller.span),
            Self::Motor(motor) => duties(motor.start.value(), motor.full()?.value()),
            Self::Fan(fan) => duties(fan.lowest.value(), Rational::ONE),
            _ => duties(Rational::ZERO, Rational::ONE),
        })
    }

    /// The active time for a level.
    ///
    /// # Errors
    /// [`Error::LevelOutside`](crate::Error::LevelOutside).
    pub fn active(&self, level: LoadLevel) -> Result<Active> {
        let [low, high] = self.levels()?;
        let (low, high) = if low.value() <= high.value() { (low, high) } else { (high, low) };
        if !(low.value()..=high.value()).contains(&level.value()) {
            let outside = LevelOutside { measures: self.measures(), found: level, low, high };
            return Err(Error::LevelOutside(Box::new(outside)));
        }
        let value = level.value();
        Ok(match self {
            Self::Servo(servo) => Active::Pulse(servo.pulse(value)?),
            Self::SpeedController(controller) => Active::Pulse(controller.pulse(value)?),
            Self::Motor(motor) => Active::Duty(motor.duty(value)?),
            Self::Lamp(lamp) => Active::Duty(lamp.duty(value)?),
            Self::Heater(heater) => Active::Duty(heater.duty(value)?),
            Self::Fan(fan) => Active::Duty(fan.duty(value)?),
            Self::Plain => Active::Duty(Duty::new(value)),
        })
    }

    /// The level that an active time makes; a motor's or controller's without regard to its direction. Beyond the load's
    /// ends it goes on as inside.
    ///
    /// # Errors
    /// Numbers that do not fit.
    pub fn level(&self, realised: Realised) -> Result<LoadLevel> {
        let (duty, pulse) = (realised.duty.value(), realised.pulse.value());
        let share = |value: Rational| LoadLevel::Share(Duty::new(value));
        Ok(match self {
            Self::Servo(servo) => LoadLevel::Angle(servo.angle(pulse)?),
            Self::SpeedController(controller) => share(controller.throttle(pulse)?),
            Self::Motor(motor) => share(motor.throttle(duty)?),
            Self::Lamp(lamp) => share(lamp.brightness(duty)?),
            Self::Heater(heater) => LoadLevel::Power(heater.power(duty)?),
            Self::Fan(fan) => share(fan.speed(duty)?),
            Self::Plain => share(duty),
        })
    }

    /// The largest change of the level that one step of the active time makes, inside the load's span.
    ///
    /// # Errors
    /// Numbers that do not fit.
    pub fn level_of_step(&self, step: Realised) -> Result<LoadLevel> {
        let change = |at: Realised, next: Realised| -> Result<LoadLevel> {
            Ok(self.level(next)?.less(self.level(at)?)?.magnitude())
        };
        let sum = |left: Realised, right: Realised| -> Result<Realised> {
            let plus = |left: Rational, right: Rational| line::plus(left, right);
            Ok(Realised {
                duty: Duty::new(plus(left.duty.value(), right.duty.value())?),
                pulse: Time::new(plus(left.pulse.value(), right.pulse.value())?),
            })
        };
        // Straight lines are the same everywhere; a lamp's curve is steepest where it is darkest, and a controller's two
        // lines meet in the middle.
        let at = |active: Active| match active {
            Active::Duty(duty) => Realised { duty, pulse: Time::ZERO },
            Active::Pulse(pulse) => Realised { duty: Duty::ZERO, pulse },
        };
        let mut places = vec![at(self.span()?.low())];
        if let Self::SpeedController(SpeedController { neutral: Some(neutral), .. }) = self {
            places.push(at(Active::Pulse(*neutral)));
        }
        let steps =
            places.into_iter().map(|place| change(place, sum(place, step)?)).collect::<Result<Vec<_>>>()?;
        let most = steps.into_iter().max_by_key(|step| step.value());
        Ok(most.unwrap_or(LoadLevel::Share(Duty::ZERO)))
    }

    /// What is to be known of the lowest level, where that is no point of the line to the highest.
    pub const fn at_rest(&self) -> Option<&'static str> {
        match self {
            Self::Motor(_) => {
                Some("throttle 0 is the start duty here: to rest, write the compare value of 0 % instead")
            }
            Self::Fan(_) => {
                Some("speeds below the slowest are off: write the compare value of 0 % for them instead")
            }
            _ => None,
        }
    }

    /// The active time of a level on the line that leads to the highest: of a motor's throttle 0 its start.
    ///
    /// # Errors
    /// As [`Kind::active`].
    pub(crate) fn on_the_line(&self, level: LoadLevel) -> Result<Rational> {
        match self {
            Self::Motor(motor) if level.value().is_zero() => Ok(motor.start.value()),
            _ => self.active(level).map(Active::value),
        }
    }

    /// The frequencies that it tolerates, where it says so.
    pub const fn frequencies(&self) -> Option<Range<Frequency>> {
        match self {
            Self::Servo(servo) => servo.frame,
            Self::SpeedController(controller) => controller.frame,
            Self::Fan(fan) => fan.window,
            _ => None,
        }
    }
}

#[cfg(test)]
mod tests;

//! What a load wants of levels that change: how fast it follows, what it needs to begin, and when it has to rest.

use serde::Serialize;

use super::driven::Arming;
use super::keys::KeyText;
use crate::error::{Error, OrOverflow, Result};
use crate::quantity::{Angle, Duty, Rational, Speed, Time};

/// What a load wants of levels that change, as far as its kind has it.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct Pacing {
    /// How fast it turns, at most.
    pub slew: Option<Slew>,
    /// Changes of the pulse that it does not follow.
    pub dead_band: Option<Time>,
    /// How long it rests before it turns the other way.
    pub pause: Option<Time>,
    /// What makes it break away from standing.
    pub kick: Option<Kick>,
    /// What it wants to see before it lets the motor turn.
    pub arming: Option<Arming>,
    /// How it learns its ends.
    pub teaching: Option<Teaching>,
}

/// How fast a servo turns at most, as data sheets say it: an angle and the time for it.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
pub struct Slew {
    /// The angle.
    pub angle: Angle,
    /// The time that it takes.
    pub time: Time,
}

impl Slew {
    /// The same as a speed.
    ///
    /// # Errors
    /// A number that does not fit.
    pub fn speed(self) -> Result<Speed> {
        self.angle.value().over(self.time.value()).or_overflow("speed").map(Speed::new)
    }

    /// How long it takes for an angle.
    ///
    /// # Errors
    /// A number that does not fit.
    pub fn time_for(self, angle: Rational) -> Result<Time> {
        angle.magnitude().over(self.speed()?.value()).or_overflow("time").map(Time::new)
    }
}

impl KeyText for Slew {
    fn of(text: &str) -> Result<Self> {
        let two = text.split_once(" in ").ok_or_else(|| Error::Slew { text: text.to_owned() })?;
        let (angle, time): (Angle, Time) = (two.0.parse()?, two.1.parse()?);
        Ok(Self { angle: angle.positive()?, time: time.positive()? })
    }
}

/// What makes a motor or a fan break away, where it would stand at the duty that it can go on with.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
pub struct Kick {
    /// The duty.
    pub duty: Duty,
    /// For how long.
    pub length: Time,
}

impl KeyText for Kick {
    fn of(text: &str) -> Result<Self> {
        let two = text.split_once(" for ").ok_or_else(|| Error::Kick { text: text.to_owned() })?;
        let (duty, length): (Duty, Time) = (two.0.parse()?, two.1.parse()?);
        let duty = duty.positive()?;
        if duty.value() > Rational::ONE {
            return Err(Error::Kick { text: text.to_owned() });
        }
        Ok(Self { duty, length: length.positive()? })
    }
}

/// How a speed controller learns its ends: it sees the longest pulse when it gets its supply, and then the shortest.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
pub struct Teaching {
    /// The longest pulse.
    pub longest: Time,
    /// The shortest.
    pub shortest: Time,
    /// How long it sees each of them.
    pub hold: Time,
}

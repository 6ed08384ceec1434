//! What a signal drives: each load turns its own unit into duty or pulse and back, and says what it tolerates.

mod calibrate;
mod fan;
mod heater;
mod judge;
mod keys;
mod kind;
mod lamp;
mod line;
mod line_fit;
mod motor;
mod observed;
mod plain;
mod servo;
mod speed_controller;

pub use self::calibrate::{Calibrated, Calibration, CalibrationPoint, Observation, Sheet, Taken, calibrate};
pub use self::fan::Fan;
pub use self::heater::Heater;
pub use self::judge::{DeadBand, Driven, drive, judge};
pub use self::keys::{KeyText, KeyValues, Keys, LoadKey};
pub use self::kind::{KINDS, KeyFigure, Kind, KindEntry, LoadKind};
pub use self::lamp::{Curve, Lamp};
pub use self::motor::{Motor, Wiring};
pub use self::observed::ObservedValue;
pub use self::plain::Plain;
pub use self::servo::Servo;
pub use self::speed_controller::{Arming, SpeedController};

use serde::Serialize;

use crate::error::Result;
use crate::quantity::{Deviation, Duty, Time};
use crate::target::Active;

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

/// What a load makes of an active time: shares of the period, or times.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
pub struct Realised {
    /// The share of the period.
    pub duty: Duty,
    /// The same as a time.
    pub pulse: Time,
}

impl Realised {
    /// An active time of which the other form is not asked for.
    const fn alone(active: Active) -> Self {
        match active {
            Active::Duty(duty) => Self { duty, pulse: Time::ZERO },
            Active::Pulse(pulse) => Self { duty: Duty::ZERO, pulse },
        }
    }

    /// The same and some more.
    fn longer_by(self, more: Self) -> Result<Self> {
        Ok(Self {
            duty: Duty::new(line::plus(self.duty.value(), more.duty.value())?),
            pulse: Time::new(line::plus(self.pulse.value(), more.pulse.value())?),
        })
    }
}

#[cfg(test)]
mod tests;

//! What a signal drives: each load turns its own unit into duty or pulse and back, and says what it tolerates.
//!
//! ```
//! use kairotic_core::load::{Kind, Servo};
//! use kairotic_core::quantity::{LoadLevel, Range, units::us};
//! use kairotic_core::target::Active;
//!
//! let travel = Range { low: "0deg".parse()?, high: "120deg".parse()? };
//! let servo = Servo { span: Range { low: us(900), high: us(2100) }, travel, dead_band: None, frame: None, slew: None };
//! let middle = Kind::from(servo).active(LoadLevel::Angle("60deg".parse()?))?;
//! assert_eq!(middle, Active::Pulse(us(1500)));
//! # Ok::<(), kairotic_core::Error>(())
//! ```

mod calibrate;
mod driven;
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
mod pacing;
mod plain;
mod servo;
mod sheet;
mod speed_controller;
mod stepper;
mod turning;

pub use self::calibrate::{Calibration, calibrate};
pub use self::driven::{Arming, DeadBand, Driven};
pub use self::fan::Fan;
pub use self::heater::Heater;
pub use self::judge::{drive, judge};
pub use self::keys::{KeyText, KeyValues, Keys, LoadKey};
use self::kind::Seen;
pub use self::kind::{KeyFigure, KindEntry, LoadKind};
pub use self::lamp::{Curve, Lamp};
pub use self::motor::{Motor, Wiring};
pub use self::observed::ObservedValue;
pub use self::pacing::{Kick, Pacing, Slew, Teaching};
pub use self::plain::Plain;
pub use self::servo::Servo;
pub use self::sheet::{Calibrated, CalibrationPoint, Observation, Sheet, Taken};
pub use self::speed_controller::SpeedController;
pub use self::stepper::{Gear, PhaseMode, StepDrive, StepRates, Stepper};
pub use self::turning::Turning;

use serde::Serialize;

use crate::error::{Error, LevelOutside, Result};
use crate::finding::Finding;
use crate::quantity::{
    Deviation, Duty, Frequency, LoadLevel, QuantityError, Range, Rational, Speed, Time, Voltage,
};
use crate::setting::{Output, Setting};
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

macro_rules! kinds {
    ($($(#[$about:meta])* $kind:ident,)*) => {
        /// The kinds of loads.
        #[derive(Debug, Clone, PartialEq, Eq, Serialize)]
        #[serde(rename_all = "snake_case")]
        pub enum Kind {
            $($(#[$about])* $kind($kind),)*
        }

        /// What is fixed of each kind.
        pub const KINDS: &[&KindEntry] = &[$(&$kind::ENTRY,)*];

        impl Kind {
            fn it(&self) -> &dyn LoadKind {
                match self {
                    $(Self::$kind(load) => load,)*
                }
            }
        }

        $(impl From<$kind> for Kind {
            fn from(load: $kind) -> Self {
                Self::$kind(load)
            }
        })*
    };
}

kinds! {
    /// A servo: the pulse is an angle.
    Servo,
    /// A speed controller: the pulse is a throttle.
    SpeedController,
    /// A DC motor behind a switch or a bridge.
    Motor,
    /// A lamp.
    Lamp,
    /// A resistive heater.
    Heater,
    /// A fan with a control input.
    Fan,
    /// Anything else: the duty is all there is.
    Plain,
}

/// A load does what its kind does.
macro_rules! of_its_kind {
    ($(fn $method:ident(&self $(, $argument:ident: $type:ty)*) -> $result:ty;)*) => {
        impl LoadKind for Kind {
            $(fn $method(&self $(, $argument: $type)*) -> $result {
                self.it().$method($($argument),*)
            })*
        }
    };
}

of_its_kind! {
    fn entry(&self) -> &'static KindEntry;
    fn read_level(&self, text: &str) -> Result<LoadLevel>;
    fn levels(&self) -> Result<[LoadLevel; 2]>;
    fn span(&self) -> Result<Span>;
    fn active_of(&self, level: Rational) -> Result<Active>;
    fn level(&self, realised: Realised) -> Result<LoadLevel>;
    fn steepest(&self) -> Result<Vec<Active>>;
    fn at_rest(&self) -> Option<&'static str>;
    fn start_of_line(&self) -> Option<Active>;
    fn is_undirected(&self) -> bool;
    fn frequencies(&self) -> Option<Range<Frequency>>;
    fn pulses_per_turn(&self) -> Option<u32>;
    fn pacing(&self) -> Pacing;
    fn turning(&self) -> Turning;
    fn judge(&self, name: &str, setting: &Setting) -> Result<Vec<Finding>>;
    fn drive(&self, driven: &mut Driven, first: Option<(&Output, LoadLevel)>) -> Result<()>;
    fn calibrated(&self, sheet: &mut Sheet) -> Result<Calibrated>;
    fn calibrated_keys(&self) -> Vec<(&'static str, KeyFigure)>;
}

impl Kind {
    /// The word for it, as board files have it.
    pub fn word(&self) -> &'static str {
        self.entry().word
    }

    /// What the load's own unit measures: angle, throttle, brightness.
    pub fn measures(&self) -> &'static str {
        self.entry().measures
    }

    /// The active time for a level.
    ///
    /// # Errors
    /// [`Error::LevelOutside`].
    pub fn active(&self, level: LoadLevel) -> Result<Active> {
        let [low, high] = self.levels()?;
        let (low, high) = if low.value() <= high.value() { (low, high) } else { (high, low) };
        if !(low.value()..=high.value()).contains(&level.value()) {
            let outside = LevelOutside { measures: self.measures(), found: level, low, high };
            return Err(Error::LevelOutside(Box::new(outside)));
        }
        self.active_of(level.value())
    }

    /// The active time of a level on the line that leads to the highest: of a motor's throttle 0 its start.
    ///
    /// # Errors
    /// As [`Kind::active`].
    pub(crate) fn on_the_line(&self, level: LoadLevel) -> Result<Rational> {
        match self.start_of_line() {
            Some(start) if level.value().is_zero() => Ok(start.value()),
            _ => self.active(level).map(Active::value),
        }
    }

    /// The largest change of the level that one step of the active time makes, inside the load's span.
    ///
    /// # Errors
    /// Numbers that do not fit.
    pub fn level_of_step(&self, step: Realised) -> Result<LoadLevel> {
        let change = |at: Realised| -> Result<LoadLevel> {
            Ok(self.level(at.longer_by(step)?)?.less(self.level(at)?)?.magnitude())
        };
        let places = self.steepest()?.into_iter().map(Realised::alone);
        let steps = places.map(change).collect::<Result<Vec<_>>>()?;
        let most = steps.into_iter().max_by_key(|step| step.value());
        Ok(most.unwrap_or(LoadLevel::Share(Duty::ZERO)))
    }

    /// Something that was seen of the load, from text: a level, or what else can be seen of its kind.
    ///
    /// # Errors
    /// [`Error::Quantity`] that names the units which fit.
    pub fn read_observed(&self, text: &str) -> Result<ObservedValue> {
        for seen in self.entry().seen {
            let read = match seen {
                Seen::Speed => text.parse::<Speed>().ok().map(ObservedValue::Speed),
                Seen::Voltage => text.parse::<Voltage>().ok().map(ObservedValue::Voltage),
            };
            if let Some(read) = read {
                return Ok(read);
            }
        }
        self.read_level(text).map(ObservedValue::Level).map_err(|error| match error {
            Error::Quantity(QuantityError::Text { quantity, text, problem, units }) => {
                let also = self.entry().seen.iter().map(|seen| match seen {
                    Seen::Speed => ", rpm",
                    Seen::Voltage => ", V",
                });
                let units = format!("{units}{}", also.collect::<String>());
                QuantityError::Text { quantity, text, problem, units }.into()
            }
            error => error,
        })
    }
}

#[cfg(test)]
mod tests;

//! The list of kinds, and what each of them does.

use std::fmt;

use serde::Serialize;

use super::calibrate::{Calibrated, Sheet};
use super::fan::Fan;
use super::heater::Heater;
use super::keys::{Keys, LoadKey};
use super::lamp::Lamp;
use super::motor::Motor;
use super::plain::Plain;
use super::servo::Servo;
use super::speed_controller::SpeedController;
use super::{Driven, Realised};
use crate::error::{Error, LevelOutside, Result};
use crate::finding::Finding;
use crate::quantity::{Duty, Figure, Frequency, LoadLevel, QuantityError, Range, Rational, Speed, Voltage};
use crate::setting::{Output, Setting};
use crate::target::{Active, Span};

/// What is fixed of a kind.
#[derive(Debug, Clone, Copy)]
pub struct KindEntry {
    /// The word for it, as board files have it.
    pub word: &'static str,
    /// What its own unit measures: angle, throttle, brightness.
    pub measures: &'static str,
    /// Its keys in a board file, those that it needs first.
    pub keys: &'static [LoadKey],
    /// Reads a load of the kind; `None` where something that it needs is missing or wrong, which is reported then.
    pub read: fn(&mut Keys<'_>) -> Option<Kind>,
    /// What else can be seen of it, besides its level.
    pub(super) seen: &'static [Seen],
}

/// Something that can be seen of a load, besides its level.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Seen {
    /// How fast it turns.
    Speed,
    /// The average voltage over it.
    Voltage,
}

/// What a load of a kind does. A kind is a file with this, and a line in the list below.
pub trait LoadKind: fmt::Debug {
    /// What is fixed of the kind.
    fn entry(&self) -> &'static KindEntry;

    /// A level in the load's own unit, from text: a share, unless it says otherwise.
    ///
    /// # Errors
    /// [`Error::Quantity`] that names the units which fit.
    fn read_level(&self, text: &str) -> Result<LoadLevel> {
        Ok(LoadLevel::Share(text.parse()?))
    }

    /// The lowest and the highest level, in the order of their active times.
    ///
    /// # Errors
    /// Numbers that do not fit.
    fn levels(&self) -> Result<[LoadLevel; 2]> {
        Ok([Rational::ZERO, Rational::ONE].map(|share| LoadLevel::Share(Duty::new(share))))
    }

    /// The active times that the load uses, from lowest to highest.
    ///
    /// # Errors
    /// Numbers that do not fit.
    fn span(&self) -> Result<Span> {
        Ok(Span::Duty(Range { low: Duty::ZERO, high: Duty::new(Rational::ONE) }))
    }

    /// The active time for a level inside the load's levels, in base units.
    ///
    /// # Errors
    /// Numbers that do not fit.
    fn active_of(&self, level: Rational) -> Result<Active>;

    /// The level that an active time makes; a motor's or controller's without regard to its direction. Beyond the load's
    /// ends it goes on as inside.
    ///
    /// # Errors
    /// Numbers that do not fit.
    fn level(&self, realised: Realised) -> Result<LoadLevel>;

    /// The active times from which a step may change the level most.
    ///
    /// # Errors
    /// Numbers that do not fit.
    fn steepest(&self) -> Result<Vec<Active>> {
        Ok(vec![self.span()?.low()])
    }

    /// What is to be known of the lowest level, where that is no point of the line to the highest.
    fn at_rest(&self) -> Option<&'static str> {
        None
    }

    /// The active time of level zero on the line that leads to the highest, where that is another than at rest.
    fn start_of_line(&self) -> Option<Active> {
        None
    }

    /// Whether the signal says nothing of the direction, which other lines carry.
    fn is_undirected(&self) -> bool {
        false
    }

    /// The frequencies that it tolerates, where it says so.
    fn frequencies(&self) -> Option<Range<Frequency>> {
        None
    }

    /// Pulses that it gives for each turn, where it says so.
    fn pulses_per_turn(&self) -> Option<u32> {
        None
    }

    /// What it does not tolerate about a setting, besides frequencies and pulses outside its own.
    ///
    /// # Errors
    /// Numbers that do not fit.
    fn judge(&self, _name: &str, _setting: &Setting) -> Result<Vec<Finding>> {
        Ok(Vec::new())
    }

    /// Adds what else is to be known of the load at a setting, whose first output has a level.
    ///
    /// # Errors
    /// Numbers that do not fit.
    fn drive(&self, _driven: &mut Driven, _first: Option<(&Output, LoadLevel)>) -> Result<()> {
        Ok(())
    }

    /// The load with its own numbers, from what was seen of it.
    ///
    /// # Errors
    /// [`Error::NothingToCalibrate`]; [`Error::NoCalibration`] for observations that it does not follow.
    fn calibrated(&self, _sheet: &mut Sheet) -> Result<Calibrated> {
        Err(Error::NothingToCalibrate { load: self.entry().word })
    }

    /// The keys of a board file that a calibration finds, with their values.
    fn calibrated_keys(&self) -> Vec<(&'static str, KeyFigure)> {
        Vec::new()
    }
}

/// The value of a key of a board file.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum KeyFigure {
    /// One figure.
    One(Figure),
    /// From one figure to another.
    Range(Figure, Figure),
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
    pub fn read_observed(&self, text: &str) -> Result<super::ObservedValue> {
        use super::ObservedValue;
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

//! What every kind of load does.

use std::fmt;

use super::driven::Driven;
use super::keys::{Keys, LoadKey};
use super::pacing::Pacing;
use super::sheet::{Calibrated, Sheet};
use super::turning::Turning;
use super::{Kind, Realised};
use crate::error::{Error, Result};
use crate::finding::Finding;
use crate::quantity::{Duty, Figure, Frequency, LoadLevel, Range, Rational};
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

/// What a load of a kind does. A kind is a file with this, and a line in the list of this room.
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

    /// What it wants of levels that change.
    fn pacing(&self) -> Pacing {
        Pacing::default()
    }

    /// How fast it turns, as observed.
    fn turning(&self) -> Turning {
        Turning::default()
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

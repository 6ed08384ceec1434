//! A resistive heater: watts against duty.

use serde::Serialize;

use super::keys::LoadKey;
use super::kind::{KeyFigure, KindEntry, LoadKind};
use super::sheet::{Calibrated, Sheet, Through, duty};
use super::{Kind, Realised};
use crate::error::{OrOverflow, Result};
use crate::quantity::{Duty, Figure, LoadLevel, Power, Rational, Resistance, Voltage};
use crate::target::Active;

/// A heater.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
pub struct Heater {
    /// What is switched.
    pub supply: Voltage,
    /// Its resistance when warm.
    pub resistance: Resistance,
}

impl Heater {
    pub(super) const ENTRY: KindEntry = KindEntry {
        word: "heater",
        measures: "heat",
        keys: &[
            LoadKey::text("supply", "the supply that is switched"),
            LoadKey::text("resistance", "its resistance when warm"),
        ],
        read: |keys| {
            let (supply, resistance) = (keys.positive("supply"), keys.positive("resistance"));
            Some(Kind::Heater(Self { supply: supply?, resistance: resistance? }))
        },
        seen: &[],
    };

    /// The square of the supply's volts.
    fn square(&self) -> Result<Rational> {
        let volts = self.supply.value();
        volts.times(volts).or_overflow("power")
    }

    /// The power at full duty, in watts.
    fn most(&self) -> Result<Rational> {
        self.square()?.over(self.resistance.value()).or_overflow("power")
    }
}

impl LoadKind for Heater {
    fn entry(&self) -> &'static KindEntry {
        &Self::ENTRY
    }

    fn read_level(&self, text: &str) -> Result<LoadLevel> {
        Ok(LoadLevel::Power(text.parse()?))
    }

    fn levels(&self) -> Result<[LoadLevel; 2]> {
        Ok([Rational::ZERO, self.most()?].map(|watts| LoadLevel::Power(Power::new(watts))))
    }

    fn active_of(&self, power: Rational) -> Result<Active> {
        power.over(self.most()?).or_overflow("duty").map(|duty| Active::Duty(Duty::new(duty)))
    }

    fn level(&self, realised: Realised) -> Result<LoadLevel> {
        let power = realised.duty.value().times(self.most()?).or_overflow("power")?;
        Ok(LoadLevel::Power(Power::new(power)))
    }

    fn calibrated(&self, sheet: &mut Sheet) -> Result<Calibrated> {
        let line = sheet.rising(duty, |_| true, Through::Origin)?;
        let resistance = self.square()?.over(line.slope).or_overflow("resistance")?;
        Ok(Self { resistance: Resistance::new(resistance), ..*self }.into())
    }

    fn calibrated_keys(&self) -> Vec<(&'static str, KeyFigure)> {
        vec![("resistance", KeyFigure::One(Figure::Resistance(self.resistance)))]
    }
}

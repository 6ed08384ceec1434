//! A lamp: brightness against duty, straight or as the eye sees it.

use serde::Serialize;

use super::keys::{Keys, LoadKey};
use super::kind::{KindEntry, LoadKind};
use super::{Kind, Realised};
use crate::error::{OrOverflow, Result};
use crate::finding::{Finding, VisibleFlicker};
use crate::quantity::{Duty, Frequency, LoadLevel, Rational};
use crate::setting::Setting;
use crate::target::Active;

/// A lamp.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
pub struct Lamp {
    /// What brightness means.
    pub curve: Curve,
    /// The lowest frequency at which nobody sees it flicker.
    pub flicker_free: Option<Frequency>,
}

/// What brightness means.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum Curve {
    /// The light itself: half the duty is half the brightness.
    Linear,
    /// Lightness as the CIE defines it (1976): equal steps look equal.
    Perceptual,
}

/// Brightness is found in units of this many to the whole: a millionth of a per cent.
const PRECISION: i64 = 100_000_000;

impl Lamp {
    pub(super) const ENTRY: KindEntry = KindEntry {
        word: "lamp",
        measures: "brightness",
        keys: &[
            LoadKey::text("curve", "`linear` or `perceptual`"),
            LoadKey::text("flicker-free", "the lowest frequency at which nobody sees it flicker"),
        ],
        read: |keys| Some(Kind::Lamp(Self::read(keys))),
        seen: &[],
    };

    fn read(keys: &mut Keys<'_>) -> Self {
        let words = [("linear", Curve::Linear), ("perceptual", Curve::Perceptual)];
        let curve = keys.word("curve", &words).unwrap_or(Curve::Linear);
        Self { curve, flicker_free: keys.take("flicker-free") }
    }

    /// The brightness of a duty; a perceptual one is irrational and rounded down to a millionth of a per cent.
    fn brightness(&self, duty: Rational) -> Result<Rational> {
        if self.curve == Curve::Linear {
            return Ok(duty);
        }
        let of = |units: i64| Rational::new(units.into(), PRECISION.into());
        let (mut low, mut high) = (0, PRECISION + 1);
        while high - low > 1 {
            let middle = low + (high - low) / 2;
            let enough = of(middle).and_then(luminance).or_overflow("brightness")? <= duty;
            (low, high) = if enough { (middle, high) } else { (low, middle) };
        }
        of(low).or_overflow("brightness")
    }
}

impl LoadKind for Lamp {
    fn entry(&self) -> &'static KindEntry {
        &Self::ENTRY
    }

    fn active_of(&self, brightness: Rational) -> Result<Active> {
        let duty = match self.curve {
            Curve::Linear => brightness,
            Curve::Perceptual => luminance(brightness).or_overflow("brightness")?,
        };
        Ok(Active::Duty(Duty::new(duty)))
    }

    // A perceptual curve is steepest where it is darkest: at the span's low end.
    fn level(&self, realised: Realised) -> Result<LoadLevel> {
        self.brightness(realised.duty.value()).map(|share| LoadLevel::Share(Duty::new(share)))
    }

    fn judge(&self, name: &str, setting: &Setting) -> Result<Vec<Finding>> {
        let frequency = setting.frequency;
        let least = self.flicker_free.filter(|least| frequency < *least);
        let flickers = |least| VisibleFlicker { load: name.to_owned(), frequency, least }.into();
        Ok(least.map(flickers).into_iter().collect())
    }
}

/// The share of the light for a lightness L from 0 to 1: ((L + 0.16) / 1.16)³ above 8 %, else L · 2700 / 24389.
fn luminance(lightness: Rational) -> Option<Rational> {
    if lightness <= Rational::new(8, 100)? {
        return lightness.times(Rational::new(2700, 24389)?);
    }
    let base = lightness.plus(Rational::new(16, 100)?)?.over(Rational::new(116, 100)?)?;
    base.times(base)?.times(base)
}

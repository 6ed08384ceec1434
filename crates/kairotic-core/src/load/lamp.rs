//! A lamp: brightness against duty, straight or as the eye sees it.

use serde::Serialize;

use crate::error::OrOverflow;
use crate::error::Result;
use crate::quantity::{Duty, Frequency, Rational};

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
    /// The duty for a brightness from 0 to 1.
    pub(super) fn duty(&self, brightness: Rational) -> Result<Duty> {
        match self.curve {
            Curve::Linear => Ok(Duty::new(brightness)),
            Curve::Perceptual => luminance(brightness).or_overflow("brightness").map(Duty::new),
        }
    }

    /// The brightness of a duty; a perceptual one is irrational and rounded down to a millionth of a per cent.
    pub(super) fn brightness(&self, duty: Rational) -> Result<Rational> {
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

/// The share of the light for a lightness L from 0 to 1: ((L + 0.16) / 1.16)³ above 8 %, else L · 2700 / 24389.
fn luminance(lightness: Rational) -> Option<Rational> {
    if lightness <= Rational::new(8, 100)? {
        return lightness.times(Rational::new(2700, 24389)?);
    }
    let base = lightness.plus(Rational::new(16, 100)?)?.over(Rational::new(116, 100)?)?;
    base.times(base)?.times(base)
}

//! From a whole-number input to a compare value, with whole numbers only: which arithmetic is exact enough, and does not
//! overflow a word.

mod calibrate;
mod curve;
mod fit;
mod form;
mod naive;
mod points;
mod reading;
mod search;
#[cfg(test)]
mod tests;

pub use self::calibrate::{Calibration, CalibrationPoint, Observation, Taken, calibrate};
pub use self::curve::{curve, table};
pub use self::form::Form;
pub use self::naive::{Naive, NaiveWay, findings, naive};
pub use self::points::{MapPoint, ends_of_levels, points, read_back, realised_of};
pub use self::reading::Reading;
pub use self::search::{MapRequest, Proof, ScaledMap, scale};

use crate::error::{Error, Result};
use crate::quantity::{OrOverflow, Rational};

/// The most inputs for which every value is looked at; beyond, an interval argument stands in.
pub const MOST_LOOKED_AT: u64 = 1 << 24;

/// The straight line from a range of inputs to compare values.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Map {
    /// The lowest input.
    pub from: i64,
    /// The highest input.
    pub to: i64,
    /// The compare value for the lowest input.
    pub first: u64,
    /// The compare value for the highest input: above the first, or below it.
    pub last: u64,
}

impl Map {
    /// The line, where it is one.
    ///
    /// # Errors
    /// [`Error::NoMap`] for a range of one input, or ends that are the same.
    pub fn checked(self) -> Result<Self> {
        if self.from >= self.to {
            return Err(Error::NoMap { why: format!("the inputs {}..{} do not rise", self.from, self.to) });
        }
        if self.first == self.last {
            return Err(Error::NoMap { why: format!("both ends have the compare value {}", self.first) });
        }
        Ok(self)
    }

    /// How far the highest input is from the lowest.
    pub const fn run(&self) -> u64 {
        self.to.abs_diff(self.from)
    }

    /// How far the last compare value is from the first.
    pub const fn rise(&self) -> u64 {
        self.last.abs_diff(self.first)
    }

    /// Whether compare values fall as inputs rise.
    pub const fn falls(&self) -> bool {
        self.last < self.first
    }

    /// The exact compare value of an input, which need not be whole.
    ///
    /// # Errors
    /// Numbers that do not fit.
    pub fn exact(&self, input: i64) -> Result<Rational> {
        let along = Rational::from(input.abs_diff(self.from)).times(self.rise().into());
        let along = along.and_then(|product| product.over(self.run().into())).or_overflow("compare value")?;
        let first = Rational::from(self.first);
        if self.falls() { first.minus(along) } else { first.plus(along) }.or_overflow("compare value")
    }

    /// The compare value so far from the first.
    pub(crate) const fn beyond(&self, distance: u64) -> u64 {
        if self.falls() { self.first.saturating_sub(distance) } else { self.first.saturating_add(distance) }
    }
}

/// The width of the machine's words, in bits.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Word {
    /// 16 bits.
    Bits16,
    /// 32 bits.
    Bits32,
}

impl Word {
    /// The number of bits.
    pub const fn bits(self) -> u32 {
        match self {
            Self::Bits16 => 16,
            Self::Bits32 => 32,
        }
    }

    /// The largest unsigned number.
    pub const fn largest(self) -> u128 {
        (1 << self.bits()) - 1
    }

    /// The largest signed number.
    pub const fn largest_signed(self) -> u128 {
        (1 << (self.bits() - 1)) - 1
    }
}

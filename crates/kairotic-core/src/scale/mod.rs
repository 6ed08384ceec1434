//! From a whole-number input to a compare value, with whole numbers only: which arithmetic is exact enough, and does not
//! overflow a word.
//!
//! ```
//! use kairotic_core::quantity::Rational;
//! use kairotic_core::scale::{Map, MapRequest, Word, scale};
//!
//! let map = Map::between(0, 1023, (1000, 2000));
//! let found = scale(MapRequest { map, word: Word::BITS_32, most: Rational::ONE })?;
//! assert!(found.met);
//! assert_eq!([0, 1023].map(|input| found.form.value(&map, input)), [1000, 2000]);
//! # Ok::<(), kairotic_core::Error>(())
//! ```

mod curve;
mod far;
mod form;
mod halves;
mod levels;
mod line;
mod naive;
mod points;
mod search;
mod shift;
mod stairs;
#[cfg(test)]
mod tests;

pub use self::curve::{curve, table};
pub use self::form::Form;
pub use self::levels::{LevelCompares, compares_of_levels};
pub use self::naive::{Naive, NaiveWay, findings, naive};
pub use self::points::{MapPoint, OutputStep, ends_of_levels, output_step, points, read_back, realised_of};
pub use self::search::{MapRequest, Proof, ScaledMap, scale};

use serde::Serialize;

use crate::error::{Error, OrOverflow, Result};
use crate::quantity::Rational;

/// The most inputs for which every value is looked at; beyond, an interval argument stands in.
pub const MOST_LOOKED_AT: u64 = 1 << 24;

/// The straight line from a range of inputs to compare values. Its ends are what is wanted, which no compare value may
/// meet: the pulse at the end of a span lies between two of them more often than not.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
pub struct Map {
    /// The lowest input.
    pub from: i64,
    /// The highest input.
    pub to: i64,
    /// The exact compare value for the lowest input, from zero on.
    pub first: Rational,
    /// The exact compare value for the highest input: above the first, or below it.
    pub last: Rational,
}

impl Map {
    /// The line between whole compare values.
    pub fn between(from: i64, to: i64, (first, last): (u64, u64)) -> Self {
        Self { from, to, first: first.into(), last: last.into() }
    }

    /// The line, where it is one.
    ///
    /// # Errors
    /// [`Error::NoMap`] for a range of one input, or ends that are the same.
    pub fn checked(self) -> Result<Self> {
        if self.from >= self.to {
            return Err(Error::NoMap { why: format!("the inputs {}..{} do not rise", self.from, self.to) });
        }
        let [first, last] = self.ends();
        if first == last {
            return Err(Error::NoMap { why: format!("both ends have the compare value {first}") });
        }
        if self.first < Rational::ZERO || self.last < Rational::ZERO {
            return Err(Error::NoMap { why: "a compare value lies less than zero".to_owned() });
        }
        Ok(self)
    }

    /// How far the highest input is from the lowest.
    pub const fn run(&self) -> u64 {
        self.to.abs_diff(self.from)
    }

    /// Whether compare values fall as inputs rise.
    pub fn falls(&self) -> bool {
        self.last < self.first
    }

    /// The whole compare values nearest to the ends.
    pub fn ends(&self) -> [u64; 2] {
        [nearest(self.first), nearest(self.last)]
    }

    /// The whole compare value from which distances count: the first, or the one just before it on the way.
    pub fn base(&self) -> u64 {
        let base = if self.falls() { self.first.ceiling() } else { self.first.floor() };
        u64::try_from(base).unwrap_or(u64::MAX)
    }

    /// The exact compare value of an input.
    ///
    /// # Errors
    /// Numbers that do not fit.
    pub fn exact(&self, input: i64) -> Result<Rational> {
        let along = Rational::from(input.abs_diff(self.from)).over(self.run().into());
        let rise = self.last.minus(self.first);
        let along = along.zip(rise).and_then(|(along, rise)| along.times(rise));
        along.and_then(|along| self.first.plus(along)).or_overflow("compare value")
    }

    /// The compare value so far from the base.
    pub(crate) fn beyond(&self, distance: u64) -> u64 {
        let base = self.base();
        if self.falls() { base.saturating_sub(distance) } else { base.saturating_add(distance) }
    }
}

/// The whole compare value nearest to one from zero on; halves go up.
fn nearest(value: Rational) -> u64 {
    let half = Rational::new(1, 2).and_then(|half| value.plus(half));
    half.and_then(|raised| u64::try_from(raised.floor()).ok()).unwrap_or(u64::MAX)
}

/// The width of the machine's words, in bits.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
pub struct Word(u32);

impl Word {
    /// 16 bits.
    pub const BITS_16: Self = Self(16);
    /// 32 bits.
    pub const BITS_32: Self = Self(32);

    /// Words of 2 to 32 bits.
    pub fn of(bits: u32) -> Option<Self> {
        (2..=32).contains(&bits).then_some(Self(bits))
    }

    /// The number of bits.
    pub const fn bits(self) -> u32 {
        self.0
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

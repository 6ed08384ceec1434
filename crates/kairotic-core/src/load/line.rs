//! Straight lines between two points, and checked arithmetic for them.

use crate::error::{OrOverflow, Result};
use crate::quantity::Rational;

/// A straight line through two points that differ in both coordinates.
#[derive(Debug, Clone, Copy)]
pub(super) struct TwoPointLine {
    pub(super) from: (Rational, Rational),
    pub(super) to: (Rational, Rational),
}

impl TwoPointLine {
    /// The second coordinate where the first is `at`.
    pub(super) fn at(self, at: Rational) -> Result<Rational> {
        let run = minus(self.to.0, self.from.0)?;
        let rise = minus(self.to.1, self.from.1)?;
        let share = minus(at, self.from.0)?.over(run).or_overflow("level")?;
        plus(self.from.1, share.times(rise).or_overflow("level")?)
    }

    /// The same line with the coordinates changed about.
    pub(super) const fn turned(self) -> Self {
        Self { from: (self.from.1, self.from.0), to: (self.to.1, self.to.0) }
    }
}

pub(super) fn plus(left: Rational, right: Rational) -> Result<Rational> {
    left.plus(right).or_overflow("level")
}

pub(super) fn minus(left: Rational, right: Rational) -> Result<Rational> {
    left.minus(right).or_overflow("level")
}

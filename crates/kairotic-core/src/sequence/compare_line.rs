//! The exact compare values of a way whose compare values lie on a straight line: as fractions of whole numbers, which is many
//! times faster than to go through the load for each of a fast signal's periods.

use super::step::LevelShape;
use crate::quantity::Rational;

/// The compare values from one end of a way to the other, over one denominator.
#[derive(Debug, Clone, Copy)]
pub(super) struct CompareLine {
    from: i128,
    run: i128,
    denominator: i128,
}

/// An exact compare value.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) struct ExactCompare {
    pub(super) numerator: i128,
    pub(super) denominator: i128,
}

impl CompareLine {
    /// The line between two exact compare values; `None` where its numbers do not fit.
    pub(super) fn between([from, to]: [Rational; 2]) -> Option<Self> {
        let run = to.minus(from)?;
        let denominator = from.denominator().checked_mul(run.denominator())?;
        Some(Self {
            from: from.numerator().checked_mul(run.denominator())?,
            run: run.numerator().checked_mul(from.denominator())?,
            denominator,
        })
    }

    /// The compare value of a level, of which the last has the number `last`; `None` where its numbers do not fit.
    pub(super) fn at(&self, index: u64, last: u64, shape: LevelShape) -> Option<ExactCompare> {
        let (index, last) = (i128::from(index), i128::from(last));
        let (share, of) = match shape {
            LevelShape::Linear => (index, last),
            // 3u^2 - 2u^3.
            LevelShape::Smooth => {
                let rest = last.checked_mul(3)?.checked_sub(index.checked_mul(2)?)?;
                let cube = last.checked_mul(last)?.checked_mul(last)?;
                (index.checked_mul(index)?.checked_mul(rest)?, cube)
            }
        };
        let numerator = self.from.checked_mul(of)?.checked_add(self.run.checked_mul(share)?)?;
        Some(ExactCompare { numerator, denominator: self.denominator.checked_mul(of)? })
    }
}

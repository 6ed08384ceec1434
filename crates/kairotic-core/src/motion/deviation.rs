//! How far edges are off the ideal.

use serde::Serialize;

use crate::quantity::Rational;

/// How far the edges of a move are off the ideal.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
pub struct EdgeDeviation {
    /// The most in ticks, not less than it is.
    pub ticks: Rational,
    /// The edge that is off so far.
    pub edge: u64,
    /// The most as a share of a step.
    pub steps: f64,
}

/// The edges of a move, one after another, against the ideal.
#[derive(Debug)]
pub(super) struct Deviations {
    /// Units of the ideal's grid in a tick.
    fineness: u32,
    /// The most so far, in units.
    most: u64,
    edge: u64,
    share: f64,
    last: u64,
}

impl Deviations {
    /// None so far, against an ideal that is so fine.
    pub(super) const fn on(fineness: u32) -> Self {
        Self { fineness, most: 0, edge: 0, share: 0.0, last: 0 }
    }

    /// Takes an edge at a tick that should come in the unit which begins at `floor`.
    pub(super) fn take(&mut self, edge: u64, tick: u64, floor: u64) {
        let at = tick * u64::from(self.fineness);
        let off = at.abs_diff(floor).max(at.abs_diff(floor + 1));
        if off > self.most {
            (self.most, self.edge) = (off, edge);
        }
        let (off, interval) = (off as f64, (floor - self.last).max(1) as f64);
        if off > self.share * interval {
            self.share = off / interval;
        }
        self.last = floor;
    }

    /// The most of all.
    pub(super) fn worst(&self) -> EdgeDeviation {
        let ticks = Rational::new(self.most.into(), self.fineness.into()).unwrap_or(Rational::ZERO);
        EdgeDeviation { ticks, edge: self.edge, steps: self.share }
    }
}

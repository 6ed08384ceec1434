//! A ramp whose rate grows by the same amount each second: every edge, rounded down on a grid of time.
//!
//! From a start rate `v` with an acceleration `a`, edge `n` comes at `(sqrt(v^2 + 2·a·n) - v) / a`. In units of the grid, with
//! `v` and `a` over one denominator, `v = start / scale` and `a = slope / scale`, that is
//! `(sqrt(start^2 + 2·slope·scale·n) - start) / slope`: a root of a whole number, so that nothing is decided by a float.
//! The way down is the way up, turned round.

use super::roots::{is_root_within, quotient, root, root_difference};
use crate::load::StepRates;
use crate::quantity::{Rational, Time};

/// A ramp up to a rate or as far as the way allows, and down again.
#[derive(Debug, Clone, PartialEq)]
pub(super) struct LinearRamp {
    /// Edges in all.
    steps: u64,
    /// The start rate, in steps a unit of the grid, times `scale`.
    start: u128,
    /// The acceleration, in steps a unit squared, times `scale`.
    slope: u128,
    /// The denominator of both.
    scale: u128,
    /// The last edge on the way up.
    up: u64,
    /// What lies above the way up.
    top: Top,
}

/// What lies between the way up and the way down.
#[derive(Debug, Clone, PartialEq)]
enum Top {
    /// A run at the fastest rate: edge `n` comes at `(offset + n * gap) / parts`, the last one at `end_whole + end_part / end_parts`.
    Run { offset: i128, gap: i128, parts: u128, end_whole: u128, end_part: u128, end_parts: u128 },
    /// A peak in the middle of the way; four times the square whose root is reached there.
    Peak { square: u128 },
}

impl LinearRamp {
    /// The ramp on a grid of `unit`; `None` where a number does not fit.
    pub(super) fn of(steps: u64, rates: &StepRates, unit: Time) -> Option<Self> {
        let unit = unit.value();
        let start = rates.start.value().times(unit)?;
        let slope = rates.acceleration.value().times(unit)?.times(unit)?;
        let fastest = rates.fastest.value().times(unit)?;
        let scale = num_integer::lcm(start.denominator(), slope.denominator());
        let scaled = |value: Rational| {
            u128::try_from(value.numerator().checked_mul(scale / value.denominator())?).ok()
        };
        let (start_part, slope_part) = (scaled(start)?, scaled(slope)?);
        let scale = u128::try_from(scale).ok()?;
        let climb = climb(rates)?;
        let all = Rational::from(steps);
        let twice = climb.times(Rational::whole(2))?;
        let (up, top) = if twice <= all {
            let up_time = fastest.minus(start)?.over(slope)?;
            let gap = Rational::ONE.over(fastest)?;
            let offset = up_time.minus(climb.times(gap)?)?;
            let end = up_time.plus(up_time)?.plus(all.minus(twice)?.times(gap)?)?;
            let parts = num_integer::lcm(offset.denominator(), gap.denominator());
            let over_parts = |value: Rational| value.numerator().checked_mul(parts / value.denominator());
            let rest = end.minus(Rational::new(end.floor(), 1)?)?;
            let top = Top::Run {
                offset: over_parts(offset)?,
                gap: over_parts(gap)?,
                parts: parts.try_into().ok()?,
                end_whole: end.floor().try_into().ok()?,
                end_part: rest.numerator().try_into().ok()?,
                end_parts: rest.denominator().try_into().ok()?,
            };
            (u64::try_from(climb.floor()).ok()?, top)
        } else {
            let square = square(start_part, slope_part, scale, steps.into())?.checked_mul(4)?;
            (steps / 2, Top::Peak { square })
        };
        let ramp = Self { steps, start: start_part, slope: slope_part, scale, up, top };
        // The largest numbers come with the last edge of the way up and the first of the way down.
        for edge in [ramp.up, ramp.up + 1, steps - ramp.up, steps] {
            ramp.floor(edge.min(steps))?;
        }
        Some(ramp)
    }

    /// The last edge on the way up.
    pub(super) const fn up(&self) -> u64 {
        self.up
    }

    /// When an edge comes, rounded down to the grid; edge zero is the start.
    pub(super) fn floor(&self, edge: u64) -> Option<u128> {
        if edge <= self.up {
            return self.up_to(edge).map(|(time, _)| time);
        }
        let left = self.steps.checked_sub(edge)?;
        match self.top {
            Top::Run { offset, gap, parts, .. } if left > self.up => {
                let time = i128::from(edge).checked_mul(gap)?.checked_add(offset)?;
                quotient(time.try_into().ok()?, parts)
            }
            Top::Run { end_whole, end_part, end_parts, .. } => {
                let (whole, square) = self.up_to(left)?;
                // end - t(left), where t(left) = whole + a rest: whether that rest is more than the end's decides.
                let bound = self.slope.checked_mul(whole)?.checked_add(self.start)?.checked_mul(end_parts)?;
                let bound = bound.checked_add(self.slope.checked_mul(end_part)?)?;
                let less = u128::from(!is_root_within(end_parts, square, bound)?);
                end_whole.checked_sub(whole)?.checked_sub(less)
            }
            Top::Peak { square } => {
                let (_, rest) = self.up_to(left)?;
                quotient(root_difference(square, rest)?.checked_sub(self.start)?, self.slope)
            }
        }
    }

    /// When an edge of the way up comes, rounded down, with the square whose root says it.
    fn up_to(&self, edge: u64) -> Option<(u128, u128)> {
        let square = square(self.start, self.slope, self.scale, 2 * u128::from(edge))?;
        Some((quotient(root(square) - self.start, self.slope)?, square))
    }
}

/// `start^2 + slope * scale * n`.
fn square(start: u128, slope: u128, scale: u128, n: u128) -> Option<u128> {
    start.checked_mul(start)?.checked_add(slope.checked_mul(scale)?.checked_mul(n)?)
}

/// The steps that it takes to come from the start rate to the fastest.
pub(super) fn climb(rates: &StepRates) -> Option<Rational> {
    let squared = |rate: Rational| rate.times(rate);
    let difference = squared(rates.fastest.value())?.minus(squared(rates.start.value())?)?;
    difference.over(rates.acceleration.value().times(Rational::whole(2))?)
}

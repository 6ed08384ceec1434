//! What the signals of a board want of their clocks, and how near a clock can come to that at best.

use std::cmp::Ordering;

use num_integer::Integer;
use num_rational::Ratio;
use num_traits::CheckedMul;

use crate::clock::{Clock, Fork, Stretch, first_near};
use crate::error::{OrOverflow, Result};
use crate::search::{Closest, RelativeError, compare_errors};

/// No error.
pub(super) const NONE: RelativeError = (0, 1);

/// What one signal wants of its clock.
pub(super) struct Demand<'t> {
    /// Its timer with each counter that it may have.
    pub(super) closest: Vec<Closest<'t>>,
    /// Whether any frequency of a window will do; the lowest is asked for then.
    pub(super) window: bool,
    /// Which of the nodes is its clock.
    pub(super) node: usize,
}

/// What becomes of one signal at a clock.
#[derive(Debug, Clone, Copy)]
pub(super) struct AtClock {
    pub(super) error: RelativeError,
    pub(super) steps: u64,
}

/// What a fork's branches can do with a clock at the trunk's end, for each node: the fastest, and one of which every other
/// is a whole division, where that is no larger than numbers are.
pub(super) struct Factors {
    pub(super) fastest: Vec<Clock>,
    finest: Vec<Option<Clock>>,
}

impl Factors {
    pub(super) fn of(fork: &Fork<'_>, nodes: usize) -> Self {
        let mut factors = Self { fastest: Vec::new(), finest: Vec::new() };
        for node in 0..nodes {
            let all = || fork.branchings.iter().filter_map(|branching| branching.factors.get(node)).copied();
            let one = Ratio::from_integer(1);
            let first = all().next().unwrap_or(one);
            factors.fastest.push(all().max().unwrap_or(one));
            factors.finest.push(all().try_fold(first, |finest, factor| common_multiple(&finest, &factor)));
        }
        factors
    }
}

/// The smallest of which both are whole divisions; `None` where it does not fit.
fn common_multiple(left: &Clock, right: &Clock) -> Option<Clock> {
    let times = u64::checked_mul(*left.numer() / left.numer().gcd(right.numer()).max(1), *right.numer())?;
    Some(Ratio::new(times, left.denom().gcd(right.denom()).max(1)))
}

impl Demand<'_> {
    pub(super) fn finest(&self, factors: &Factors) -> Option<Clock> {
        factors.finest.get(self.node).copied().flatten()
    }

    /// Of the clocks of a stretch, every so-manieth can be exact: 1 where all can.
    pub(super) fn needed(&self, stretch: &Stretch, factors: &Factors) -> Result<u64> {
        let finest = self.finest(factors).filter(|_| !self.window);
        let Some(stretch) = finest.and_then(|factor| stretch.times(&factor)) else {
            return Ok(1);
        };
        let mut needed = 0;
        for closest in &self.closest {
            let (step, whole) = closest.source_units(stretch.step())?;
            let every = u64::try_from(whole / step.gcd(&whole).max(1)).unwrap_or(u64::MAX);
            needed = needed.gcd(&every);
        }
        Ok(needed)
    }

    /// The first multiple of a stretch, from one on, that may lead to no larger error.
    pub(super) fn first_near(
        &self,
        stretch: &Stretch,
        factors: &Factors,
        from: u32,
        within: Option<RelativeError>,
    ) -> Result<Option<u32>> {
        let finest = self.finest(factors).and_then(|factor| stretch.times(&factor));
        // What does not fit rules nothing out.
        let Some(finest) = finest else { return Ok(Some(from).filter(|number| *number <= stretch.to)) };
        let mut first: Option<u32> = None;
        for closest in &self.closest {
            let found = first_near(closest, &finest, from, within)?;
            first = [first, found].into_iter().flatten().min();
        }
        Ok(first)
    }

    pub(super) fn least_error(&self, clock: &Clock) -> Result<RelativeError> {
        if self.window {
            return Ok(NONE);
        }
        let errors = self.closest.iter().map(|closest| closest.least_error(parts(clock)));
        let errors = errors.collect::<Result<Vec<_>>>()?;
        Ok(errors.into_iter().min_by(|left, right| compare_errors(*left, *right)).unwrap_or(NONE))
    }

    pub(super) fn most_steps(&self, clock: &Clock) -> Result<u64> {
        let steps = self.closest.iter().map(|closest| closest.most_steps(parts(clock)));
        Ok(steps.collect::<Result<Vec<_>>>()?.into_iter().max().unwrap_or(0))
    }

    /// On which side of what the clock can make the wanted period lies; `None` where it does not.
    pub(super) fn reach(&self, clock: &Clock) -> Result<Option<Ordering>> {
        if self.window {
            return Ok(None);
        }
        let sides =
            self.closest.iter().map(|closest| closest.reach(parts(clock))).collect::<Result<Vec<_>>>()?;
        let first = sides.first().copied();
        Ok(first.filter(|side| *side != Ordering::Equal && sides.iter().all(|other| other == side)))
    }

    /// The least error and the most steps at a clock, which need not go together; `None` where it is out of reach.
    pub(super) fn at_best(&self, clock: &Clock) -> Result<Option<AtClock>> {
        if self.reach(clock)?.is_some() {
            return Ok(None);
        }
        Ok(Some(AtClock { error: self.least_error(clock)?, steps: self.most_steps(clock)? }))
    }

    /// The nearest setting alone: of those the one with the most steps.
    pub(super) fn nearest(&self, clock: &Clock) -> Result<AtClock> {
        let mut best: Option<AtClock> = None;
        if !self.window {
            for closest in &self.closest {
                let Some(near) = closest.nearest(parts(clock), None)? else { continue };
                let found = AtClock { error: near.error, steps: near.steps };
                let worse = |best: &AtClock| {
                    let order = compare_errors(best.error, found.error);
                    order.then(found.steps.cmp(&best.steps)) == Ordering::Greater
                };
                if best.as_ref().is_none_or(worse) {
                    best = Some(found);
                }
            }
        }
        Ok(best.unwrap_or(AtClock { error: NONE, steps: self.most_steps(clock)? }))
    }
}

pub(super) fn clock_of(stretch: &Stretch, number: u32) -> Result<Clock> {
    let (numerator, denominator) = stretch.clock(number)?;
    Ok(Ratio::new(numerator, denominator))
}

pub(super) fn times(clock: &Clock, factor: &Clock) -> Result<Clock> {
    clock.checked_mul(factor).or_overflow("clock")
}

const fn parts(clock: &Clock) -> (u64, u64) {
    (*clock.numer(), *clock.denom())
}

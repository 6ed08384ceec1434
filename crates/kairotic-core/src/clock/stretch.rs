//! Every clock that the paths of a tree can make, as few numbers as possible.
//!
//! A path is cut at its last multiplier. What can come into that is listed, each frequency once, and so are the factors
//! that the rest can have, each with the frequencies for which no limit is broken. Every pair of them leaves the
//! multiplier's numbers to choose: a stretch of whole multiples.

use std::cmp::Ordering;
use std::collections::HashSet;

use num_rational::Ratio;
use num_traits::CheckedMul;

use super::number::{rule, steps};
use super::path::Hop;
use crate::error::{OrOverflow, Result};
use crate::part::{ClockNode, Scale, ScaleRule, Steps};
use crate::quantity::{Frequency, Range, Rational};

/// A clock in hertz.
pub(crate) type Clock = Ratio<u64>;

/// Clocks are sorted in parts of a hertz.
const PER_HERTZ: u64 = 1 << 20;

/// The clocks that are a step times a whole number between two.
/// Kept short: there are a hundred thousand of them.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) struct Stretch {
    step: Clock,
    pub(crate) from: u32,
    pub(crate) to: u32,
}

impl Stretch {
    fn of(step: Clock, (from, to): (u64, u64)) -> Result<Self> {
        let short = |number: u64| u32::try_from(number).ok().or_overflow("multiplier");
        Ok(Self { step, from: short(from)?, to: short(to)? })
    }

    /// The same with its step reduced where that makes large numbers smaller.
    fn reduced(&self) -> Self {
        let small = |part: &u64| u32::try_from(*part).is_ok();
        let step = if small(self.step.numer()) && small(self.step.denom()) {
            self.step
        } else {
            self.step.reduced()
        };
        Self { step, ..*self }
    }

    /// Numerator and denominator of the step.
    pub(crate) const fn step(&self) -> (u64, u64) {
        (*self.step.numer(), *self.step.denom())
    }

    /// Every so-manieth of its clocks; `None` where there is none.
    pub(crate) fn every(&self, by: u64) -> Option<Self> {
        let by = u32::try_from(by).ok().filter(|by| *by > 0)?;
        let (from, to) = (self.from.div_ceil(by), self.to / by);
        let step = Ratio::new_raw(u64::checked_mul(*self.step.numer(), by.into())?, *self.step.denom());
        (from <= to).then_some(Self { step, from, to })
    }

    /// Its clocks times a factor; `None` where they do not fit.
    pub(crate) fn times(&self, factor: &Clock) -> Option<Self> {
        Some(Self { step: product(&self.step, factor)?, ..*self })
    }

    /// Numerator and denominator of a multiple of the step, not reduced.
    pub(crate) fn clock(&self, number: u32) -> Result<(u64, u64)> {
        Ok((u64::checked_mul(*self.step.numer(), number.into()).or_overflow("clock")?, *self.step.denom()))
    }

    /// The fastest of its clocks in units of `1 / PER_HERTZ`, rounded up: close enough to sort by, and quick to compare.
    fn fastest(&self) -> Result<u64> {
        let (numerator, denominator) = self.clock(self.to)?;
        let units = (u128::from(numerator) * u128::from(PER_HERTZ)).div_ceil(denominator.max(1).into());
        Ok(u64::try_from(units).unwrap_or(u64::MAX))
    }

    /// Numerator and denominator of what no clock of this stretch is above, nor of those that come after it by
    /// [`Stretches::fastest_first`].
    pub(crate) fn at_most(&self) -> Result<(u64, u64)> {
        Ok((self.fastest()?, PER_HERTZ))
    }
}

/// Stretches as they are collected, path by path.
#[derive(Debug, Default)]
pub(super) struct Stretches {
    list: Vec<Stretch>,
    /// Whether a fractional part of the tree was left at whole numbers.
    pub(super) whole_only: bool,
}

/// What the second half of a path can do to a clock.
#[derive(Debug, Clone, PartialEq, Eq, Hash)]
struct Tail {
    factor: Clock,
    /// The frequencies of what comes in for which no limit is broken.
    low: Clock,
    high: Clock,
    /// The divisions that rules further down ask for, each with its place on the path.
    divisions: Vec<(usize, u64)>,
}

impl Stretches {
    /// Adds what a path can make of a source.
    pub(super) fn add_path(
        &mut self,
        hops: &[Hop<'_>],
        start: Frequency,
        settings: &[Vec<(&str, u64)>],
    ) -> Result<()> {
        let asked = |hop: &Hop<'_>| hops.iter().any(|other| other.node.scale.asks_for(&hop.node.name));
        let multiplies = |hop: &Hop<'_>| matches!(hop.node.scale, Scale::Multiply { .. });
        // What is listed first knows neither switches nor the divisions that rules ask for.
        let open = |hop: &Hop<'_>| asked(hop) || hop.node.scale.has_conditions();
        let settled = hops.iter().position(open).unwrap_or(hops.len());
        let last = hops.get(..settled).and_then(|hops| hops.iter().rposition(multiplies));
        let (front, rest) = hops.split_at_checked(last.unwrap_or(0)).unwrap_or((hops, &[]));
        let comes = self.front(front, ratio(start.value())?)?;
        let (multiplied, rest) = match rest.split_first().filter(|_| last.is_some()) {
            Some((hop, rest)) => (self.multiplied(hop.node, comes)?, rest),
            None => (comes.into_iter().map(|step| Stretch { step, from: 1, to: 1 }).collect(), rest),
        };
        let mut tails = Vec::new();
        for switches in settings {
            tails.extend(self.tails(rest, switches, &asked)?);
        }
        tails.iter_mut().for_each(|tail| tail.divisions.clear());
        for tail in merged(tails) {
            for stretch in &multiplied {
                let numbers = (stretch.from.into(), stretch.to.into());
                let (from, to) = within(&stretch.step, (&tail.low, &tail.high), numbers);
                if from <= to {
                    let step = product(&stretch.step, &tail.factor).or_overflow("clock")?;
                    self.list.push(Stretch::of(step, (from, to))?);
                }
            }
        }
        Ok(())
    }

    /// All that was added, each clock of a step once, those that reach furthest first.
    pub(super) fn fastest_first(mut self) -> Result<Vec<Stretch>> {
        // Any order brings those of one step together.
        radsort::sort_by_key(&mut self.list, |stretch| mixed(&stretch.step));
        for alike in self.list.chunk_by_mut(|left, right| mixed(&left.step) == mixed(&right.step)) {
            alike.sort_unstable_by_key(|stretch| (packed(&stretch.step), stretch.from));
        }
        self.list.dedup_by(|next, before| {
            let follows =
                packed(&next.step) == packed(&before.step) && next.from <= before.to.saturating_add(1);
            if follows {
                before.to = before.to.max(next.to);
            }
            follows
        });
        // Places are moved instead of stretches, which are larger.
        let ordered = |(place, stretch): (u32, &Stretch)| Ok((stretch.fastest()?, place));
        let mut places = (0..).zip(&self.list).map(ordered).collect::<Result<Vec<(u64, u32)>>>()?;
        radsort::sort_by_key(&mut places, |(fastest, _)| !fastest);
        let stretches = places.iter().filter_map(|(_, place)| self.list.get(*place as usize));
        Ok(stretches.map(Stretch::reduced).collect())
    }

    /// What a multiplier can make of what comes into it.
    fn multiplied(&mut self, node: &ClockNode, comes: Vec<Clock>) -> Result<Vec<Stretch>> {
        // Numbers that follow one another stand together.
        let runs = runs(&self.numbers(node)?);
        let (takes, gives) = (limits(node.takes)?, limits(node.gives)?);
        let anything = (Ratio::from_integer(0), Ratio::from_integer(u64::MAX));
        let gives = gives.unwrap_or(anything);
        let mut stretches = Vec::new();
        for step in comes.into_iter().filter(|clock| holds(takes.as_ref(), clock)) {
            for run in &runs {
                let (from, to) = within(&step, (&gives.0, &gives.1), *run);
                if from <= to {
                    stretches.push(Stretch::of(step, (from, to))?);
                }
            }
        }
        Ok(stretches)
    }

    /// What can come out of the last of some nodes, each frequency once.
    fn front(&mut self, hops: &[Hop<'_>], start: Clock) -> Result<Vec<Clock>> {
        let mut clocks = vec![start];
        for hop in hops {
            let (takes, gives) = (limits(hop.node.takes)?, limits(hop.node.gives)?);
            let numbers = self.numbers(hop.node)?;
            let mut next = HashSet::with_capacity(clocks.len());
            for clock in clocks.iter().filter(|clock| holds(takes.as_ref(), clock)) {
                for (_, factor) in &numbers {
                    let goes = product(clock, factor).or_overflow("frequency")?;
                    if holds(gives.as_ref(), &goes) {
                        next.insert((*goes.numer(), *goes.denom()));
                    }
                }
            }
            clocks = next
                .into_iter()
                .map(|(numerator, denominator)| Ratio::new_raw(numerator, denominator))
                .collect();
        }
        Ok(clocks)
    }

    /// What some nodes can do together, each factor once for the same limits.
    fn tails(
        &mut self,
        hops: &[Hop<'_>],
        switches: &[(&str, u64)],
        asked: &dyn Fn(&Hop<'_>) -> bool,
    ) -> Result<Vec<Tail>> {
        let one = Ratio::from_integer(1);
        let nothing = Tail {
            factor: one,
            low: Ratio::from_integer(0),
            high: Ratio::from_integer(u64::MAX),
            divisions: Vec::new(),
        };
        let mut tails = vec![nothing];
        for (index, hop) in hops.iter().enumerate() {
            let (takes, gives) = (limits(hop.node.takes)?, limits(hop.node.gives)?);
            let numbers = self.numbers(hop.node)?;
            let mut next = Vec::new();
            for tail in &tails {
                let Some(tail) = tail.limited(takes.as_ref())? else { continue };
                for (number, factor) in &numbers {
                    let value = |name: &str| {
                        let code = switches.iter().find(|(known, _)| *known == name).map(|(_, code)| *code);
                        let named = |place: usize| hops.get(place).is_some_and(|hop| hop.node.name == name);
                        let division =
                            tail.divisions.iter().find(|(place, _)| named(*place)).map(|(_, by)| *by);
                        code.or(division)
                    };
                    let factor = match &hop.node.scale {
                        Scale::Rules(rules) => rule(rules, value).map_or(one, times),
                        _ => *factor,
                    };
                    let mut after = tail.clone();
                    after.factor = tail.factor.checked_mul(&factor).or_overflow("division")?;
                    if asked(hop) {
                        after.divisions.push((index, *number));
                    }
                    next.extend(after.limited(gives.as_ref())?);
                }
            }
            tails = merged(next);
        }
        Ok(tails)
    }

    /// The numbers of a node with their factors; a fractional one is left at whole numbers, since the others are
    /// countless.
    pub(super) fn numbers(&mut self, node: &ClockNode) -> Result<Vec<(u64, Clock)>> {
        let one = Ratio::from_integer(1);
        let Some((steps, divides)) = steps(node) else {
            return Ok(vec![match &node.scale {
                Scale::By(by) => (0, Ratio::new(1, u64::from((*by).max(1)))),
                Scale::Rules(rules) => (0, rule(rules, |_| None).map_or(one, times)),
                _ => (0, one),
            }]);
        };
        let whole = match steps {
            Steps::Fraction { min, max, fraction_bits, .. } => {
                self.whole_only = true;
                (min.div_ceil(1 << fraction_bits)..=(max >> fraction_bits)).collect()
            }
            steps => steps.every().into_iter().map(|(number, _)| number).collect::<Vec<_>>(),
        };
        let scale = steps.fraction_bits();
        Ok(whole
            .into_iter()
            .filter(|number| *number > 0)
            .map(|number| {
                let factor = Ratio::from_integer(number);
                (number << scale, if divides { one / factor } else { factor })
            })
            .collect())
    }
}

/// Each factor once for all frequencies that some tail with it allows; frequencies that no tail allows stay left out.
/// Tails whose divisions rules may still ask for stay apart.
fn merged(mut tails: Vec<Tail>) -> Vec<Tail> {
    // Any order brings those of one factor together.
    radsort::sort_by_key(&mut tails, |tail| mixed(&tail.factor));
    for alike in tails.chunk_by_mut(|left, right| mixed(&left.factor) == mixed(&right.factor)) {
        alike.sort_unstable_by(|left, right| {
            let factors = packed(&left.factor).cmp(&packed(&right.factor));
            factors
                .then_with(|| left.divisions.cmp(&right.divisions))
                .then_with(|| order(&left.low, &right.low))
        });
    }
    let mut merged: Vec<Tail> = Vec::new();
    for tail in tails {
        match merged.last_mut() {
            Some(last)
                if packed(&last.factor) == packed(&tail.factor)
                    && last.divisions == tail.divisions
                    && order(&tail.low, &last.high) != Ordering::Greater =>
            {
                if order(&last.high, &tail.high) == Ordering::Less {
                    last.high = tail.high;
                }
            }
            _ => merged.push(tail),
        }
    }
    merged
}

/// The factor of a rule.
pub(super) fn times(rule: &ScaleRule) -> Clock {
    Ratio::from_integer(rule.times.into())
}

/// The whole numbers among numbers and their factors as runs of neighbours.
fn runs(numbers: &[(u64, Clock)]) -> Vec<(u64, u64)> {
    let mut runs: Vec<(u64, u64)> = Vec::new();
    for number in numbers.iter().map(|(_, factor)| factor.to_integer()) {
        match runs.last_mut() {
            Some((_, to)) if *to + 1 == number => *to = number,
            _ => runs.push((number, number)),
        }
    }
    runs
}

/// The whole numbers between two by which a step stays within limits.
fn within(step: &Clock, limits: (&Clock, &Clock), (from, to): (u64, u64)) -> (u64, u64) {
    let product = |left: u64, right: u64| u128::from(left) * u128::from(right);
    let low =
        product(*limits.0.numer(), *step.denom()).div_ceil(product(*limits.0.denom(), *step.numer()).max(1));
    let high = product(*limits.1.numer(), *step.denom()) / product(*limits.1.denom(), *step.numer()).max(1);
    (from.max(u64::try_from(low).unwrap_or(u64::MAX)), to.min(u64::try_from(high).unwrap_or(u64::MAX)))
}

/// A product that is not reduced, where that fits: those of the same divisions in another order come out the same
/// already, and most of them are never needed.
fn product(left: &Clock, right: &Clock) -> Option<Clock> {
    let numerator = u64::checked_mul(*left.numer(), *right.numer());
    let denominator = u64::checked_mul(*left.denom(), *right.denom());
    match (numerator, denominator) {
        (Some(numerator), Some(denominator)) => Some(Ratio::new_raw(numerator, denominator)),
        _ => left.checked_mul(right),
    }
}

/// A number that is the same for the same parts of a clock, and seldom for others: half as long as both.
const fn mixed(value: &Clock) -> u64 {
    value.numer().rotate_right(24) ^ *value.denom()
}

/// The parts of a clock or factor as one number, which is quick to compare; not in the order of what they mean.
fn packed(value: &Clock) -> u128 {
    u128::from(*value.numer()) << 64 | u128::from(*value.denom())
}

/// Slower first.
pub(super) fn order(left: &Clock, right: &Clock) -> Ordering {
    let product = |left: u64, right: u64| u128::from(left) * u128::from(right);
    product(*left.numer(), *right.denom()).cmp(&product(*right.numer(), *left.denom()))
}

impl Tail {
    /// The same with limits on what comes out of it so far; `None` where nothing is left.
    fn limited(&self, limits: Option<&(Clock, Clock)>) -> Result<Option<Self>> {
        let Some((low, high)) = limits else { return Ok(Some(self.clone())) };
        let inverse = Ratio::new_raw(*self.factor.denom(), *self.factor.numer());
        let over = |end: &Clock| product(end, &inverse).or_overflow("frequency");
        let low = latest(over(low)?, self.low, Ordering::Greater);
        let high = latest(over(high)?, self.high, Ordering::Less);
        Ok((order(&low, &high) != Ordering::Greater).then(|| Self { low, high, ..self.clone() }))
    }
}

/// The one of two clocks that lies on a side of the other.
pub(super) fn latest(left: Clock, right: Clock, side: Ordering) -> Clock {
    if order(&left, &right) == side { left } else { right }
}

pub(super) fn ratio(value: Rational) -> Result<Clock> {
    let part = |part: i128| u64::try_from(part).ok().or_overflow("frequency");
    Ok(Ratio::new(part(value.numerator())?, part(value.denominator())?.max(1)))
}

pub(super) fn limits(range: Option<Range<Frequency>>) -> Result<Option<(Clock, Clock)>> {
    range.map(|range| Ok((ratio(range.low.value())?, ratio(range.high.value())?))).transpose()
}

pub(super) fn holds(limits: Option<&(Clock, Clock)>, clock: &Clock) -> bool {
    limits.is_none_or(|(low, high)| {
        order(low, clock) != Ordering::Greater && order(clock, high) != Ordering::Greater
    })
}

#[cfg(test)]
mod tests;

//! The search for one setting of the clock tree for all signals of a board.
//!
//! A clock at the end of the trunk is a multiple of a stretch's step. Of which multiples a signal's period can be a whole
//! number of clocks follows from its denominator, and so do the multiples that serve several signals at once. Those that
//! may serve all are looked at first, fastest first; then those that serve one signal less, with errors that widen. A
//! clock is looked at only as far as bounds leave it a chance against what is held: nothing better is missed.

use std::cmp::{Ordering, Reverse};
use std::collections::{HashMap, HashSet};

use num_integer::Integer;
use num_rational::Ratio;

use super::clock_demand::{AtClock, Demand, Factors, NONE, clock_of, times};
use crate::clock::{Clock, Fork, Forks, Stretch};
use crate::error::{Error, Result};
use crate::search::{RelativeError, compare_errors};

/// How many settings are answered.
const SHOWN: usize = 6;

/// What is made of some signals at a clock.
type MadeAt<'s> = dyn Fn(&Clock) -> Result<Vec<AtClock>> + 's;

/// Signals that are settled together, from one clock; none for a stepper, which a clock can move or not.
pub(super) struct ClockGroup<'s> {
    /// Which of the demands are theirs.
    pub(super) signals: Vec<usize>,
    /// Which of the nodes is their clock.
    pub(super) node: usize,
    /// What is made of them.
    pub(super) made: Box<MadeAt<'s>>,
}

/// How good a clock setting is for all signals: how many are exact, how far the others are off at most, and the steps of
/// each signal, the fewest first.
#[derive(Debug, Clone)]
struct Standing {
    exact: usize,
    worst: RelativeError,
    steps: Vec<u64>,
}

impl Standing {
    fn of(signals: &[AtClock]) -> Self {
        let exact = signals.iter().filter(|signal| signal.error.0 == 0).count();
        let worst =
            signals.iter().map(|signal| signal.error).max_by(|left, right| compare_errors(*left, *right));
        let mut steps: Vec<u64> = signals.iter().map(|signal| signal.steps).collect();
        steps.sort_unstable();
        Self { exact, worst: worst.unwrap_or(NONE), steps }
    }

    /// The best that signals with at least such errors, and at most such steps, can be together.
    fn at_best(signals: &[AtClock]) -> Self {
        let standing = Self::of(signals);
        if standing.exact == signals.len() {
            return standing;
        }
        // Some may have more steps for a larger error, as long as that is not the worst.
        Self { steps: vec![u64::MAX], ..standing }
    }

    /// Better comes first.
    fn order(&self, other: &Self) -> Ordering {
        let exact = other.exact.cmp(&self.exact);
        exact.then_with(|| compare_errors(self.worst, other.worst)).then_with(|| other.steps.cmp(&self.steps))
    }
}

/// The search, and what it has found so far.
pub(super) struct ClockSearch<'s> {
    demands: &'s [Demand<'s>],
    groups: &'s [ClockGroup<'s>],
    /// The best settings as the clocks of the nodes, best first.
    held: Vec<(Standing, Vec<Clock>)>,
    seen: HashSet<Vec<Clock>>,
    /// What a few divisions tell of a signal at a clock; branchings have most clocks in common.
    rough: HashMap<(usize, Clock), Option<AtClock>>,
    nearest: HashMap<(usize, Clock), AtClock>,
    made: HashMap<(usize, Clock), Option<Vec<AtClock>>>,
    /// Why the first clock that was tried does not serve.
    refused: Option<Error>,
}

impl<'s> ClockSearch<'s> {
    pub(super) fn of(demands: &'s [Demand<'s>], groups: &'s [ClockGroup<'s>]) -> Self {
        Self {
            demands,
            groups,
            held: Vec::new(),
            seen: HashSet::new(),
            rough: HashMap::new(),
            nearest: HashMap::new(),
            made: HashMap::new(),
            refused: None,
        }
    }

    /// The clocks of the nodes in the best settings, best first; none where the tree has no legal clock.
    ///
    /// # Errors
    /// Why the first clock that was tried does not serve, where none does.
    pub(super) fn run(mut self, forks: &Forks<'_>, nodes: usize) -> Result<Vec<Vec<Clock>>> {
        let all: Vec<_> = forks.list.iter().map(|fork| (fork, Factors::of(fork, nodes))).collect();
        self.rule_out(&all)?;
        self.through(&all)?;
        match self.refused {
            Some(refused) if self.held.is_empty() => Err(refused),
            _ => Ok(self.held.into_iter().map(|(_, clocks)| clocks).collect()),
        }
    }

    /// Looks for a signal that no clock of the tree is fast or slow enough for, and for a stepper whose slowest step is longer
    /// than a period on any.
    fn rule_out(&self, forks: &[(&Fork<'_>, Factors)]) -> Result<()> {
        for (place, demand) in self.demands.iter().enumerate().filter(|(_, demand)| !demand.window) {
            let group = self.groups.iter().find(|group| group.signals.contains(&place));
            let Some(((slowest, fastest), group)) = clocks_of(forks, demand.node)?.zip(group) else {
                continue;
            };
            for (clock, side) in [(fastest, Ordering::Less), (slowest, Ordering::Greater)] {
                if demand.reach(&clock).is_ok_and(|found| found == Some(side)) {
                    (group.made)(&clock)?;
                }
            }
        }
        for group in self.groups.iter().filter(|group| group.signals.is_empty()) {
            if let Some((slowest, _)) = clocks_of(forks, group.node)? {
                (group.made)(&slowest)?;
            }
        }
        Ok(())
    }

    /// Goes through all clocks that may be better than what is held.
    fn through(&mut self, forks: &[(&Fork<'_>, Factors)]) -> Result<()> {
        let signals = self.demands.len();
        for exact in (0..=signals).rev() {
            // One part in so many, and at last any error.
            let errors = (1..=9).rev().map(|power| Some((1, 10_u128.pow(power)))).chain([None]);
            for within in errors.filter(|within| exact < signals || within.is_none()) {
                for (fork, factors) in forks {
                    self.along(fork, factors, exact, within)?;
                }
                if self.is_settled(exact, within) {
                    return Ok(());
                }
            }
        }
        Ok(())
    }

    /// Whether nothing better can come once all clocks are looked at that may serve so many signals exactly, and the
    /// others within an error.
    fn is_settled(&self, exact: usize, within: Option<RelativeError>) -> bool {
        self.held.get(SHOWN - 1).is_some_and(|(last, _)| {
            let near = |error| compare_errors(last.worst, error) != Ordering::Greater;
            last.exact > exact || last.exact == exact && within.is_none_or(near)
        })
    }

    /// Looks at the clocks of a fork that may serve just so many signals exactly, and the others within an error.
    fn along(
        &mut self,
        fork: &Fork<'_>,
        factors: &Factors,
        exact: usize,
        within: Option<RelativeError>,
    ) -> Result<()> {
        for stretch in &fork.stretches {
            if exact == self.demands.len() && !self.may_have_more(factors, stretch.at_most()?)? {
                return Ok(());
            }
            let mut needed = Vec::new();
            for demand in self.demands {
                needed.push(demand.needed(stretch, factors)?);
            }
            let always = needed.iter().filter(|by| **by == 1).count();
            let mut different: Vec<u64> = needed.iter().copied().filter(|by| *by > 1).collect();
            different.sort_unstable();
            let counted: Vec<(u64, usize)> =
                different.chunk_by(u64::eq).filter_map(|same| Some((*same.first()?, same.len()))).collect();
            let Some(more) = exact.checked_sub(always) else { continue };
            let mut ways = Vec::new();
            serving(&counted, more, (1, stretch.to), &mut Vec::new(), &mut ways);
            for (multiple, served) in ways {
                let Some(stretch) = stretch.every(multiple) else { continue };
                let is_off =
                    |place: &usize| needed.get(*place).is_some_and(|by| *by > 1 && !served.contains(by));
                let mut off: Vec<usize> = (0..needed.len()).filter(is_off).collect();
                // The rarest first.
                off.sort_by_key(|place| Reverse(needed.get(*place).copied()));
                self.among(fork, factors, &stretch, (&off, within))?;
            }
        }
        Ok(())
    }

    /// Looks at the clocks of a stretch, some signals of which are off by no more than an error.
    fn among(
        &mut self,
        fork: &Fork<'_>,
        factors: &Factors,
        stretch: &Stretch,
        (off, within): (&[usize], Option<RelativeError>),
    ) -> Result<()> {
        let Some(rarest) = off.first().and_then(|place| self.demands.get(*place)) else {
            for number in (stretch.from..=stretch.to).rev() {
                let clock = stretch.clock(number)?;
                if !self.may_have_more(factors, clock)? {
                    break;
                }
                self.look(fork, &Ratio::new(clock.0, clock.1))?;
            }
            return Ok(());
        };
        let mut from = stretch.from;
        while let Some(number) = rarest.first_near(stretch, factors, from, within)? {
            from = number + 1;
            let clock = clock_of(stretch, number)?;
            let mut near = true;
            for demand in off.iter().filter_map(|place| self.demands.get(*place)) {
                // What does not fit rules nothing out.
                let Some(finest) = demand.finest(factors) else { continue };
                let error = demand.least_error(&times(&clock, &finest)?)?;
                near &= within.is_none_or(|within| compare_errors(error, within) != Ordering::Greater);
            }
            if near {
                self.look(fork, &clock)?;
            }
        }
        Ok(())
    }

    /// Whether a clock at the trunk's end, if it serves all signals exactly, may give more steps than what is held.
    fn may_have_more(&self, factors: &Factors, clock: (u64, u64)) -> Result<bool> {
        if self.held.len() < SHOWN {
            return Ok(true);
        }
        let clock = Ratio::new(clock.0, clock.1);
        let mut fewest = u64::MAX;
        for demand in self.demands {
            let fastest =
                factors.fastest.get(demand.node).map_or(Ok(clock), |factor| times(&clock, factor))?;
            fewest = fewest.min(demand.most_steps(&fastest)?);
        }
        let steps = std::iter::once(fewest).chain(self.demands.iter().skip(1).map(|_| u64::MAX));
        Ok(self.beats(&Standing { exact: self.demands.len(), worst: NONE, steps: steps.collect() }))
    }

    fn beats(&self, standing: &Standing) -> bool {
        self.held.get(SHOWN - 1).is_none_or(|(last, _)| standing.order(last) == Ordering::Less)
    }

    /// Looks at what every branching makes of a clock at the trunk's end.
    fn look(&mut self, fork: &Fork<'_>, clock: &Clock) -> Result<()> {
        for branching in fork.branchings.iter().filter(|branching| branching.takes(clock)) {
            let clocks =
                branching.factors.iter().map(|factor| times(clock, factor)).collect::<Result<Vec<_>>>()?;
            if self.seen.insert(clocks.clone()) {
                self.try_out(clocks)?;
            }
        }
        Ok(())
    }

    /// Holds what the signals are at some clocks, unless it cannot be better than what is held.
    fn try_out(&mut self, clocks: Vec<Clock>) -> Result<()> {
        for bound in [Self::roughly, Self::nearly] {
            let Some(signals) = bound(self, &clocks)? else {
                // Why, is told of the first.
                return if self.refused.is_none() { self.really(&clocks).map(|_| ()) } else { Ok(()) };
            };
            if !self.beats(&Standing::at_best(&signals)) {
                return Ok(());
            }
        }
        let Some(signals) = self.really(&clocks)? else { return Ok(()) };
        let standing = Standing::of(&signals);
        let place = self.held.partition_point(|(known, _)| known.order(&standing) != Ordering::Greater);
        self.held.insert(place, (standing, clocks));
        self.held.truncate(SHOWN);
        Ok(())
    }

    /// What a few divisions tell; `None` where a signal is out of reach.
    fn roughly(&mut self, clocks: &[Clock]) -> Result<Option<Vec<AtClock>>> {
        let mut signals = Vec::new();
        for (place, demand) in self.demands.iter().enumerate() {
            let Some(clock) = clocks.get(demand.node) else { return Ok(None) };
            let known = match self.rough.get(&(place, *clock)) {
                Some(known) => *known,
                None => {
                    let found = demand.at_best(clock)?;
                    self.rough.insert((place, *clock), found);
                    found
                }
            };
            let Some(signal) = known else { return Ok(None) };
            signals.push(signal);
        }
        Ok(Some(signals))
    }

    /// What the nearest setting of each signal alone tells.
    fn nearly(&mut self, clocks: &[Clock]) -> Result<Option<Vec<AtClock>>> {
        let mut signals = Vec::new();
        for (place, demand) in self.demands.iter().enumerate() {
            let Some(clock) = clocks.get(demand.node) else { return Ok(None) };
            let known = self.nearest.get(&(place, *clock)).copied();
            let found = known.map_or_else(|| demand.nearest(clock), Ok)?;
            self.nearest.insert((place, *clock), found);
            signals.push(found);
        }
        Ok(Some(signals))
    }

    /// What is made of the signals; `None` where one cannot be made.
    fn really(&mut self, clocks: &[Clock]) -> Result<Option<Vec<AtClock>>> {
        let mut signals = Vec::new();
        for (place, group) in self.groups.iter().enumerate() {
            let Some(clock) = clocks.get(group.node) else { return Ok(None) };
            let made = match self.made.get(&(place, *clock)) {
                Some(known) => known.clone(),
                None => {
                    let made = (group.made)(clock);
                    if let Err(error) = &made {
                        self.refused.get_or_insert_with(|| error.clone());
                    }
                    let made = made.ok();
                    self.made.insert((place, *clock), made.clone());
                    made
                }
            };
            let Some(made) = made else { return Ok(None) };
            signals.extend(made);
        }
        Ok(Some(signals))
    }
}

/// The slowest and the fastest clock that a tree brings to a node.
fn clocks_of(forks: &[(&Fork<'_>, Factors)], node: usize) -> Result<Option<(Clock, Clock)>> {
    let mut ends: Option<(Clock, Clock)> = None;
    for (fork, _) in forks {
        let factors = || fork.branchings.iter().filter_map(|branching| branching.factors.get(node).copied());
        let Some((least, most)) = factors().min().zip(factors().max()) else { continue };
        for stretch in &fork.stretches {
            let (low, high) = (clock_of(stretch, stretch.from)?, clock_of(stretch, stretch.to)?);
            let (low, high) = (times(&low, &least)?, times(&high, &most)?);
            ends = Some(ends.map_or((low, high), |(slow, fast)| (slow.min(low), fast.max(high))));
        }
    }
    Ok(ends)
}

/// The least common multiples of some of the numbers that serve just so many signals together, each with those numbers.
fn serving(
    numbers: &[(u64, usize)],
    more: usize,
    (multiple, most): (u64, u32),
    chosen: &mut Vec<u64>,
    found: &mut Vec<(u64, Vec<u64>)>,
) {
    if more == 0 {
        found.push((multiple, chosen.clone()));
        return;
    }
    for (place, (number, signals)) in numbers.iter().enumerate() {
        let Some(more) = more.checked_sub(*signals) else { continue };
        let common = u64::checked_mul(multiple / multiple.gcd(number), *number);
        let Some(common) = common.filter(|common| *common <= most.into()) else { continue };
        chosen.push(*number);
        serving(numbers.get(place + 1..).unwrap_or_default(), more, (common, most), chosen, found);
        chosen.pop();
    }
}

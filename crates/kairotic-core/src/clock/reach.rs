//! Every way for a wanted frequency to reach a timer.
//!
//! On each path the node with the most steps is solved for, and all others are tried: what comes before it forward
//! from the source, what comes after it backward from the wanted frequency, so that limits cut both short.

use std::cmp::Reverse;
use std::collections::HashMap;
use std::collections::hash_map::Entry;

use super::arrange::{Arrangement, Way};
use super::number::{factor, number, steps};
use super::path::{Hop, paths, switch_settings};
use super::source::{SourceAsk, sources};
use super::tree_and_node;
use crate::error::{Error, Result};
use crate::part::{ClockNode, Part, Scale, Steps, Timer};
use crate::quantity::{Deviation, Frequency, OrOverflow, Range, Rational};

/// A frequency that is wanted at a timer.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct ReachRequest {
    /// The timer's name.
    pub timer: String,
    /// Where the clock starts; any internal oscillator where none is given.
    pub source: Option<SourceAsk>,
    /// The wanted frequency.
    pub reach: Frequency,
    /// How far it may be off when it cannot be met.
    pub within: Deviation,
}

/// The ways for a wanted frequency to reach a timer.
#[derive(Debug, Clone, PartialEq)]
pub struct Reached {
    /// The timer.
    pub timer: Timer,
    /// What was wanted.
    pub reach: Frequency,
    /// The ways, best first; at least one.
    pub ways: Vec<ReachedClock>,
}

/// One way, and how far it is off.
#[derive(Debug, Clone, PartialEq)]
pub struct ReachedClock {
    /// The way.
    pub arrangement: Arrangement,
    /// Realised over wanted, less one.
    pub error: Deviation,
}

/// Finds the ways, exact ones only where there are any.
///
/// # Errors
/// [`Error::NoClockTree`], [`Error::NoSource`], names that the part does not have, and [`Error::ClockUnreachable`].
pub fn reach(part: &Part, request: &ReachRequest) -> Result<Reached> {
    let timer = part.timer(&request.timer, None)?;
    let wanted = request.reach.positive()?;
    let mut ways = ways(part, &timer, request.source.as_ref(), wanted, Deviation::ZERO, usize::MAX)?;
    if ways.is_empty() && request.within > Deviation::ZERO {
        ways = self::ways(part, &timer, request.source.as_ref(), wanted, request.within, usize::MAX)?;
    }
    if ways.is_empty() {
        return Err(Error::ClockUnreachable {
            timer: timer.path(),
            wanted: wanted.exact(),
            within: request.within.exact(),
        });
    }
    Ok(Reached { timer, reach: wanted, ways })
}

/// The ways within a deviation, best first, at most so many.
pub(super) fn ways(
    part: &Part,
    timer: &Timer,
    source: Option<&SourceAsk>,
    wanted: Frequency,
    within: Deviation,
    most: usize,
) -> Result<Vec<ReachedClock>> {
    let (tree, node) = tree_and_node(part, timer)?;
    let mut roads = Vec::new();
    let mut found = Vec::new();
    for (name, start) in sources(part, tree, source)? {
        for hops in paths(tree, node, &|node| node.name == name)? {
            // What may do is the same for every setting of the switches that rules ask for.
            let candidates = candidates(&hops, start, wanted, within)?;
            for switches in switch_settings(tree, &hops) {
                for numbers in &candidates {
                    let way = Way { part, tree, hops: &hops, start, numbers, switches: &switches };
                    let Some(flow) = way.flow()? else { continue };
                    let error = deviation(flow.last().copied().unwrap_or(start), wanted)?;
                    if error.value().magnitude() <= within.value() {
                        let (off, vco) = (error.value().magnitude(), way.vco(&flow));
                        let rank = (off, way.is_fractional(), vco, numbers.clone());
                        found.push((rank, roads.len(), error));
                    }
                }
                roads.push((hops.clone(), start, switches));
            }
        }
    }
    found.sort();
    found.dedup_by(|left, right| (&left.0.3, left.1) == (&right.0.3, right.1));
    let mut ways = Vec::new();
    for ((.., numbers), road, error) in found.into_iter().take(most) {
        let Some((hops, start, switches)) = roads.get(road) else { continue };
        let way = Way { part, tree, hops, start: *start, numbers: &numbers, switches };
        if let Ok(arrangement) = way.arrangement()? {
            ways.push(ReachedClock { arrangement, error });
        }
    }
    Ok(ways)
}

/// Realised over wanted, less one.
pub(super) fn deviation(realised: Frequency, wanted: Frequency) -> Result<Deviation> {
    let ratio = realised.value().over(wanted.value()).or_overflow("frequency error")?;
    ratio.minus(Rational::ONE).or_overflow("frequency error").map(Deviation::new)
}

/// A part of a path: the frequency at its open end, and the numbers tried for its nodes.
struct Partial {
    value: Rational,
    numbers: Vec<u64>,
}

/// A part of a path that ends at the timer: the frequency wanted at its open end, what limits allow there, and the
/// numbers tried for its nodes, last first.
struct Tail {
    value: Rational,
    room: Room,
    numbers: Vec<u64>,
}

/// The frequencies that limits allow.
#[derive(Clone, Copy)]
struct Room {
    low: Rational,
    high: Option<Rational>,
}

impl Room {
    fn within(self, limits: Option<Range<Frequency>>) -> Self {
        let Some(limits) = limits else { return self };
        let high = self.high.map_or(limits.high.value(), |high| high.min(limits.high.value()));
        Self { low: self.low.max(limits.low.value()), high: Some(high) }
    }

    /// The room before a factor, for this room after it.
    fn before(self, factor: Rational) -> Result<Self> {
        let over = |end: Rational| end.over(factor).or_overflow("frequency");
        Ok(Self { low: over(self.low)?, high: self.high.map(over).transpose()? })
    }

    /// Whether some frequency in the band around a value is allowed.
    fn meets(self, value: Rational, band: &Range<Rational>) -> Result<bool> {
        let (low, high) = around_value(value, band)?;
        Ok(high >= self.low && self.high.is_none_or(|most| low <= most && self.low <= most))
    }

    /// The value, or the nearest that is allowed.
    fn nearest(self, value: Rational) -> Rational {
        self.high.map_or(value, |high| value.min(high)).max(self.low)
    }
}

/// The numbers for the nodes of a path that may make the wanted frequency. Rules are not held against one another here:
/// whoever uses a candidate plays it through.
fn candidates(
    hops: &[Hop<'_>],
    start: Frequency,
    wanted: Frequency,
    within: Deviation,
) -> Result<Vec<Vec<u64>>> {
    let count = |hop: &Hop<'_>| steps(hop.node).map_or(0, |(steps, _)| steps.count());
    let solved = (0..hops.len()).max_by_key(|index| (hops.get(*index).map_or(0, count), Reverse(*index)));
    let Some((solved, hop)) = solved.and_then(|index| Some((index, hops.get(index)?))) else {
        return Ok(Vec::new());
    };
    let (before, after) =
        (hops.get(..solved).unwrap_or_default(), hops.get(solved + 1..).unwrap_or_default());
    let prefixes = forward(before, start)?;
    let end = |end: Rational| Rational::ONE.plus(end).or_overflow("tolerance");
    let minus = Rational::ZERO.minus(within.value()).or_overflow("tolerance")?;
    let band = Range { low: end(minus)?, high: end(within.value())? };
    let feeds = hop.node.gives;
    // Many tails ask for the same frequency: divisions by powers of two follow one another.
    let mut solutions: HashMap<(Rational, Rational), Vec<(usize, u64)>> = HashMap::new();
    let mut found = Vec::new();
    for tail in &backward(after, feeds, wanted, &band)? {
        let room = tail.room.within(feeds);
        if !room.meets(tail.value, &band)? {
            continue;
        }
        let target = (tail.value, room.nearest(tail.value));
        let solutions = match solutions.entry(target) {
            Entry::Occupied(known) => known.into_mut(),
            Entry::Vacant(new) => new.insert(solve(hop.node, &prefixes, target, &band)?),
        };
        for (place, number) in solutions {
            let Some(prefix) = prefixes.get(*place) else { continue };
            let rest = tail.numbers.iter().rev();
            found.push(prefix.numbers.iter().chain([&*number]).chain(rest).copied().collect());
        }
    }
    Ok(found)
}

/// The numbers of a node that lead from what comes in to what is wanted, each with the place of what comes in. The
/// target is what is wanted and the nearest to it that is allowed.
fn solve(
    node: &ClockNode,
    prefixes: &[Partial],
    (wanted, nearest): (Rational, Rational),
    band: &Range<Rational>,
) -> Result<Vec<(usize, u64)>> {
    let mut solutions = Vec::new();
    for (place, prefix) in prefixes.iter().enumerate() {
        if node.takes.is_some_and(|takes| !takes.holds(Frequency::new(prefix.value))) {
            continue;
        }
        let ratio = nearest.over(prefix.value).or_overflow("ratio of clocks")?;
        let exact = wanted.over(prefix.value).or_overflow("ratio of clocks")?;
        for number in around(node, ratio)? {
            // What rules do is not known before the whole way is.
            if steps(node).is_none() || near(factor(node, number, |_| None)?, exact, band)? {
                solutions.push((place, number));
            }
        }
    }
    Ok(solutions)
}

/// What can come out of the last of some nodes.
fn forward(hops: &[Hop<'_>], start: Frequency) -> Result<Vec<Partial>> {
    let mut reached = vec![Partial { value: start.value(), numbers: Vec::new() }];
    for hop in hops {
        let legal = |limits: Option<Range<Frequency>>, value| {
            limits.is_none_or(|limits| limits.holds(Frequency::new(value)))
        };
        let factors = factors(hop.node)?;
        let mut next = Vec::new();
        for partial in reached.iter().filter(|partial| legal(hop.node.takes, partial.value)) {
            for (factor, number) in &factors {
                let value = partial.value.times(*factor).or_overflow("frequency")?;
                if legal(hop.node.gives, value) {
                    let numbers = partial.numbers.iter().chain([number]).copied().collect();
                    next.push(Partial { value, numbers });
                }
            }
        }
        reached = next;
    }
    Ok(reached)
}

/// What has to come into the first of some nodes, which a node with the given limits feeds.
fn backward(
    hops: &[Hop<'_>],
    feeds: Option<Range<Frequency>>,
    wanted: Frequency,
    band: &Range<Rational>,
) -> Result<Vec<Tail>> {
    let anything = Room { low: Rational::ZERO, high: None };
    let mut needed = vec![Tail { value: wanted.value(), room: anything, numbers: Vec::new() }];
    for (place, hop) in hops.iter().enumerate().rev() {
        let feeds =
            place.checked_sub(1).and_then(|before| hops.get(before)).map_or(feeds, |hop| hop.node.gives);
        let arrives = anything.within(hop.node.takes).within(feeds);
        let factors = factors(hop.node)?;
        let mut next = Vec::new();
        for tail in &needed {
            let room = tail.room.within(hop.node.gives);
            for (factor, number) in &factors {
                let value = tail.value.over(*factor).or_overflow("frequency")?;
                // Most factors fail here already, which is cheaper than their room.
                if !arrives.meets(value, band)? {
                    continue;
                }
                let room = room.before(*factor)?.within(hop.node.takes);
                if room.meets(value, band)? {
                    let numbers = tail.numbers.iter().chain([number]).copied().collect();
                    next.push(Tail { value, room, numbers });
                }
            }
        }
        needed = next;
    }
    Ok(needed)
}

/// Every factor that a node can have, with its number. A node with rules has the factors of all of them.
fn factors(node: &ClockNode) -> Result<Vec<(Rational, u64)>> {
    if let Some((steps, _)) = steps(node) {
        let every = steps.every().into_iter();
        return every.map(|(number, _)| Ok((factor(node, number, |_| None)?, number))).collect();
    }
    if let Scale::Rules(rules) = &node.scale {
        let mut times: Vec<u32> = rules.iter().map(|rule| rule.times).collect();
        times.sort_unstable();
        times.dedup();
        return Ok(times.into_iter().map(|times| (times.into(), 0)).collect());
    }
    Ok(vec![(factor(node, 0, |_| None)?, 0)])
}

/// The numbers of a node whose factors stand on either side of a ratio; all numbers of a list.
fn around(node: &ClockNode, ratio: Rational) -> Result<Vec<u64>> {
    let Some((steps, divides)) = steps(node) else { return Ok(vec![0]) };
    let meant = if divides { Rational::ONE.over(ratio).or_overflow("division")? } else { ratio };
    let floor = number(steps, meant)?;
    Ok(match steps {
        Steps::List(taps) => taps.iter().map(|tap| tap.by.into()).collect(),
        Steps::Range { min, max, .. } | Steps::Fraction { min, max, .. } => {
            let numbers = [floor, floor.saturating_add(1)];
            numbers.into_iter().filter(|number| (min..=max).contains(&number)).collect()
        }
    })
}

/// Whether a factor is a ratio, within the band.
fn near(factor: Rational, ratio: Rational, band: &Range<Rational>) -> Result<bool> {
    let (low, high) = around_value(ratio, band)?;
    Ok(low <= factor && factor <= high)
}

/// The ends of the band around a value: itself where nothing but it will do, which is what most searches ask.
fn around_value(value: Rational, band: &Range<Rational>) -> Result<(Rational, Rational)> {
    if band.low == Rational::ONE && band.high == Rational::ONE {
        return Ok((value, value));
    }
    let end = |end: Rational| value.times(end).or_overflow("frequency");
    Ok((end(band.low)?, end(band.high)?))
}

//! The numbers for the nodes of a path that may make a wanted frequency.
//!
//! The node with the most steps is solved for, and all others are tried: what comes before it forward from the source,
//! what comes after it backward from the wanted frequency, so that limits cut both short.

use std::cmp::Reverse;
use std::collections::HashMap;
use std::collections::hash_map::Entry;

use super::number::{factor, number, steps};
use super::path::Hop;
use crate::error::{OrOverflow, Result};
use crate::part::{ClockNode, Scale, Steps};
use crate::quantity::{Deviation, Frequency, Range, Rational};

/// A part of a path: the frequency at its open end, and the numbers tried for its nodes.
struct Partial {
    value: Rational,
    numbers: Vec<u64>,
}

/// A part of a path that ends at the timer: the frequency wanted at its open end, what limits allow there, and the
/// numbers of its first node that lead on, each with the place of the part that follows.
struct PathTail {
    value: Rational,
    room: Room,
    onward: Vec<(u64, usize)>,
}

/// The frequencies that limits allow.
#[derive(Clone, Copy, PartialEq, Eq, Hash)]
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

/// A path cut at the node with the most steps, with what can come into that.
pub(super) struct CutPath {
    /// The place of the node on the path.
    at: usize,
    prefixes: Vec<Partial>,
}

impl CutPath {
    /// Cuts a path that starts at a frequency.
    pub(super) fn of(hops: &[Hop<'_>], start: Frequency) -> Result<Self> {
        let count = |hop: &Hop<'_>| steps(hop.node).map_or(0, |(steps, _)| steps.count());
        let at = (0..hops.len()).max_by_key(|index| (hops.get(*index).map_or(0, count), Reverse(*index)));
        let at = at.unwrap_or(0);
        let mut prefixes = forward(hops.get(..at).unwrap_or_default(), start)?;
        let takes = hops.get(at).and_then(|hop| hop.node.takes);
        prefixes.retain(|prefix| legal(takes, prefix.value));
        Ok(Self { at, prefixes })
    }

    /// The numbers for the nodes of the path that may make the wanted frequency. Rules are not held against one another
    /// here: whoever uses a candidate plays it through.
    pub(super) fn candidates(
        &self,
        hops: &[Hop<'_>],
        wanted: Frequency,
        within: Deviation,
    ) -> Result<Vec<Vec<u64>>> {
        let Some((hop, after)) = hops.get(self.at..).and_then(|rest| rest.split_first()) else {
            return Ok(Vec::new());
        };
        let prefixes = &self.prefixes;
        let end = |end: Rational| Rational::ONE.plus(end).or_overflow("tolerance");
        let minus = Rational::ZERO.minus(within.value()).or_overflow("tolerance")?;
        let band = Range { low: end(minus)?, high: end(within.value())? };
        let feeds = hop.node.gives;
        // Many tails ask for the same frequency: divisions by powers of two follow one another.
        let mut solutions: HashMap<(Rational, Rational), Vec<(usize, u64)>> = HashMap::new();
        let mut found = Vec::new();
        let levels = backward(after, feeds, wanted, &band)?;
        for (place, tail) in levels.last().into_iter().flatten().enumerate() {
            let room = tail.room.within(feeds);
            if !room.meets(tail.value, &band)? {
                continue;
            }
            let target = (tail.value, room.nearest(tail.value));
            let solutions = match solutions.entry(target) {
                Entry::Occupied(known) => known.into_mut(),
                Entry::Vacant(new) => new.insert(solve(hop.node, prefixes, target, &band)?),
            };
            if solutions.is_empty() {
                continue;
            }
            let rests = rests(&levels, place);
            for (place, number) in solutions {
                let Some(prefix) = prefixes.get(*place) else { continue };
                found.extend(rests.iter().map(|rest| {
                    prefix.numbers.iter().chain([&*number]).chain(rest).copied().collect::<Vec<u64>>()
                }));
            }
        }
        Ok(found)
    }
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
        // What rules do is not known before the whole way is.
        let Some((steps, divides)) = steps(node) else {
            solutions.push((place, 0));
            continue;
        };
        if is_point(band) {
            let (whole, part) = if divides { (prefix.value, wanted) } else { (wanted, prefix.value) };
            let number =
                whole.whole_quotient(part, steps.fraction_bits()).filter(|number| steps.has(*number));
            solutions.extend(number.map(|number| (place, number)));
            continue;
        }
        let ratio = nearest.over(prefix.value).or_overflow("ratio of clocks")?;
        let exact = wanted.over(prefix.value).or_overflow("ratio of clocks")?;
        for number in around(steps, divides, ratio)? {
            if near(factor(node, number, |_| None)?, exact, band)? {
                solutions.push((place, number));
            }
        }
    }
    Ok(solutions)
}

/// The numbers of the nodes of a tail, in every combination.
fn rests(levels: &[Vec<PathTail>], place: usize) -> Vec<Vec<u64>> {
    let Some((last, before)) = levels.split_last() else { return vec![Vec::new()] };
    let Some(tail) = last.get(place).filter(|_| !before.is_empty()) else { return vec![Vec::new()] };
    let onward = tail.onward.iter().flat_map(|(number, next)| {
        rests(before, *next).into_iter().map(|rest| std::iter::once(*number).chain(rest).collect())
    });
    onward.collect()
}

/// Whether a frequency is within limits.
fn legal(limits: Option<Range<Frequency>>, value: Rational) -> bool {
    limits.is_none_or(|limits| limits.holds(Frequency::new(value)))
}

/// What can come out of the last of some nodes.
fn forward(hops: &[Hop<'_>], start: Frequency) -> Result<Vec<Partial>> {
    let mut reached = vec![Partial { value: start.value(), numbers: Vec::new() }];
    for hop in hops {
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

/// What has to come into the first of some nodes, which a node with the given limits feeds: the timer's own need first,
/// then what each node makes of it, nearest to the timer first. Needs that are the same stand once.
fn backward(
    hops: &[Hop<'_>],
    feeds: Option<Range<Frequency>>,
    wanted: Frequency,
    band: &Range<Rational>,
) -> Result<Vec<Vec<PathTail>>> {
    let anything = Room { low: Rational::ZERO, high: None };
    let mut levels = vec![vec![PathTail { value: wanted.value(), room: anything, onward: Vec::new() }]];
    for (place, hop) in hops.iter().enumerate().rev() {
        let feeds =
            place.checked_sub(1).and_then(|before| hops.get(before)).map_or(feeds, |hop| hop.node.gives);
        let arrives = anything.within(hop.node.takes).within(feeds);
        let factors = factors(hop.node)?;
        let mut places: HashMap<(Rational, Room), usize> = HashMap::new();
        let mut next: Vec<PathTail> = Vec::new();
        for (after, tail) in levels.last().into_iter().flatten().enumerate() {
            let room = tail.room.within(hop.node.gives);
            for (factor, number) in &factors {
                let value = tail.value.over(*factor).or_overflow("frequency")?;
                // Most factors fail here already, which is cheaper than their room.
                if !arrives.meets(value, band)? {
                    continue;
                }
                let room = room.before(*factor)?.within(hop.node.takes);
                if room.meets(value, band)? {
                    let place = *places.entry((value, room)).or_insert(next.len());
                    if place == next.len() {
                        next.push(PathTail { value, room, onward: Vec::new() });
                    }
                    if let Some(tail) = next.get_mut(place) {
                        tail.onward.push((*number, after));
                    }
                }
            }
        }
        levels.push(next);
    }
    Ok(levels)
}

/// Every factor that a node can have, with its number. A node with rules has the factors of all of them, and each is its
/// own number: whoever plays it through sees whether the rule that applies has it.
fn factors(node: &ClockNode) -> Result<Vec<(Rational, u64)>> {
    if let Some((steps, _)) = steps(node) {
        let every = steps.every().into_iter();
        return every.map(|(number, _)| Ok((factor(node, number, |_| None)?, number))).collect();
    }
    if let Scale::Rules(rules) = &node.scale {
        let mut times: Vec<u32> = rules.iter().map(|rule| rule.times).collect();
        times.sort_unstable();
        times.dedup();
        return Ok(times.into_iter().map(|times| (times.into(), times.into())).collect());
    }
    Ok(vec![(factor(node, 0, |_| None)?, 0)])
}

/// The numbers of some steps whose factors stand on either side of a ratio; all numbers of a list.
fn around(steps: &Steps, divides: bool, ratio: Rational) -> Result<Vec<u64>> {
    let meant = if divides { Rational::ONE.over(ratio).or_overflow("division")? } else { ratio };
    let floor = number(steps, meant)?;
    Ok(match steps {
        Steps::List(taps) => taps.iter().map(|tap| tap.by.into()).collect(),
        _ => [floor, floor.saturating_add(1)].into_iter().filter(|number| steps.has(*number)).collect(),
    })
}

/// Whether nothing but one value will do, as in most searches.
fn is_point(band: &Range<Rational>) -> bool {
    *band == Range { low: Rational::ONE, high: Rational::ONE }
}

/// Whether a factor is a ratio, within the band.
fn near(factor: Rational, ratio: Rational, band: &Range<Rational>) -> Result<bool> {
    let (low, high) = around_value(ratio, band)?;
    Ok(low <= factor && factor <= high)
}

/// The ends of the band around a value.
fn around_value(value: Rational, band: &Range<Rational>) -> Result<(Rational, Rational)> {
    if is_point(band) {
        return Ok((value, value));
    }
    let end = |end: Rational| value.times(end).or_overflow("frequency");
    Ok((end(band.low)?, end(band.high)?))
}

//! Every way for a wanted frequency to reach a timer.

use serde::Serialize;

use super::arrange::Arrangement;
use super::route::{Road, roads};
use super::source::{SourceAsk, known};
use super::tree_and_node;
use crate::error::{ClockUnreachable, Error, OrOverflow, Result};
use crate::part::{Part, Timer};
use crate::quantity::{Deviation, Frequency, Rational};

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
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct Reached {
    /// The timer.
    pub timer: Timer,
    /// What was wanted.
    pub reach: Frequency,
    /// The ways, best first; at least one.
    pub ways: Vec<ReachedClock>,
}

/// One way, and how far it is off.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct ReachedClock {
    /// The way.
    pub arrangement: Arrangement,
    /// Realised over wanted, less one.
    pub error: Deviation,
}

/// Finds the ways: exact ones only where there are any, else the nearest within the tolerance, at least a hundred where
/// there are so many.
///
/// # Errors
/// [`Error::NoClockTree`], [`Error::NoSource`], names that the part does not have, and [`Error::ClockUnreachable`].
pub fn reach(part: &Part, request: &ReachRequest) -> Result<Reached> {
    let timer = part.timer(&request.timer, None)?;
    let wanted = request.reach.positive()?;
    let (tree, node) = tree_and_node(part, &timer)?;
    let roads = roads(part, tree, node, request.source.as_ref())?;
    let mut ways = ways(&roads, wanted, Deviation::ZERO)?;
    if ways.is_empty() && request.within > Deviation::ZERO {
        ways = near(&roads, wanted, request.within)?;
    }
    if ways.is_empty() {
        return Err(Error::ClockUnreachable(Box::new(ClockUnreachable {
            timer: timer.path(),
            wanted,
            within: request.within,
            sources: known(part, tree),
        })));
    }
    Ok(Reached { timer, reach: wanted, ways })
}

/// With so many ways at hand, those that are further off are not looked for.
const ENOUGH: usize = 100;

/// The ways within a deviation, best first: a window that widens until it holds enough of them. A tree with a fractional
/// multiplier has more of them in a thousandth than memory holds, and the nearest few are wanted.
fn near(roads: &[Road<'_>], wanted: Frequency, within: Deviation) -> Result<Vec<ReachedClock>> {
    for part in (1..=6).rev().map(|stage| 1 << (6 * stage)) {
        let narrow = within.value().over(Rational::whole(part)).or_overflow("deviation")?;
        // Numbers of a window that is too narrow to be written are left to a wider one.
        let found = ways(roads, wanted, Deviation::new(narrow)).unwrap_or_default();
        if found.len() >= ENOUGH {
            return Ok(found);
        }
    }
    ways(roads, wanted, within)
}

/// What exact ways are ranked by, less is better: whether there is a fractional part, the highest oscillator that a
/// multiplier drives, the numbers.
type Rank = (bool, Option<Frequency>, Vec<u64>);

/// The first of the ways that make exactly a frequency.
pub(super) fn best_way(roads: &[Road<'_>], wanted: Frequency) -> Result<Option<Arrangement>> {
    let Some((numbers, road, switches)) = best_numbers(roads, wanted)? else { return Ok(None) };
    Ok(road.way(&numbers, switches).arrangement()?.ok())
}

/// A road with the numbers for its nodes and the codes of its switches.
type Numbered<'r, 'p> = (Vec<u64>, &'r Road<'p>, &'r [(&'p str, u64)]);

/// The numbers of the first of the ways that make exactly a frequency: as [`ways`] ranks them, but most are not followed
/// to their end.
pub(super) fn best_numbers<'r, 'p>(
    roads: &'r [Road<'p>],
    wanted: Frequency,
) -> Result<Option<Numbered<'r, 'p>>> {
    let mut best: Option<(Rank, _, _)> = None;
    for road in roads {
        let candidates = road.candidates(wanted, Deviation::ZERO)?;
        for switches in &road.switches {
            for numbers in &candidates {
                let way = road.way(numbers, switches);
                let fractional = way.is_fractional();
                let beaten = |vco: Option<Frequency>| {
                    best.as_ref().is_some_and(|(rank, ..)| (rank.0, rank.1) < (fractional, vco))
                };
                if beaten(None) || !way.rules_hold() {
                    continue;
                }
                let Some((goes, vco)) = way.end(|vco| beaten(Some(vco)))? else { continue };
                let rank = (fractional, vco, numbers.clone());
                if goes == wanted && best.as_ref().is_none_or(|(known, ..)| rank < *known) {
                    best = Some((rank, road, switches));
                }
            }
        }
    }
    Ok(best.map(|((.., numbers), road, switches): (Rank, _, &Vec<_>)| (numbers, road, switches.as_slice())))
}

/// The ways along some roads within a deviation, best first.
fn ways(roads: &[Road<'_>], wanted: Frequency, within: Deviation) -> Result<Vec<ReachedClock>> {
    let mut found = Vec::new();
    for (place, road) in roads.iter().enumerate() {
        // What may do is the same for every setting of the switches that rules ask for.
        let candidates = road.candidates(wanted, within)?;
        for (setting, switches) in road.switches.iter().enumerate() {
            for numbers in &candidates {
                let way = road.way(numbers, switches);
                if !way.rules_hold() {
                    continue;
                }
                let Some((goes, vco)) = way.end(|_| false)? else { continue };
                let error = deviation(goes, wanted)?;
                if error.value().magnitude() <= within.value() {
                    let off = error.value().magnitude();
                    let rank = (off, way.is_fractional(), vco, numbers.clone());
                    found.push((rank, (place, setting), error));
                }
            }
        }
    }
    found.sort();
    found.dedup_by(|left, right| (&left.0.3, left.1) == (&right.0.3, right.1));
    let mut ways = Vec::new();
    for ((.., numbers), (place, setting), error) in found {
        let Some(road) = roads.get(place) else { continue };
        let switches = road.switches.get(setting).map(Vec::as_slice).unwrap_or_default();
        if let Ok(arrangement) = road.way(&numbers, switches).arrangement()? {
            ways.push(ReachedClock { arrangement, error });
        }
    }
    Ok(ways)
}

/// Realised over wanted, less one.
pub(super) fn deviation(realised: Frequency, wanted: Frequency) -> Result<Deviation> {
    Ok(realised.relative_to(wanted)?)
}

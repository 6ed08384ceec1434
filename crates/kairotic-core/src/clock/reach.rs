//! Every way for a wanted frequency to reach a timer.

use super::arrange::Arrangement;
use super::road::{Road, roads};
use super::source::{SourceAsk, known};
use super::tree_and_node;
use crate::error::{Error, Result};
use crate::part::{Part, Timer};
use crate::quantity::{Deviation, Frequency, OrOverflow, Rational};

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
    let (tree, node) = tree_and_node(part, &timer)?;
    let roads = roads(part, tree, node, request.source.as_ref())?;
    let mut ways = ways(&roads, wanted, Deviation::ZERO, usize::MAX)?;
    if ways.is_empty() && request.within > Deviation::ZERO {
        ways = self::ways(&roads, wanted, request.within, usize::MAX)?;
    }
    if ways.is_empty() {
        return Err(Error::ClockUnreachable {
            timer: timer.path(),
            wanted: wanted.exact(),
            within: request.within.exact(),
            sources: known(part, tree),
        });
    }
    Ok(Reached { timer, reach: wanted, ways })
}

/// The ways along some roads within a deviation, best first, at most so many.
pub(super) fn ways(
    roads: &[Road<'_>],
    wanted: Frequency,
    within: Deviation,
    most: usize,
) -> Result<Vec<ReachedClock>> {
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
                let Some(flow) = way.flow()? else { continue };
                let error = deviation(flow.last().copied().unwrap_or(road.start), wanted)?;
                if error.value().magnitude() <= within.value() {
                    let (off, vco) = (error.value().magnitude(), way.vco(&flow));
                    let rank = (off, way.is_fractional(), vco, numbers.clone());
                    found.push((rank, (place, setting), error));
                }
            }
        }
    }
    found.sort();
    found.dedup_by(|left, right| (&left.0.3, left.1) == (&right.0.3, right.1));
    let mut ways = Vec::new();
    for ((.., numbers), (place, setting), error) in found.into_iter().take(most) {
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
    let ratio = realised.value().over(wanted.value()).or_overflow("frequency error")?;
    ratio.minus(Rational::ONE).or_overflow("frequency error").map(Deviation::new)
}

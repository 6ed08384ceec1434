//! Clock tree and timer searched together: the setting of both whose frequency is nearest to a wanted one.
//!
//! A path is cut behind its last multiplier. What can come out of that is listed, each frequency once, and so are the
//! factors that the rest can have, each with the frequencies for which no limit is broken. Every pair of them is a
//! clock for the timer; the remainder of one division tells how near to the wanted frequency it can lead at best, and
//! only where that could still be better than what is held is the timer searched. So nothing is missed, and little is
//! looked at.

use std::cmp::{Ordering, Reverse};
use std::collections::HashSet;

use num_rational::Ratio;
use num_traits::{CheckedDiv, CheckedMul};

use super::arrange::Arrangement;
use super::number::{rule, steps};
use super::path::{Hop, paths, switch_settings};
use super::reach::{deviation, ways};
use super::source::{SourceAsk, sources};
use super::tree_and_node;
use crate::error::{Error, Result};
use crate::part::{ClockNode, Part, Scale, Steps, Timer};
use crate::quantity::{Deviation, Frequency, OrOverflow, Range, Rational};
use crate::setting::{Closest, Goal, Near, Setting, compare_errors};

/// How many settings are answered.
const SHOWN: usize = 6;

/// A signal's frequency that is wanted, with the clock left open.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct JointRequest {
    /// The timer's name.
    pub timer: String,
    /// The base counter's name, where another than the default is meant.
    pub base: Option<String>,
    /// Where the clock starts; any internal oscillator where none is given.
    pub source: Option<SourceAsk>,
    /// The wanted frequency.
    pub frequency: Frequency,
}

/// Clock settings with timer settings for a frequency.
#[derive(Debug, Clone, PartialEq)]
pub struct Joint {
    /// The timer.
    pub timer: Timer,
    /// What was wanted.
    pub frequency: Frequency,
    /// Whether a fractional part of the tree was left at whole numbers.
    pub whole_only: bool,
    /// The settings: smallest error first, then most steps; at least one.
    pub settings: Vec<JointSetting>,
}

/// One clock setting with the timer setting on it.
#[derive(Debug, Clone, PartialEq)]
pub struct JointSetting {
    /// How the clock reaches the timer.
    pub arrangement: Arrangement,
    /// What the timer makes of it.
    pub setting: Setting,
    /// Realised over wanted, less one.
    pub error: Deviation,
}

/// Searches clock tree and timer together.
///
/// # Errors
/// [`Error::NoClockTree`], [`Error::NoSource`], names that the part does not have, and [`Error::JointUnreachable`].
pub fn joint(part: &Part, request: &JointRequest) -> Result<Joint> {
    let timer = part.timer(&request.timer, request.base.as_deref())?;
    let wanted = request.frequency.positive()?;
    let closest = Closest::of(&timer, wanted)?;
    let (tree, node) = tree_and_node(part, &timer)?;
    let mut search = Search { closest: &closest, held: Vec::new(), exact_only: true, whole_only: false };
    // Exact settings first: where there are enough of them, the others need no look.
    for exact_only in [true, false] {
        search.exact_only = exact_only;
        for (name, start) in sources(part, tree, request.source.as_ref())? {
            for hops in paths(tree, node, &|node| node.name == name)? {
                search.path(&hops, start, &switch_settings(tree, &hops))?;
            }
        }
        if search.held.len() == SHOWN {
            break;
        }
    }
    let Search { held, whole_only, .. } = search;
    let mut settings = Vec::new();
    for (clock, near) in held {
        let frequency = Frequency::new(
            Rational::new(i128::from(*clock.numer()), i128::from(*clock.denom())).or_overflow("clock")?,
        );
        let ways = ways(part, &timer, request.source.as_ref(), frequency, Deviation::ZERO, 1)?;
        let Some(way) = ways.into_iter().next() else { continue };
        let setting = closest.setting(&near, frequency)?;
        let error = deviation(setting.frequency, wanted)?;
        settings.push(JointSetting { arrangement: way.arrangement, setting, error });
    }
    if settings.is_empty() {
        return Err(Error::JointUnreachable { timer: timer.path(), wanted: wanted.exact() });
    }
    Ok(Joint { frequency: wanted, whole_only, settings, timer: timer.clone() })
}

type Clock = Ratio<u64>;

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

struct Search<'c> {
    closest: &'c Closest<'c>,
    /// The best settings, each with its clock, best first.
    held: Vec<(Clock, Near)>,
    /// Whether only settings without error are looked for.
    exact_only: bool,
    whole_only: bool,
}

impl Search<'_> {
    /// Looks at every clock that comes along a path.
    fn path(&mut self, hops: &[Hop<'_>], start: Frequency, settings: &[Vec<(&str, u64)>]) -> Result<()> {
        let asked = |hop: &Hop<'_>| hops.iter().any(|other| other.node.scale.asks_for(&hop.node.name));
        let multiplies = |hop: &Hop<'_>| matches!(hop.node.scale, Scale::Multiply { .. });
        let behind = hops.iter().rposition(multiplies).map_or(0, |place| place + 1);
        let cut = hops.iter().position(asked).map_or(behind, |first| behind.min(first));
        let (front, rest) = hops.split_at_checked(cut).unwrap_or((hops, &[]));
        let mut clocks = self.front(front, ratio(start.value())?)?;
        clocks.sort_unstable_by(order);
        let mut tails = Vec::new();
        for switches in settings {
            tails.extend(self.tails(rest, switches, &asked)?);
        }
        for tail in merged(tails) {
            let first = clocks.partition_point(|clock| order(clock, &tail.low) == Ordering::Less);
            let end = clocks.partition_point(|clock| order(clock, &tail.high) != Ordering::Greater);
            // The fastest first: once it is too slow, the others are as well.
            for clock in clocks.get(first..end).unwrap_or_default().iter().rev() {
                let parts = parts(clock, &tail.factor)?;
                if self.goal().is_some_and(|goal| self.closest.is_too_slow(parts, goal).unwrap_or(false)) {
                    break;
                }
                self.look(parts)?;
            }
        }
        Ok(())
    }

    /// Searches the timer on one clock, unless it cannot be better than what is held.
    fn look(&mut self, parts: (u64, u64)) -> Result<()> {
        let Some(near) = self.closest.nearest(parts, self.goal())? else { return Ok(()) };
        let clock = Ratio::new(parts.0, parts.1);
        if self.held.iter().any(|(known, _)| *known == clock) {
            return Ok(());
        }
        let place = self.held.partition_point(|(known, other)| {
            let better = compare_errors(other.error, near.error).then(near.steps.cmp(&other.steps));
            better.then_with(|| order(known, &clock)) != Ordering::Greater
        });
        self.held.insert(place, (clock, near));
        self.held.truncate(SHOWN);
        Ok(())
    }

    /// What a setting has to better to be held.
    fn goal(&self) -> Option<Goal> {
        let last = self.held.last().filter(|_| self.held.len() == SHOWN);
        let goal = last.map(|(_, near)| Goal { error: near.error, steps: near.steps });
        goal.or(self.exact_only.then_some(Goal { error: (0, 1), steps: 0 }))
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
                    let goes = clock.checked_mul(factor).or_overflow("frequency")?;
                    if holds(gives.as_ref(), &goes) {
                        next.insert(goes);
                    }
                }
            }
            clocks = next.into_iter().collect();
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
            let mut next = HashSet::new();
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
                        Scale::Rules(rules) => {
                            rule(rules, value).map_or(one, |rule| Ratio::from_integer(u64::from(rule.times)))
                        }
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
            tails = next.into_iter().collect();
        }
        Ok(tails)
    }

    /// The numbers of a node with their factors; a fractional one is left at whole numbers, since the others are
    /// countless.
    fn numbers(&mut self, node: &ClockNode) -> Result<Vec<(u64, Clock)>> {
        let one = Ratio::from_integer(1);
        let Some((steps, divides)) = steps(node) else {
            return Ok(vec![match &node.scale {
                Scale::By(by) => (0, Ratio::new(1, u64::from((*by).max(1)))),
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
fn merged(mut tails: Vec<Tail>) -> Vec<Tail> {
    tails.sort_unstable_by_key(|tail| (Reverse(tail.factor), tail.low));
    let mut merged: Vec<Tail> = Vec::new();
    for tail in tails {
        match merged.last_mut() {
            Some(last) if last.factor == tail.factor && tail.low <= last.high => {
                last.high = last.high.max(tail.high);
            }
            _ => merged.push(tail),
        }
    }
    merged
}

/// The product of two fractions, not reduced.
fn parts(left: &Clock, right: &Clock) -> Result<(u64, u64)> {
    let product = |left: u64, right: u64| left.checked_mul(right).or_overflow("clock");
    Ok((product(*left.numer(), *right.numer())?, product(*left.denom(), *right.denom())?))
}

/// Slower first.
fn order(left: &Clock, right: &Clock) -> Ordering {
    let product = |left: u64, right: u64| u128::from(left) * u128::from(right);
    product(*left.numer(), *right.denom()).cmp(&product(*right.numer(), *left.denom()))
}

impl Tail {
    /// The same with limits on what comes out of it so far; `None` where nothing is left.
    fn limited(&self, limits: Option<&(Clock, Clock)>) -> Result<Option<Self>> {
        let Some((low, high)) = limits else { return Ok(Some(self.clone())) };
        let over = |end: &Clock| end.checked_div(&self.factor).or_overflow("frequency");
        let (low, high) = (over(low)?.max(self.low), over(high)?.min(self.high));
        Ok((low <= high).then(|| Self { low, high, ..self.clone() }))
    }
}

fn ratio(value: Rational) -> Result<Clock> {
    let part = |part: i128| u64::try_from(part).ok().or_overflow("frequency");
    Ok(Ratio::new(part(value.numerator())?, part(value.denominator())?.max(1)))
}

fn limits(range: Option<Range<Frequency>>) -> Result<Option<(Clock, Clock)>> {
    range.map(|range| Ok((ratio(range.low.value())?, ratio(range.high.value())?))).transpose()
}

fn holds(limits: Option<&(Clock, Clock)>, clock: &Clock) -> bool {
    limits.is_none_or(|(low, high)| {
        order(low, clock) != Ordering::Greater && order(clock, high) != Ordering::Greater
    })
}

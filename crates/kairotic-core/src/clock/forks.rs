//! The clocks that several timers can have at once.
//!
//! From a source their ways go along one another up to some node, and part behind it. What they have in common gives
//! stretches of clocks, as a single way does. What follows are a few divisions, every combination of them a branching:
//! one factor for each timer.

use std::cmp::Ordering;

use num_rational::Ratio;
use num_traits::CheckedMul;

use super::arrange::{Arrangement, Way};
use super::number::rule;
use super::path::{Hop, Hops, paths, switch_settings};
use super::reach::best_numbers;
use super::route::Road;
use super::source::{SourceAsk, sources};
use super::stretch::{Clock, Stretch, Stretches, latest, limits, order, ratio, times};
use crate::error::{OrOverflow, Result};
use crate::part::{ClockTree, Part, Scale};
use crate::quantity::{Frequency, Rational};

/// All forks of a tree for some timers.
pub(crate) struct Forks<'p> {
    pub(crate) list: Vec<Fork<'p>>,
    /// Whether a fractional part of the tree was left at whole numbers.
    pub(crate) whole_only: bool,
}

/// One way for each timer, which pass a node that they have in common alike.
pub(crate) struct Fork<'p> {
    part: &'p Part,
    tree: &'p ClockTree,
    /// What they have in common; without nodes where they start from different sources.
    trunk: Road<'p>,
    /// For each timer what it starts from, and the nodes behind the trunk.
    branches: Vec<(Frequency, Hops<'p>)>,
    /// The clocks at the trunk's end, those that reach furthest first.
    pub(crate) stretches: Vec<Stretch>,
    /// What the branches can do with such a clock.
    pub(crate) branchings: Vec<Branching>,
}

/// What the branches of a fork do together.
#[derive(Debug, Clone)]
pub(crate) struct Branching {
    /// For each timer, its clock over the one at the trunk's end.
    pub(crate) factors: Vec<Clock>,
    /// The clocks at the trunk's end for which no limit is broken.
    low: Clock,
    high: Clock,
    /// For each timer the numbers of its branch's nodes.
    numbers: Vec<Vec<u64>>,
}

/// A way from a source.
#[derive(Clone)]
struct FromSource<'p> {
    source: &'p str,
    start: Frequency,
    hops: Hops<'p>,
}

impl<'p> Forks<'p> {
    /// The forks of the ways to some nodes, each from the sources that fit what was asked.
    pub(crate) fn of(
        part: &'p Part,
        tree: &'p ClockTree,
        nodes: &[&str],
        source: Option<&SourceAsk>,
    ) -> Result<Self> {
        let mut together: Vec<Vec<FromSource<'p>>> = vec![Vec::new()];
        for node in nodes {
            let mut next = Vec::new();
            for (source, start) in sources(part, tree, source)? {
                for hops in paths(tree, node, &|node| node.name == source)? {
                    let way = FromSource { source, start, hops };
                    let agreeing = together.iter().filter(|ways| ways.iter().all(|other| agree(other, &way)));
                    next.extend(agreeing.map(|ways| [ways.as_slice(), std::slice::from_ref(&way)].concat()));
                }
            }
            together = next;
        }
        let mut forks = Self { list: Vec::new(), whole_only: false };
        for ways in together {
            let all: Hops<'p> = ways.iter().flat_map(|way| way.hops.iter().copied()).collect();
            for switches in switch_settings(tree, &all) {
                let (fork, whole_only) = Fork::of(part, tree, &ways, switches)?;
                forks.whole_only |= whole_only;
                forks.list.push(fork);
            }
        }
        Ok(forks)
    }
}

/// Whether two ways come to each node that both pass from the same one.
fn agree(left: &FromSource<'_>, right: &FromSource<'_>) -> bool {
    left.hops.iter().all(|hop| {
        let here = right.hops.iter().find(|other| other.node.name == hop.node.name);
        here.is_none_or(|other| other.code == hop.code)
    })
}

impl<'p> Fork<'p> {
    /// The fork of some ways, and whether a fractional part was left at whole numbers.
    fn of(
        part: &'p Part,
        tree: &'p ClockTree,
        ways: &[FromSource<'p>],
        switches: Vec<(&'p str, u64)>,
    ) -> Result<(Self, bool)> {
        let common = common(ways);
        let mut stretches = Stretches::default();
        let rest = |way: &FromSource<'p>| way.hops.get(common..).unwrap_or_default().to_vec();
        let branches: Vec<Hops<'p>> = ways.iter().map(rest).collect();
        let first = ways.first();
        let trunk = first.and_then(|way| way.hops.get(..common)).unwrap_or_default().to_vec();
        let mut crown = Crown { switches: &switches, ways: ways.len(), stretches: &mut stretches };
        let (start, branchings) = if trunk.is_empty() {
            (Frequency::new(Rational::ONE), crown.of_sources(ways)?)
        } else {
            let all: Vec<(usize, &[Hop<'p>])> = branches.iter().map(Vec::as_slice).enumerate().collect();
            (
                first.map_or(Frequency::new(Rational::ONE), |way| way.start),
                crown.behind(&all, &mut Vec::new())?,
            )
        };
        let setting = vec![switches];
        stretches.add_path(&trunk, start, &setting)?;
        let whole_only = stretches.whole_only;
        let branches = ways.iter().map(|way| way.start).zip(branches).collect();
        let trunk = Road::along(part, tree, trunk, start, setting)?;
        let stretches = stretches.fastest_first()?;
        Ok((Self { part, tree, trunk, branches, stretches, branchings }, whole_only))
    }

    /// How each timer gets its clock from one at the trunk's end; `None` where the trunk does not make that.
    pub(crate) fn arranged(
        &self,
        clock: Frequency,
        branching: &Branching,
    ) -> Result<Option<Vec<Arrangement>>> {
        let switches = self.trunk.switches.first().map(Vec::as_slice).unwrap_or_default();
        let roads = std::slice::from_ref(&self.trunk);
        let common = match best_numbers(roads, clock)? {
            Some((numbers, ..)) => numbers,
            None if self.trunk.hops.is_empty() => Vec::new(),
            None => return Ok(None),
        };
        let mut all = Vec::new();
        for ((start, branch), own) in self.branches.iter().zip(&branching.numbers) {
            let hops = [self.trunk.hops.as_slice(), branch].concat();
            let numbers = [common.as_slice(), own].concat();
            let way = Way {
                part: self.part,
                tree: self.tree,
                hops: &hops,
                start: *start,
                numbers: &numbers,
                switches,
            };
            let Ok(arrangement) = way.arrangement()? else { return Ok(None) };
            all.push(arrangement);
        }
        Ok(Some(all))
    }
}

/// How many nodes at their beginning some ways have in common, without those whose division a rule behind asks for.
fn common(ways: &[FromSource<'_>]) -> usize {
    let Some((first, others)) = ways.split_first() else { return 0 };
    let same = |place: usize, hop: &Hop<'_>| {
        others.iter().all(|way| way.hops.get(place).is_some_and(|other| other.node.name == hop.node.name))
    };
    let common = first.hops.iter().enumerate().take_while(|(place, hop)| same(*place, hop)).count();
    let behind = || ways.iter().flat_map(|way| way.hops.iter().skip(common));
    let asked = |hop: &Hop<'_>| behind().any(|other| other.node.scale.asks_for(&hop.node.name));
    first.hops.iter().take(common).position(asked).unwrap_or(common)
}

/// The branches of a fork as they are gone through.
struct Crown<'a, 'p> {
    switches: &'a [(&'p str, u64)],
    ways: usize,
    /// Knows the numbers of nodes, and whether fractional ones were left out.
    stretches: &'a mut Stretches,
}

impl<'p> Crown<'_, 'p> {
    /// What ways can do from different sources, as factors of 1 Hz.
    fn of_sources(&mut self, ways: &[FromSource<'p>]) -> Result<Vec<Branching>> {
        let mut all = vec![Branching::nothing(self.ways)];
        let mut sources: Vec<&str> = ways.iter().map(|way| way.source).collect();
        sources.sort_unstable();
        sources.dedup();
        for source in sources {
            let here = || ways.iter().enumerate().filter(|(_, way)| way.source == source);
            let Some((_, first)) = here().next() else { continue };
            let start = ratio(first.start.value())?;
            let branches: Vec<(usize, &[Hop<'p>])> =
                here().map(|(place, way)| (place, way.hops.as_slice())).collect();
            let mut made = self.behind(&branches, &mut Vec::new())?;
            made.retain(|branching| branching.takes(&start));
            for branching in &mut made {
                for (place, _) in &branches {
                    branching.multiply(*place, &start)?;
                }
                (branching.low, branching.high) = ANYTHING;
            }
            all = product(&all, &made)?;
        }
        Ok(all)
    }

    /// What some branches can do together. `passed` are the numbers of the nodes before them.
    fn behind(
        &mut self,
        branches: &[(usize, &[Hop<'p>])],
        passed: &mut Vec<(&'p str, u64)>,
    ) -> Result<Vec<Branching>> {
        let mut all = vec![Branching::nothing(self.ways)];
        let mut left: Vec<(usize, Hop<'p>, &[Hop<'p>])> = branches
            .iter()
            .filter_map(|(place, hops)| hops.split_first().map(|(first, rest)| (*place, *first, rest)))
            .collect();
        while let Some((_, head, _)) = left.first().copied() {
            let (along, others) = left.into_iter().partition(|(_, hop, _)| hop.node.name == head.node.name);
            left = others;
            let along: Vec<(usize, Hop<'p>, &[Hop<'p>])> = along;
            let onward: Vec<(usize, &[Hop<'p>])> =
                along.iter().map(|(place, _, rest)| (*place, *rest)).collect();
            let mut made = Vec::new();
            for (number, factor) in self.stretches.numbers(head.node)? {
                let factor = match &head.node.scale {
                    Scale::Rules(rules) => {
                        let known = |name: &str| {
                            let mut codes = self.switches.iter().chain(passed.iter());
                            codes.find(|(known, _)| *known == name).map(|(_, code)| *code)
                        };
                        rule(rules, known).map_or_else(|| Ratio::from_integer(1), times)
                    }
                    _ => factor,
                };
                passed.push((&head.node.name, number));
                for mut branching in self.behind(&onward, passed)? {
                    branching.limit(limits(head.node.gives)?.as_ref());
                    branching.come_before(&factor)?;
                    branching.limit(limits(head.node.takes)?.as_ref());
                    for (place, _) in &onward {
                        branching.multiply(*place, &factor)?;
                        if let Some(numbers) = branching.numbers.get_mut(*place) {
                            numbers.insert(0, number);
                        }
                    }
                    if order(&branching.low, &branching.high) != Ordering::Greater {
                        made.push(branching);
                    }
                }
                passed.pop();
            }
            all = product(&all, &merged(made))?;
        }
        Ok(all)
    }
}

/// No limits.
const ANYTHING: (Clock, Clock) = (Ratio::new_raw(0, 1), Ratio::new_raw(u64::MAX, 1));

impl Branching {
    fn nothing(ways: usize) -> Self {
        let one = Ratio::from_integer(1);
        Self { factors: vec![one; ways], low: ANYTHING.0, high: ANYTHING.1, numbers: vec![Vec::new(); ways] }
    }

    /// Whether no limit is broken with a clock at the trunk's end.
    pub(crate) fn takes(&self, clock: &Clock) -> bool {
        order(&self.low, clock) != Ordering::Greater && order(clock, &self.high) != Ordering::Greater
    }

    fn multiply(&mut self, place: usize, by: &Clock) -> Result<()> {
        if let Some(factor) = self.factors.get_mut(place) {
            *factor = factor.checked_mul(by).or_overflow("division")?;
        }
        Ok(())
    }

    fn limit(&mut self, limits: Option<&(Clock, Clock)>) {
        if let Some((low, high)) = limits {
            self.low = latest(*low, self.low, Ordering::Greater);
            self.high = latest(*high, self.high, Ordering::Less);
        }
    }

    /// Takes the limits from behind a node with a factor to before it.
    fn come_before(&mut self, factor: &Clock) -> Result<()> {
        let inverse = factor.recip();
        self.low = self.low.checked_mul(&inverse).or_overflow("frequency")?;
        // What is without a limit stays so.
        self.high = self.high.checked_mul(&inverse).unwrap_or(ANYTHING.1);
        Ok(())
    }
}

/// What two sets of branches do together that have no way in common.
fn product(left: &[Branching], right: &[Branching]) -> Result<Vec<Branching>> {
    let mut all = Vec::with_capacity(left.len() * right.len());
    for one in left {
        for other in right {
            let mut both = one.clone();
            both.limit(Some(&(other.low, other.high)));
            if order(&both.low, &both.high) == Ordering::Greater {
                continue;
            }
            for (place, factor) in other.factors.iter().enumerate() {
                both.multiply(place, factor)?;
            }
            for (numbers, more) in both.numbers.iter_mut().zip(&other.numbers) {
                numbers.extend(more);
            }
            all.push(both);
        }
    }
    Ok(all)
}

/// The same without those whose factors and limits another has as well.
fn merged(mut branchings: Vec<Branching>) -> Vec<Branching> {
    branchings.sort_by(|left, right| {
        let wider = order(&left.low, &right.low).then_with(|| order(&right.high, &left.high));
        left.factors.cmp(&right.factors).then(wider)
    });
    branchings.dedup_by(|next, before| {
        next.factors == before.factors && order(&next.high, &before.high) != Ordering::Greater
    });
    branchings
}

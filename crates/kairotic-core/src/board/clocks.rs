//! One setting of the clock tree for all signals of a board.

use num_traits::CheckedDiv;
use serde::Serialize;

use super::choices::period_of;
use super::clock_demand::{AtClock, Demand};
use super::clock_search::{ClockGroup, ClockSearch};
use super::sharing::Sharing;
use super::{Board, Placement, StepAxis, TimerOutput, layout};
use crate::clock::{
    Arrangement, Bus, Clock, Forks, SourceAsk, from_system, on_the_way, sources_told, tree_and_node,
};
use crate::error::{Error, OrOverflow, Result};
use crate::motion::StepTimer;
use crate::part::{Part, Timer, TimerUse};
use crate::quantity::{Deviation, Frequency, Rational, Time};
use crate::search::{Closest, RankedSetting, SearchOptions, leading};
use crate::setting::{FieldWrite, Setting};
use crate::target::{Aim, Target};

/// Settings of the clock tree for all signals of a board together.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct BoardClocks {
    /// The part's name.
    pub part: String,
    /// Whether a fractional part of the tree was left at whole numbers.
    pub whole_only: bool,
    /// The settings, best first; at least one.
    pub settings: Vec<ClockedBoard>,
}

/// One setting of the clock tree, with what it makes of the signals.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct ClockedBoard {
    /// How each clock that a timer of the board has is made.
    pub arrangements: Vec<Arrangement>,
    /// Every field of the tree, each once.
    pub writes: Vec<FieldWrite>,
    /// How many signals have exactly the frequency that is wanted of them.
    pub exact: usize,
    /// The largest error of a frequency, whatever its sign.
    pub worst: Deviation,
    /// The fewest steps that a signal has.
    pub fewest_steps: u64,
    /// The signals, in the order of the board.
    pub signals: Vec<ClockedSignal>,
    /// The steppers, each of which can go through its whole travel.
    pub steppers: Vec<ClockedStepper>,
}

/// What times a stepper's steps on such a clock.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct ClockedStepper {
    /// Its name.
    pub name: String,
    /// The timer.
    pub timer: String,
    /// The clock of that timer.
    pub clock: Frequency,
    /// A tick, with which its slowest step is no longer than a period.
    pub tick: Time,
}

/// One signal on such a clock.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct ClockedSignal {
    /// Its name.
    pub name: String,
    /// Where it comes out.
    pub place: Placement,
    /// What is wanted.
    pub aim: Aim,
    /// The clock of its timer.
    pub clock: Frequency,
    /// Realised over wanted, less one; nothing within a window.
    pub error: Deviation,
    /// Whether the error is within what is required of it.
    pub within: bool,
    /// What its timer makes of the clock.
    pub setting: Setting,
}

impl ClockedBoard {
    /// Whether each frequency is within what is required of it.
    pub fn is_within(&self) -> bool {
        self.signals.iter().all(|signal| signal.within)
    }

    /// The system clock and everything that is settled behind it, as a board file says them; `None` where that does not
    /// say all, or the system clock has no end as a decimal.
    pub fn system_and_buses(&self, part: &Part) -> Option<(Frequency, Vec<Bus>)> {
        let node = &part.tree.as_ref()?.system;
        let mut found: Option<Frequency> = None;
        let mut behind: Vec<Bus> = Vec::new();
        for arrangement in &self.arrangements {
            let at = arrangement.passages.iter().position(|passage| passage.node == *node)?;
            found = arrangement.passages.get(at).map(|passage| passage.frequency);
            let before = arrangement.passages.get(..=at).unwrap_or_default();
            for (name, value) in &arrangement.settled {
                let bus = Bus { name: name.clone(), value: *value };
                if before.iter().all(|one| one.node != *name) && !behind.contains(&bus) {
                    behind.push(bus);
                }
            }
        }
        let system = found.filter(|system| system.told().parse() == Ok(*system))?;
        let signals = self.signals.iter().map(|signal| (&signal.place.timer, signal.clock));
        let steppers = self.steppers.iter().map(|stepper| (&stepper.timer, stepper.clock));
        let says_all = signals.chain(steppers).all(|(timer, clock)| {
            let own = on_the_way(part, timer, &behind);
            let way = own.and_then(|own| from_system(part, timer, system, &own));
            way.is_ok_and(|way| way.frequency == clock)
        });
        says_all.then_some((system, behind))
    }
}

/// Finds the settings of the clock tree for all signals of a board together, each where the board has it now: of all legal
/// settings those with the most exact frequencies, of these those whose largest error is smallest, of these those whose
/// signals have the most steps, the signal with the fewest first. Each signal is made as [`derive`](crate::search::derive())
/// makes it on that clock. `source` is where the clock starts; what the board says, else any internal oscillator, where
/// none is given.
///
/// # Errors
/// As [`layout()`]; [`Error::NoClockTree`], [`Error::NoSource`], [`Error::NoLegalClock`]; and what a signal is refused for
/// that no clock of the tree serves.
pub fn clocks(board: &Board, part: &Part, source: Option<&SourceAsk>) -> Result<BoardClocks> {
    let tree = part.tree.as_ref().ok_or_else(|| Error::NoClockTree { part: part.name.clone() })?;
    let places = layout(board, part)?.places;
    let source = source.or(board.clock.source.as_ref());
    let views = places.iter().map(|place| views(part, place)).collect::<Result<Vec<_>>>()?;
    let mut nodes: Vec<&str> = Vec::new();
    let mut node_of = Vec::new();
    let axes =
        board.axes.iter().map(|axis| part.instance(&axis.output(part)?.timer)).collect::<Result<Vec<_>>>()?;
    let stepping =
        axes.iter().map(|instance| part.timer(&instance.name, None)).collect::<Result<Vec<_>>>()?;
    for timer in views.iter().filter_map(|views| views.first()).chain(&stepping) {
        let (_, node) = tree_and_node(part, timer)?;
        node_of.push(nodes.iter().position(|known| *known == node).unwrap_or(nodes.len()));
        if !nodes.contains(&node) {
            nodes.push(node);
        }
    }
    let mut demands = Vec::new();
    for ((signal, views), node) in board.signals.iter().zip(&views).zip(&node_of) {
        let (low, high) = period_of(signal.aim)?;
        let closest = views.iter().map(|timer| Closest::of(timer, low)).collect::<Result<Vec<_>>>()?;
        demands.push(Demand { closest, window: low != high, node: *node });
    }
    let signals = PlacedSignals { board, part, places: &places };
    let together = signals.together(&node_of)?;
    let mut groups = Vec::new();
    let axes: Vec<(&StepAxis, usize)> =
        board.axes.iter().zip(node_of.iter().skip(places.len()).copied()).collect();
    for (axis, node) in axes.iter().copied() {
        // It has no frequency that a clock could miss: it can be moved, or not.
        let made = move |clock: &Clock| stepper(axis, part, frequency(clock)?).map(|_| Vec::new());
        groups.push(ClockGroup { signals: Vec::new(), node, made: Box::new(made) });
    }
    for group in &together {
        let made = |clock: &Clock| signals.at(group, clock);
        groups.push(ClockGroup { signals: group.signals.clone(), node: group.node, made: Box::new(made) });
    }
    let forks = Forks::of(part, tree, &nodes, source)?;
    let found = ClockSearch::of(&demands, &groups).run(&forks, nodes.len())?;
    let mut settings = Vec::new();
    for clocks in found {
        let made = signals.clocked(&together, &clocks)?;
        let mut steppers = Vec::new();
        for (axis, node) in &axes {
            let clock = clocks.get(*node).map(frequency).or_overflow("clock")??;
            steppers.push(stepper(axis, part, clock)?);
        }
        settings.extend(arranged(&forks, &clocks)?.map(|arrangements| clocked(arrangements, made, steppers)));
    }
    if settings.is_empty() {
        return Err(Error::NoLegalClock { part: part.name.clone(), sources: sources_told(part) });
    }
    Ok(BoardClocks { part: part.name.clone(), whole_only: forks.whole_only, settings })
}

/// Signals that are settled together, from the clock of one node.
struct SettledGroup {
    signals: Vec<usize>,
    node: usize,
    sharing: Sharing,
}

/// The signals of a board in their places.
struct PlacedSignals<'b> {
    board: &'b Board,
    part: &'b Part,
    places: &'b [Placement],
}

impl PlacedSignals<'_> {
    /// The signals that are settled together; `node_of` is the node of each.
    fn together(&self, node_of: &[usize]) -> Result<Vec<SettledGroup>> {
        let mut groups = Vec::new();
        for signals in Sharing::of(self.part, self.places)?.together(self.places.len()) {
            let placed = signals.iter().filter_map(|signal| self.places.get(*signal).cloned());
            let sharing = Sharing::of(self.part, &placed.collect::<Vec<_>>())?;
            let node = signals.first().and_then(|first| node_of.get(*first)).copied().unwrap_or(0);
            groups.push(SettledGroup { signals, node, sharing });
        }
        Ok(groups)
    }

    /// What is made of some signals on a clock, each with what was wanted.
    fn made(&self, group: &SettledGroup, clock: Frequency) -> Result<Vec<(Target, RankedSetting)>> {
        let mut wanted = Vec::new();
        let placed =
            group.signals.iter().filter_map(|at| self.board.signals.get(*at).zip(self.places.get(*at)));
        for (signal, place) in placed {
            let on = TimerUse { base: place.base.clone(), ..TimerUse::of(self.part, &place.timer) };
            let channel = Some(place.channel.clone());
            let target = Target { channel, ..self.board.target(signal)? }.begun();
            wanted.push((on.clocked(clock.exactly()), target));
        }
        let counters = group.sharing.counters(&wanted)?;
        let made = wanted.into_iter().zip(counters).map(|((on, target), counter)| {
            let target = Target { counter, ..target };
            let (_, choice) = leading(&on, &target, SearchOptions::default())?;
            Ok((target, choice))
        });
        made.collect()
    }

    /// The same as the search takes it.
    fn at(&self, group: &SettledGroup, clock: &Clock) -> Result<Vec<AtClock>> {
        let made = self.made(group, frequency(clock)?)?;
        made.iter().map(|(target, choice)| at_clock(target, choice)).collect()
    }

    /// All signals, on the clocks of the nodes.
    fn clocked(&self, groups: &[SettledGroup], clocks: &[Clock]) -> Result<Vec<ClockedSignal>> {
        let mut all = Vec::new();
        for group in groups {
            let Some(clock) = clocks.get(group.node) else { continue };
            let clock = frequency(clock)?;
            for (at, (target, choice)) in group.signals.iter().zip(self.made(group, clock)?) {
                let Some((signal, place)) = self.board.signals.get(*at).zip(self.places.get(*at)) else {
                    continue;
                };
                let clocked = ClockedSignal {
                    name: signal.name.clone(),
                    place: place.clone(),
                    aim: signal.aim,
                    clock,
                    error: error_of(&target, choice.setting.frequency)?,
                    within: choice.fit.within,
                    setting: choice.setting,
                };
                all.push((*at, clocked));
            }
        }
        all.sort_by_key(|(at, _)| *at);
        Ok(all.into_iter().map(|(_, signal)| signal).collect())
    }
}

/// A place's timer with each counter that it may have.
fn views(part: &Part, place: &Placement) -> Result<Vec<Timer>> {
    if place.base.is_some() {
        return Ok(vec![part.timer(&place.timer, place.base.as_deref())?]);
    }
    part.views(part.instance(&place.timer)?)
}

/// Realised over wanted, less one; nothing within a window.
fn error_of(target: &Target, frequency: Frequency) -> Result<Deviation> {
    let (low, high) = period_of(target.aim)?;
    let nearest = frequency.clamp(low, high);
    Ok(frequency.relative_to(nearest)?)
}

fn at_clock(target: &Target, choice: &RankedSetting) -> Result<AtClock> {
    let off = error_of(target, choice.setting.frequency)?.value().magnitude();
    let error = (off.numerator().unsigned_abs(), off.denominator().unsigned_abs());
    Ok(AtClock { error, steps: choice.setting.steps })
}

/// How the clocks of the nodes are made: the fastest on the way comes first.
fn arranged(forks: &Forks<'_>, clocks: &[Clock]) -> Result<Option<Vec<Arrangement>>> {
    let mut ways = Vec::new();
    for fork in &forks.list {
        for branching in &fork.branchings {
            let mut ends =
                clocks.iter().zip(&branching.factors).map(|(clock, factor)| clock.checked_div(factor));
            let Some(Some(end)) = ends.next() else { continue };
            if branching.takes(&end) && ends.all(|other| other == Some(end)) {
                ways.push((end, fork, branching));
            }
        }
    }
    ways.sort_by(|(left, ..), (right, ..)| right.cmp(left));
    for (end, fork, branching) in ways {
        let arranged = fork.arranged(frequency(&end)?, branching)?;
        if arranged.is_some() {
            return Ok(arranged);
        }
    }
    Ok(None)
}

/// What times the whole travel of a stepper on a clock.
fn stepper(axis: &StepAxis, part: &Part, clock: Frequency) -> Result<ClockedStepper> {
    let TimerOutput { timer, channel } = axis.output(part)?;
    let on = TimerUse::of(part, &timer).clocked(clock.exactly());
    let request = axis.request(axis.whole_way(), StepTimer { on, channel });
    let counter = request.counter()?.or_overflow("tick")?;
    Ok(ClockedStepper { name: axis.name.clone(), timer, clock, tick: counter.setting.tick })
}

fn clocked(
    arrangements: Vec<Arrangement>,
    signals: Vec<ClockedSignal>,
    steppers: Vec<ClockedStepper>,
) -> ClockedBoard {
    let mut writes: Vec<FieldWrite> = Vec::new();
    for write in arrangements.iter().flat_map(|arrangement| &arrangement.writes) {
        if !writes.iter().any(|known| known.name() == write.name()) {
            writes.push(write.clone());
        }
    }
    let worst = signals.iter().map(|signal| signal.error.value().magnitude()).max().map(Deviation::new);
    ClockedBoard {
        arrangements,
        writes,
        exact: signals.iter().filter(|signal| signal.error == Deviation::ZERO).count(),
        worst: worst.unwrap_or(Deviation::ZERO),
        fewest_steps: signals.iter().map(|signal| signal.setting.steps).min().unwrap_or(0),
        signals,
        steppers,
    }
}

fn frequency(clock: &Clock) -> Result<Frequency> {
    let value = Rational::new(i128::from(*clock.numer()), i128::from(*clock.denom()));
    value.map(Frequency::new).or_overflow("clock")
}

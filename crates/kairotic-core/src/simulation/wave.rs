//! What the pins of a setting do, edge by edge, from the machine that plays it.

use std::iter::Peekable;
use std::sync::Arc;

use super::changing::Changing;
use super::steps::StepEdges;
use crate::error::{OrOverflow, Result};
use crate::part::{Mode, Timer};
use crate::quantity::{Frequency, Rational};
use crate::setting::{PlannedChannel, Setting};
use crate::target::Level;
use crate::waveform::{Event, EventKind, Machine, Values};

/// One pin of a setting.
#[derive(Debug, Clone)]
pub struct WaveLine {
    /// What it is called.
    pub name: String,
    /// The clock that its edges are counted in.
    pub clock: Frequency,
    /// Source clocks in a period, where the mode toggles in two.
    pub(crate) period: Rational,
    /// Where its edges come from.
    pub(super) source: EdgeSource,
}

/// Where the edges of a pin come from.
#[derive(Debug, Clone)]
pub(super) enum EdgeSource {
    /// A counter whose registers stay as they are.
    Counter(Box<CounterPin>),
    /// The same with a compare value that changes: the source clock from which on each counts.
    Levels(Box<CounterPin>, Arc<[(u128, u64)]>),
    /// The steps of moves.
    Steps(StepEdges),
}

/// A pin behind a counter.
#[derive(Debug, Clone)]
pub(super) struct CounterPin {
    pub(super) machine: Machine,
    pub(super) values: Values,
    /// Source clocks by which it comes later.
    shift: u128,
    /// Source clocks by which each edge to active comes later, to keep both outputs off.
    dead: u128,
    /// What its top is called.
    top: String,
    /// What the pin changes at: values of the counter and what they are called.
    marks: Vec<(u64, String)>,
}

/// The counter behind a pin, over time.
#[derive(Debug, Clone, PartialEq)]
pub struct CounterInTicks {
    /// Where it stands at which tick of the recorder, with straight lines in between.
    pub points: Vec<(f64, f64)>,
    /// What its top is and what it is called; in counts, as everything here.
    pub top: (f64, String),
    /// What the pin changes at, and what that is called: mostly one compare value.
    pub marks: Vec<(f64, String)>,
}

/// The pins of a setting: one for each used channel, with its complement where there is a dead time. Several are called
/// by the name and their channel.
///
/// # Errors
/// [`Error::UnknownName`](crate::Error::UnknownName) for a setting of another timer, and numbers that do not fit.
pub fn lines(timer: &Timer, setting: &Setting, name: &str) -> Result<Vec<WaveLine>> {
    let plan = &setting.plan;
    let mode = timer.mode(&plan.mode)?;
    let clocks = |ticks: Rational| -> Result<u128> {
        let clocks = ticks.times(setting.divider).or_overflow("start")?;
        Ok(clocks.floor().unsigned_abs())
    };
    let mut lines = Vec::new();
    for (planned, output) in plan.channels.iter().zip(&setting.outputs) {
        let inverted = output.level == Level::Low;
        let dead = match setting.dead_time {
            Some(dead) => dead.in_ticks(setting.clock)?.floor(),
            None => 0,
        };
        let several = plan.channels.len() > 1;
        let pin = CounterPin {
            machine: Machine::of(timer, mode, setting.divider, inverted),
            values: Values { top: plan.top, compare: planned.compare.unwrap_or(plan.top) },
            shift: clocks(planned.start.into())?,
            dead: dead.unsigned_abs(),
            top: named(setting.top_register.as_deref().unwrap_or("top"), plan.top),
            marks: marks(timer, mode, setting, planned)?,
        };
        let line = WaveLine {
            name: if several { format!("{name}/{}", planned.label) } else { name.to_owned() },
            clock: setting.clock,
            period: setting.mean_ticks()?.times(setting.divider).or_overflow("period")?,
            source: EdgeSource::Counter(Box::new(pin)),
        };
        let complement = setting.dead_time.is_some().then(|| line.complement());
        lines.push(line);
        lines.extend(complement);
    }
    Ok(lines)
}

fn named(register: &str, value: u64) -> String {
    format!("{register} {value}")
}

/// What a channel's pin changes at: its compare value, or start and end of its pulse where both can be chosen.
fn marks(
    timer: &Timer,
    mode: &Mode,
    setting: &Setting,
    planned: &PlannedChannel,
) -> Result<Vec<(u64, String)>> {
    let Some(compare) = planned.compare else { return Ok(Vec::new()) };
    let channel = timer.channel(&planned.label)?;
    let register = timer.compare_slot(mode, channel)?.name();
    let Some(law) = &mode.start else { return Ok(vec![(compare, named(&register, compare))]) };
    let start = planned.start;
    let end = (start + compare) % setting.ticks.max(1);
    let mut marks = Vec::new();
    if let Some(field) = timer.role(channel, &law.role)? {
        marks.push((start, named(&field.name(), start)));
    }
    let end_name = if law.holds_end { named(&register, end) } else { format!("{register} {compare} later") };
    marks.push((end, end_name));
    Ok(marks)
}

impl WaveLine {
    /// Its edges until a source clock: source clock and level, the level at the start first.
    pub(crate) fn edges(&self, end: u128) -> Box<dyn Iterator<Item = (u128, bool)>> {
        match &self.source {
            EdgeSource::Counter(pin) => pin.edges(pin.levels(), end),
            EdgeSource::Levels(pin, changes) => {
                let events = Changing::of(pin.machine.clone(), pin.values.top, Arc::clone(changes));
                pin.edges(events, end)
            }
            EdgeSource::Steps(steps) => {
                let mut last = None;
                let edges = steps.clone().take_while(move |(at, _)| *at <= end);
                Box::new(edges.filter(move |(_, level)| last.replace(*level) != Some(*level)))
            }
        }
    }

    /// The counter behind it until a source clock, its times in source clocks; none where its registers change.
    pub(crate) fn counter(&self, end: f64) -> Option<CounterInTicks> {
        match &self.source {
            EdgeSource::Counter(pin) => Some(pin.counter(end)),
            EdgeSource::Levels(..) | EdgeSource::Steps(_) => None,
        }
    }

    /// The same pin with a compare value that changes.
    pub(super) fn changing(self, changes: &Arc<[(u128, u64)]>) -> Self {
        let source = match self.source {
            EdgeSource::Counter(pin) => EdgeSource::Levels(pin, Arc::clone(changes)),
            other => other,
        };
        Self { source, ..self }
    }

    /// The pin that does the opposite, both off for a while between.
    fn complement(&self) -> Self {
        let mut other = Self { name: format!("{}n", self.name), ..self.clone() };
        if let EdgeSource::Counter(pin) = &mut other.source {
            pin.machine.complement = !pin.machine.complement;
        }
        other
    }
}

impl CounterPin {
    /// The counter until a source clock, its times in source clocks. It comes down at once where it counts up only, and goes
    /// up at once where it counts down only.
    fn counter(&self, end: f64) -> CounterInTicks {
        let parts = self.machine.dither.map_or(1.0, |dither| (1_u64 << dither.bits.min(32)) as f64);
        let top = self.values.top as f64 / parts;
        let mut points = Vec::new();
        let mut last: Option<f64> = None;
        for event in self.machine.repeat(self.values).filter(|event| event.kind == EventKind::Wrap) {
            let at = event.at as f64;
            if let Some(start) = last {
                let point = |(share, height): &(f64, f64)| (start + (at - start) * share, top * height);
                points.extend(self.machine.corners().iter().map(point));
            }
            last = Some(at);
            if at >= end {
                break;
            }
        }
        let counts = |value: u64| value as f64 / parts / f64::from(self.machine.per_tick.max(1));
        CounterInTicks {
            points: cut(points, end),
            top: (top, self.top.clone()),
            marks: self.marks.iter().map(|(value, name)| (counts(*value), name.clone())).collect(),
        }
    }

    /// What the machine does with registers that stay as they are.
    fn levels(&self) -> impl Iterator<Item = Event> + use<> {
        self.machine.repeat(self.values)
    }

    /// The edges until a source clock of what a machine does.
    fn edges(
        &self,
        events: impl Iterator<Item = Event> + 'static,
        end: u128,
    ) -> Box<dyn Iterator<Item = (u128, bool)>> {
        let (shift, dead) = (self.shift, self.dead);
        let high = !self.machine.inverted;
        // The counter starts anew again and again, even where the pin never moves: the end is always reached.
        let events = events.map(move |event| Event { at: event.at + shift, ..event });
        let levels = events.take_while(move |event| event.at <= end).filter_map(|event| match event.kind {
            EventKind::Level(level) => Some((event.at, level)),
            EventKind::Wrap => None,
        });
        // A pin that comes later rests until then.
        let rest = (shift > 0).then_some((0, !high)).into_iter();
        let delayed = Delayed { levels: rest.chain(levels).peekable(), dead, high };
        let mut last = None;
        Box::new(delayed.filter(move |(at, level)| *at <= end && last.replace(*level) != Some(*level)))
    }
}

/// Edges of which those to active come later.
struct Delayed<I: Iterator> {
    levels: Peekable<I>,
    dead: u128,
    /// Whether active is high.
    high: bool,
}

impl<I: Iterator<Item = (u128, bool)>> Iterator for Delayed<I> {
    type Item = (u128, bool);

    fn next(&mut self) -> Option<(u128, bool)> {
        let (at, level) = self.levels.next()?;
        // The level at the start is no edge: the pulse is under way.
        if level != self.high || self.dead == 0 || at == 0 {
            return Some((at, level));
        }
        let later = at + self.dead;
        // What is over before it has begun never begins.
        let lasts = self.levels.peek().is_none_or(|(next, _)| *next > later);
        Some(if lasts { (later, level) } else { (at, !level) })
    }
}

/// A broken line up to a time.
fn cut(points: Vec<(f64, f64)>, end: f64) -> Vec<(f64, f64)> {
    let past = points.iter().position(|(at, _)| *at > end);
    let Some(past) = past else { return points };
    let mut kept: Vec<(f64, f64)> = points.iter().take(past).copied().collect();
    if let (Some((from, low)), Some((to, high))) = (kept.last().copied(), points.get(past)) {
        kept.push((end, low + (high - low) * (end - from) / (to - from)));
    }
    kept
}

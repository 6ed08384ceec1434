//! What the pins of a setting do, edge by edge, from the machine that plays it.

use std::iter::Peekable;

use crate::error::{Error, Result};
use crate::part::Timer;
use crate::quantity::{Frequency, OrOverflow, Rational};
use crate::setting::{Level, Setting};
use crate::waveform::{Event, EventKind, Machine, Values};

/// One pin of a setting.
#[derive(Debug, Clone)]
pub struct WaveLine {
    /// What it is called.
    pub name: String,
    /// The clock that its edges are counted in.
    pub clock: Frequency,
    /// Source clocks in a period, where the mode toggles in two.
    pub(super) period: Rational,
    machine: Machine,
    values: Values,
    /// Source clocks by which it comes later.
    shift: u128,
    /// Source clocks by which each edge to active comes later, to keep both outputs off.
    dead: u128,
}

/// The pins of a setting: one for each used channel, with its complement where there is a dead time. Several are called
/// by the name and their channel.
///
/// # Errors
/// [`Error::UnknownName`] for a setting of another timer, and numbers that do not fit.
pub fn lines(timer: &Timer, setting: &Setting, name: &str) -> Result<Vec<WaveLine>> {
    let plan = &setting.plan;
    let modes = &timer.block.modes;
    let mode = modes.iter().find(|mode| mode.name == plan.mode).ok_or_else(|| {
        Error::unknown("mode", &plan.mode, &timer.path(), modes.iter().map(|mode| mode.name.as_str()))
    })?;
    let clocks = |ticks: Rational| -> Result<u128> {
        let clocks = ticks.times(setting.divider).or_overflow("start")?;
        Ok(clocks.floor().unsigned_abs())
    };
    let mut lines = Vec::new();
    for (planned, output) in plan.channels.iter().zip(&setting.outputs) {
        let inverted = output.level == Level::Low;
        let dead = match setting.dead_time {
            Some(dead) => dead.value().times(setting.clock.value()).or_overflow("dead time")?.floor(),
            None => 0,
        };
        let several = plan.channels.len() > 1;
        let line = WaveLine {
            name: if several { format!("{name}/{}", planned.label) } else { name.to_owned() },
            clock: setting.clock,
            period: setting.mean_ticks()?.times(setting.divider).or_overflow("period")?,
            machine: Machine::of(timer, mode, setting.divider, inverted),
            values: Values { top: plan.top, compare: planned.compare.unwrap_or(plan.top) },
            shift: clocks(planned.start.into())?,
            dead: dead.unsigned_abs(),
        };
        if setting.dead_time.is_some() {
            let machine = Machine { complement: !line.machine.complement, ..line.machine.clone() };
            let complement = WaveLine { name: format!("{}n", line.name), machine, ..line.clone() };
            lines.extend([line, complement]);
        } else {
            lines.push(line);
        }
    }
    Ok(lines)
}

impl WaveLine {
    /// Its edges until a source clock: source clock and level, the level at the start first.
    pub(super) fn edges(&self, end: u128) -> impl Iterator<Item = (u128, bool)> + use<> {
        let (shift, dead) = (self.shift, self.dead);
        let high = !self.machine.inverted;
        // The counter starts anew again and again, even where the pin never moves: the end is always reached.
        let events =
            self.machine.play(self.values, &[]).map(move |event| Event { at: event.at + shift, ..event });
        let levels = events.take_while(move |event| event.at <= end).filter_map(|event| match event.kind {
            EventKind::Level(level) => Some((event.at, level)),
            EventKind::Wrap => None,
        });
        // A pin that comes later rests until then.
        let rest = (shift > 0).then_some((0, !high)).into_iter();
        let delayed = Delayed { levels: rest.chain(levels).peekable(), dead, high };
        let mut last = None;
        delayed.filter(move |(at, level)| *at <= end && last.replace(*level) != Some(*level))
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
        if level != self.high || self.dead == 0 {
            return Some((at, level));
        }
        let later = at + self.dead;
        // What is over before it has begun never begins.
        let lasts = self.levels.peek().is_none_or(|(next, _)| *next > later);
        Some(if lasts { (later, level) } else { (at, !level) })
    }
}

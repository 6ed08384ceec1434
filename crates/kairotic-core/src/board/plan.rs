//! A whole board as it is built: a setting for every signal, those of one timer together, and the program that makes
//! them.

use serde::Serialize;

use super::{Board, Layout, layout, spec_in};
use crate::clock::Arrangement;
use crate::error::{Error, Result};
use crate::part::{CompareLaw, Part};
use crate::program::pins;
use crate::program::{Program, ProgramRequest, ProgramStep, TimerPlan, program};
use crate::search::{Derivation, SpanFit, derive};
use crate::setting::{RegisterPlan, Setting};
use crate::signal::SignalSpec;

/// A board as it is built.
#[derive(Debug, Clone)]
pub struct BoardPlan {
    /// Where the signals come out.
    pub layout: Layout,
    /// The timers that are used, each with the channels of all its signals.
    pub timers: Vec<TimerPlan>,
    /// The signals, in the order of the board.
    pub signals: Vec<PlannedSignal>,
    /// Every step between reset and the moving pins.
    pub program: Program,
}

impl BoardPlan {
    /// The first signal that a step of the program is for, by its place; `None` for one that is for no timer alone.
    pub fn signal_of(&self, step: &ProgramStep) -> Option<usize> {
        self.signals
            .iter()
            .position(|signal| self.timers.get(signal.timer).is_some_and(|timer| timer.timer.name == step.of))
    }
}

/// One signal of a [`BoardPlan`].
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct PlannedSignal {
    /// Its name.
    pub name: String,
    /// Which of the plan's timers makes it.
    pub timer: usize,
    /// The channel's label.
    pub channel: String,
    /// Its compare value; none where its compare register is the top.
    pub compare: Option<u64>,
    /// The lowest and the highest compare value that its span allows, or its register where it has none.
    pub limits: [u64; 2],
    /// The compare value that keeps the pin at rest; none where no value does.
    pub off: Option<u64>,
    /// How its span lies among the compare values, where it has one.
    pub span: Option<SpanFit>,
}

/// The plan of a board. `part` is the board's, with everything that its family file says. Signals of which no active time
/// is asked begin inactive.
///
/// # Errors
/// As [`layout()`], [`spec_in()`], [`derive()`] and [`program()`].
pub fn plan(board: &Board, part: &Part) -> Result<BoardPlan> {
    planned_in(board, part, layout(board, part)?)
}

/// The same where the places of all signals are known.
pub(super) fn planned_in(board: &Board, part: &Part, layout: Layout) -> Result<BoardPlan> {
    let (mut timers, mut signals, mut buses) =
        (Vec::<TimerPlan>::new(), Vec::new(), Vec::<Arrangement>::new());
    for (signal, placed) in board.signals.iter().zip(&layout.places) {
        let (spec, way) = spec_in(board, signal, part, &layout)?;
        let derivation = derive(&spec.on, &spec.target.clone().begun())?;
        let name = &derivation.timer.name;
        let place = match timers.iter().position(|plan| plan.timer.name == *name) {
            Some(place) => {
                if let Some(plan) = timers.get_mut(place) {
                    join(plan, &derivation.best.setting)?;
                }
                place
            }
            None => {
                timers.push(TimerPlan::of(part, &derivation.timer, derivation.best.setting.clone())?);
                timers.len() - 1
            }
        };
        let planned = planned(&spec, place, &derivation)?;
        if let Some(plan) = timers.get_mut(place) {
            // Which of several pins a channel that the board names is on, it has to say itself.
            let open = signal.place.on.as_ref().is_none_or(|on| on.channel.is_none());
            let given = signal.place.pin.clone().or_else(|| placed.pin.clone().filter(|_| open));
            plan.pins.extend(given.map(|pin| (planned.channel.clone(), pin)));
            let complement = placed.complement.clone().filter(|_| open);
            plan.pins.extend(complement.map(|pin| (format!("{}n", planned.channel), pin)));
            // Where a channel has one pin only, it is on that.
            let output = pins::pin_of(part, plan, &planned.channel)?;
            plan.pins.extend(output.map(|output| (planned.channel.clone(), output.pin)));
        }
        signals.push(planned);
        buses.extend(way.filter(|way| !buses.contains(way)));
    }
    let clock = board.clock.route(buses);
    let program = program(&ProgramRequest { part, clock, timers: timers.clone() })?;
    Ok(BoardPlan { layout, timers, signals, program })
}

/// Adds the channels of another signal to a timer that has one already. Both count alike: the layout sees to it.
fn join(plan: &mut TimerPlan, setting: &Setting) -> Result<()> {
    let own = &plan.setting.plan;
    let mut channels = own.channels.clone();
    channels.extend(setting.plan.channels.iter().cloned());
    let dead_time = own.dead_time.or(setting.plan.dead_time);
    let joined = RegisterPlan { channels, dead_time, ..own.clone() };
    plan.setting = Setting::evaluate(&plan.timer, plan.setting.clock, joined)?;
    Ok(())
}

fn planned(spec: &SignalSpec<'_>, timer: usize, derivation: &Derivation) -> Result<PlannedSignal> {
    let name = spec.name.as_str();
    let Derivation { timer: on, best, .. } = derivation;
    let plan = &best.setting.plan;
    let mode = on.mode(&plan.mode)?;
    let nothing = || Error::NoPlace { signal: name.to_owned() };
    let planned = plan.channels.first().ok_or_else(nothing)?;
    let channel = on.channel(&planned.label)?;
    let ends = match &mode.compare {
        CompareLaw::Linear(law) => [law.zero, law.full].map(|point| point.value(plan.top)),
        CompareLaw::Toggle => [None; 2],
    };
    let limit = on.compare_limit(mode, channel)?;
    let fits = |value: &u64| *value <= limit;
    // In some modes a larger compare value is a shorter pulse.
    let furthest = ends.into_iter().flatten().filter(fits).max();
    let whole = [0, furthest.filter(|value| *value > 0).unwrap_or_else(|| plan.top.min(limit))];
    let limits = best.fit.span.as_ref().map_or(whole, |span| [span.low, span.high]);
    Ok(PlannedSignal {
        name: name.to_owned(),
        timer,
        channel: planned.label.clone(),
        compare: planned.compare,
        limits: [limits[0].min(limits[1]), limits[0].max(limits[1])],
        off: ends[0].filter(fits),
        span: best.fit.span.clone(),
    })
}

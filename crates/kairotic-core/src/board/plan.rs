//! A whole board as it is built: a setting for every signal, those of one timer together, and the program that makes
//! them.

use serde::Serialize;

use super::{Board, spec};
use crate::clock::Arrangement;
use crate::error::{Error, Result};
use crate::part::{CompareLaw, Part};
use crate::program::pins;
use crate::program::{Program, ProgramRequest, TimerPlan, program};
use crate::search::{Derivation, derive};
use crate::setting::{RegisterPlan, Setting};

/// A board as it is built.
#[derive(Debug, Clone)]
pub struct BoardPlan {
    /// The timers that are used, each with the channels of all its signals.
    pub timers: Vec<TimerPlan>,
    /// The signals, in the order of the board.
    pub signals: Vec<PlannedSignal>,
    /// Every step between reset and the moving pins.
    pub program: Program,
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
}

/// The plan of a board. `part` is the board's, with everything that its family file says.
///
/// # Errors
/// As [`spec()`] and [`derive()`]; [`Error::TimeBasesDiffer`] for signals of one timer whose best settings have another
/// period or division; as [`program()`].
pub fn plan(board: &Board, part: &Part) -> Result<BoardPlan> {
    let (mut timers, mut signals, mut buses) =
        (Vec::<TimerPlan>::new(), Vec::new(), Vec::<Arrangement>::new());
    for signal in &board.signals {
        let (spec, way) = spec(board, signal, part)?;
        let derivation = derive(&spec.on, &spec.target)?;
        let name = &derivation.timer.name;
        let place = match timers.iter().position(|plan| plan.timer.name == *name) {
            Some(place) => {
                if let Some(plan) = timers.get_mut(place) {
                    join(plan, &derivation.best.setting, &signal.name)?;
                }
                place
            }
            None => {
                timers.push(TimerPlan::of(part, &derivation.timer, derivation.best.setting.clone())?);
                timers.len() - 1
            }
        };
        let planned = planned(&signal.name, place, &derivation)?;
        if let Some(plan) = timers.get_mut(place) {
            let given = signal.place.pin.clone();
            plan.pins.extend(given.map(|pin| (planned.channel.clone(), pin)));
            // Where a channel has one pin only, it is on that.
            let output = pins::pin_of(part, plan, &planned.channel)?;
            plan.pins.extend(output.map(|output| (planned.channel.clone(), output.pin)));
        }
        signals.push(planned);
        buses.extend(way.filter(|way| !buses.contains(way)));
    }
    let clock = board.clock.route(buses);
    let program = program(&ProgramRequest { part, clock, timers: timers.clone() })?;
    Ok(BoardPlan { timers, signals, program })
}

/// Adds the channels of another signal to a timer that has one already.
fn join(plan: &mut TimerPlan, setting: &Setting, signal: &str) -> Result<()> {
    let base = |plan: &RegisterPlan| (plan.mode.clone(), plan.dividers.clone(), plan.top, plan.dead_time);
    let own = &plan.setting.plan;
    if base(own) != base(&setting.plan) {
        return Err(Error::TimeBasesDiffer { timer: plan.timer.path(), signal: signal.to_owned() });
    }
    let mut channels = own.channels.clone();
    channels.extend(setting.plan.channels.iter().cloned());
    let joined = RegisterPlan { channels, ..own.clone() };
    plan.setting = Setting::evaluate(&plan.timer, plan.setting.clock, joined)?;
    Ok(())
}

fn planned(name: &str, timer: usize, derivation: &Derivation) -> Result<PlannedSignal> {
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
    })
}

//! The pins of a sequence and of a move, as the counters behind them make them.

use std::sync::Arc;

use super::steps::{StepEdges, StepLine, TimedSteps};
use super::wave::{EdgeSource, WaveLine, lines};
use crate::error::{Error, OrOverflow, Result};
use crate::load::{Kind, StepDrive, Wiring};
use crate::motion::StepperMove;
use crate::quantity::{Duty, Frequency, Rational, Time};
use crate::search::DerivedSignal;
use crate::sequence::{LevelTrack, Member, SequencePlan};
use crate::setting::{PlannedChannel, RegisterPlan, Setting};
use crate::target::Active;

/// A pin that a sequence or a move plays.
#[derive(Debug, Clone)]
pub struct PlayedPin {
    /// Its edges.
    pub line: WaveLine,
    /// What it is.
    pub role: PinRole,
    /// Its period; of a stepper the fastest step.
    pub period: Time,
}

/// What a pin is for.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum PinRole {
    /// Its pulses are a level.
    Level {
        /// How much a step of the compare value changes a pulse.
        step: Time,
    },
    /// Each of its pulses is a step.
    Step {
        /// A tick of its counter.
        tick: Time,
        /// The shortest pulse that its driver sees.
        pulse: Time,
        /// The pin of its direction, by name.
        direction: String,
        /// How long that stands before a step, and after one.
        stands: [Time; 2],
    },
    /// It says which way steps go: high towards larger angles.
    Direction,
    /// It is one of four wires.
    Wire {
        /// A tick of the counter that times the steps.
        tick: Time,
    },
}

/// The lines of a four-wire drive.
const WIRES: u32 = 4;

/// The pins of a sequence, in the order of its members: each signal under its name, and the second line of a motor with
/// `_back` behind it; of a stepper those of [`lines_of_move`].
///
/// # Errors
/// As [`lines`].
pub fn lines_of_sequence(members: &[Member<'_>], plan: &SequencePlan) -> Result<Vec<PlayedPin>> {
    let mut found = Vec::new();
    for member in members {
        match member {
            Member::Signal(signal) => {
                let track = plan.tracks.iter().find(|track| track.signal == signal.spec.name);
                if let Some(track) = track {
                    found.extend(lines_of_track(signal, track)?);
                }
            }
            Member::Stepper(stepper) => {
                let moves = plan.moves.iter().filter(|made| made.signal == stepper.name);
                let moves: Vec<(Time, &StepperMove)> = moves.map(|made| (made.begins, &*made.made)).collect();
                found.extend(lines_of_moves(&stepper.name, &moves)?);
            }
        }
    }
    Ok(found)
}

/// The pins of a move: the steps under the name, the direction with `_direction` behind it, which is high towards larger
/// angles; four wires as `_1` to `_4`.
///
/// # Errors
/// Numbers that do not fit.
pub fn lines_of_move(name: &str, made: &StepperMove) -> Result<Vec<PlayedPin>> {
    lines_of_moves(name, &[(Time::ZERO, made)])
}

fn lines_of_track(signal: &DerivedSignal<'_>, track: &LevelTrack) -> Result<Vec<PlayedPin>> {
    let (derivation, name) = (&signal.derivation, &track.signal);
    let (timer, setting) = (&derivation.timer, &derivation.best.setting);
    let off = setting.compare_scale(timer, &track.channel)?.compare(Active::Duty(Duty::ZERO))?.nearest;
    let first = track.holds.first().map_or(off, |hold| hold.compare);
    let channel = PlannedChannel {
        label: track.channel.clone(),
        compare: Some(first),
        start: 0,
        level: signal.spec.target.level,
    };
    let plan = RegisterPlan { channels: vec![channel], ..setting.plan.clone() };
    let setting = Setting::evaluate(timer, setting.clock, plan)?;
    let load = signal.spec.load.as_ref().map(|load| &load.kind);
    let is_two =
        matches!(load, Some(Kind::Motor(motor)) if motor.wiring == Wiring::TwoLines) && track.reverses;
    let changing = |name: &str, backward: Option<bool>| -> Result<Vec<PlayedPin>> {
        let clocks = setting.mean_ticks()?.times(setting.divider).or_overflow("period")?;
        let changes = track.holds.iter().map(|hold| {
            let at = clocks.times(hold.begins.into()).or_overflow("time")?.floor().unsigned_abs();
            let carries = backward.is_none_or(|backward| backward == hold.backward);
            Ok((at, if carries { hold.compare } else { off }))
        });
        let changes: Arc<[(u128, u64)]> = changes.collect::<Result<Vec<_>>>()?.into();
        let pins = lines(timer, &setting, name)?.into_iter();
        let role = PinRole::Level { step: setting.step };
        Ok(pins
            .map(|line| PlayedPin {
                line: line.changing(&changes),
                role: role.clone(),
                period: setting.period,
            })
            .collect())
    };
    if !is_two {
        return changing(name, None);
    }
    Ok([changing(name, Some(false))?, changing(&format!("{name}_back"), Some(true))?].concat())
}

fn lines_of_moves(name: &str, moves: &[(Time, &StepperMove)]) -> Result<Vec<PlayedPin>> {
    let Some((_, first)) = moves.first() else { return Ok(Vec::new()) };
    let clock = match &first.counter {
        Some(counter) => counter.setting.clock,
        None => first.ramp.tick.frequency()?,
    };
    let timed = moves.iter().map(|(begins, made)| {
        let position = made.travel.from.map_or(Ok(0), |from| made.stepper.step_at(from))?;
        Ok(TimedSteps {
            begins: clocks(*begins, clock)?,
            tick: clocks(made.ramp.tick, clock)?,
            pulse: clocks(pulse(made), clock)?.max(1),
            ramp: Arc::new(made.ramp.clone()),
            backward: made.travel.steps < 0,
            position,
        })
    });
    let timed: Arc<[TimedSteps]> = timed.collect::<Result<Vec<_>>>()?.into();
    let fastest = moves.iter().map(|(_, made)| made.ramp.fastest).min().unwrap_or(1);
    let in_clocks = i64::try_from(clocks(first.ramp.tick, clock)?).ok().or_overflow("tick")?;
    let period = Rational::whole(in_clocks).times(fastest.into()).or_overflow("fastest step")?;
    let tick = first.ramp.tick;
    let shortest = tick.times(fastest.into())?;
    let pin = |name: String, line: StepLine, role: PinRole| PlayedPin {
        line: WaveLine {
            name,
            clock,
            period,
            source: EdgeSource::Steps(StepEdges::of(line, Arc::clone(&timed))),
        },
        role,
        period: shortest,
    };
    Ok(match first.stepper.drive {
        StepDrive::StepDirection { pulse, setup, hold, .. } => {
            let direction = format!("{name}_direction");
            let role = PinRole::Step { tick, pulse, direction: direction.clone(), stands: [setup, hold] };
            vec![
                pin(name.to_owned(), StepLine::Step, role),
                pin(direction, StepLine::Direction, PinRole::Direction),
            ]
        }
        StepDrive::FourWire { mode } => (0..WIRES)
            .map(|wire| {
                let line = StepLine::Wire { line: wire, patterns: mode.patterns() };
                pin(format!("{name}_{}", wire + 1), line, PinRole::Wire { tick })
            })
            .collect(),
        StepDrive::TwoWindings { .. } => return Err(Error::NotPlayed { signal: name.to_owned() }),
    })
}

/// The pulse of a step: as the timer makes it, or as short as the driver takes it.
fn pulse(made: &StepperMove) -> Time {
    let least = match made.stepper.drive {
        StepDrive::StepDirection { pulse, .. } => pulse,
        StepDrive::FourWire { .. } | StepDrive::TwoWindings { .. } => Time::ZERO,
    };
    made.counter.as_ref().and_then(|counter| counter.pulse()).unwrap_or(least)
}

/// So many periods of a clock; less than one is left out.
fn clocks(time: Time, clock: Frequency) -> Result<u128> {
    Ok(time.in_ticks(clock)?.floor().unsigned_abs())
}

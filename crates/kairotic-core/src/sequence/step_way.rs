//! A stepper on its way through the steps of a sequence: each of its steps is a move.

use std::rc::Rc;

use serde::Serialize;

use super::setpoint::Setpoint;
use super::step::{LevelShape, SequenceStep, StepGoal};
use crate::error::{Error, Result, StepProblem};
use crate::load::{StepDrive, Stepper};
use crate::motion::{Course, MoveRequest, Pace, StepTimer, StepTiming, StepperMove, ideal_time};
use crate::quantity::{Angle, LoadLevel, Rational, Time};

/// A stepper that a sequence moves.
#[derive(Debug, Clone, PartialEq)]
pub struct SequencedStepper<'p> {
    /// Its name.
    pub name: String,
    /// What moves.
    pub stepper: Stepper,
    /// What times its steps.
    pub timer: StepTimer<'p>,
}

/// A move of a stepper in a sequence.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct SequencedMove {
    /// The stepper.
    pub signal: String,
    /// The step that it belongs to, from one on.
    pub step: usize,
    /// Which time all steps are made, from one on.
    pub pass: u32,
    /// When it begins, from the beginning of the sequence.
    pub begins: Time,
    /// Where it begins.
    pub from: Angle,
    /// Where it ends.
    pub to: Angle,
    /// How long it stays there before the next step.
    pub hold: Time,
    /// The move.
    #[serde(rename = "move")]
    pub made: Rc<StepperMove>,
}

/// A stepper on its way.
pub(super) struct StepTraveller<'m> {
    name: &'m str,
    stepper: &'m Stepper,
    /// What times its steps; without that only the time of each move is known, as nearly as it is without a tick.
    timer: Option<&'m StepTimer<'m>>,
    at: Angle,
    now: Time,
    pub(super) moves: Vec<SequencedMove>,
}

impl<'m> StepTraveller<'m> {
    pub(super) fn of(name: &'m str, stepper: &'m Stepper, timer: Option<&'m StepTimer<'_>>) -> Self {
        Self { name, stepper, timer, at: Angle::ZERO, now: Time::ZERO, moves: Vec::new() }
    }

    /// Until when it is busy.
    pub(super) const fn until(&self) -> Time {
        self.now
    }

    /// Makes a step, from a time on.
    pub(super) fn play(&mut self, index: usize, pass: u32, step: &SequenceStep, begins: Time) -> Result<()> {
        self.now = begins;
        let refuse = |what| Err(StepProblem::OfStepper { signal: self.name.to_owned(), what }.at(index));
        if step.levels.is_some() {
            return refuse("`levels`");
        }
        if step.shape != LevelShape::Linear {
            return refuse("`shape`");
        }
        let to = match step.to {
            StepGoal::Stay => None,
            StepGoal::Setpoint(Setpoint::Level(LoadLevel::Angle(to))) => Some(to),
            StepGoal::Setpoint(_) => return refuse("duty or pulse"),
            StepGoal::Arm => return refuse("arming"),
            StepGoal::Teach => return refuse("ends to learn"),
        };
        let from = match step.from {
            None => self.at,
            Some(Setpoint::Level(LoadLevel::Angle(from))) => from,
            Some(_) => return refuse("duty or pulse"),
        };
        for _ in 0..step.repeat {
            let Some(to) = to else {
                self.now = self.now.plus(step.hold)?;
                continue;
            };
            self.go(index, pass, (from, to), step)?;
            if step.back {
                self.go(index, pass, (to, from), step)?;
            }
        }
        Ok(())
    }

    fn go(&mut self, index: usize, pass: u32, (from, to): (Angle, Angle), step: &SequenceStep) -> Result<()> {
        let pace = if step.over == Time::ZERO { Pace::Fastest } else { Pace::Within(step.over) };
        let course = Course::Between { from, to };
        let at = |error: Error| StepProblem::Value(error).at(index);
        let begins = self.now;
        let Some(timer) = self.timer else {
            let time = ideal_time(self.stepper, course, pace).map_err(at)?;
            self.now = begins.plus(time.plus(after(self.stepper)?)?.max(step.over))?.plus(step.hold)?;
            self.at = to;
            return Ok(());
        };
        // The same way again is the same move.
        let known = self.moves.iter().find(|made| (made.from, made.to, made.step) == (from, to, index + 1));
        let made = match known {
            Some(known) => Rc::clone(&known.made),
            None => {
                let request = MoveRequest {
                    stepper: self.stepper.clone(),
                    course,
                    pace,
                    timing: StepTiming::Timer(timer.clone()),
                    most: Rational::ONE,
                    cycles_per_step: None,
                    moves: 1,
                    microsteps: None,
                };
                Rc::new(StepperMove::of(&request).map_err(at)?)
            }
        };
        // The last pulse is over, and its direction has stood as long as it has to, before another move begins.
        let time = made.time.plus(after(self.stepper)?)?;
        self.now = begins.plus(time.max(step.over))?.plus(step.hold)?;
        self.at = to;
        let (signal, step, hold) = (self.name.to_owned(), index + 1, step.hold);
        self.moves.push(SequencedMove { signal, step, pass: pass + 1, begins, from, to, hold, made });
        Ok(())
    }
}

/// What a driver sees after the last edge of a move: the pulse, and the direction for a while.
fn after(stepper: &Stepper) -> Result<Time> {
    Ok(match stepper.drive {
        // As a timer rounds the pulse up, twice the shortest is room for any.
        StepDrive::StepDirection { pulse, hold, .. } => pulse.plus(pulse)?.plus(hold)?,
        StepDrive::FourWire { .. } | StepDrive::TwoWindings { .. } => Time::ZERO,
    })
}

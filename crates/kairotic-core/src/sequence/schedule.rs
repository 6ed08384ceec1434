//! When each step of a sequence begins and ends.

use super::leg::Leg;
use super::level_way::LevelTraveller;
use super::setpoint::Setpoint;
use super::step::{Sequence, SequenceStep};
use super::step_way::{SequencedMove, StepTraveller};
use crate::error::{Error, Result, StepProblem};
use crate::limits;
use crate::load::{Kind, Stepper};
use crate::motion::StepTimer;
use crate::quantity::{LoadLevel, Rational, Time};

/// Something that a sequence moves, as far as its times need it.
#[derive(Debug, Clone, Copy)]
pub struct Actor<'a> {
    /// Its name.
    pub name: &'a str,
    /// What it is.
    pub kind: ActorKind<'a>,
}

impl Actor<'_> {
    /// A place of it, from text.
    ///
    /// # Errors
    /// [`Error::Quantity`] that names the units which fit.
    pub fn setpoint(&self, text: &str) -> Result<Setpoint> {
        match self.kind {
            ActorKind::Signal { load, .. } => Setpoint::read(load, text),
            ActorKind::Stepper { .. } => Ok(Setpoint::Level(LoadLevel::Angle(text.parse()?))),
        }
    }
}

/// What a sequence moves.
#[derive(Debug, Clone, Copy)]
pub enum ActorKind<'a> {
    /// A signal that holds levels.
    Signal {
        /// What it drives.
        load: Option<&'a Kind>,
        /// A period.
        period: Time,
        /// Where it is before, where that is known.
        start: Option<Setpoint>,
    },
    /// A stepper.
    Stepper {
        /// What moves.
        stepper: &'a Stepper,
        /// What times its steps, where that is known.
        timer: Option<&'a StepTimer<'a>>,
    },
}

/// How long a sequence takes, before any register is chosen.
///
/// # Errors
/// As [`SequencePlan::of`](super::SequencePlan::of), but for what timers cannot do.
pub fn length(actors: &[Actor<'_>], sequence: &Sequence) -> Result<Time> {
    Schedule::of(actors, sequence).map(|schedule| schedule.length)
}

/// The longest sequence that is planned: a day.
const LONGEST: Time = Time::new(Rational::whole(24 * 60 * 60));

/// Every leg of every member, on one line of time.
pub(super) struct Schedule {
    /// Of each member in order: where it is from the beginning, and its legs; none of a stepper.
    pub(super) legs: Vec<(Option<Setpoint>, Vec<Leg>)>,
    pub(super) moves: Vec<SequencedMove>,
    pub(super) length: Time,
}

enum Traveller<'m> {
    Level(Box<LevelTraveller<'m>>),
    Step(StepTraveller<'m>),
}

impl Traveller<'_> {
    const fn until(&self) -> Time {
        match self {
            Self::Level(traveller) => traveller.until(),
            Self::Step(traveller) => traveller.until(),
        }
    }

    fn play(&mut self, index: usize, pass: u32, step: &SequenceStep, begins: Time) -> Result<()> {
        match self {
            Self::Level(traveller) => traveller.play(index, pass, step, begins),
            Self::Step(traveller) => traveller.play(index, pass, step, begins),
        }
    }
}

impl Schedule {
    pub(super) fn of(actors: &[Actor<'_>], sequence: &Sequence) -> Result<Self> {
        if sequence.steps.is_empty() {
            return Err(Error::NoSteps);
        }
        let each = |step: &SequenceStep| u64::from(step.repeat) * if step.back { 2 } else { 1 };
        let steps = sequence.steps.iter().map(each).sum::<u64>().saturating_mul(sequence.repeat.into());
        if limits::SEQUENCE_STEPS.is_below(steps) {
            return Err(Error::TooManySteps {
                said: limits::SEQUENCE_STEPS.refusal("the sequence has", steps),
            });
        }
        let mut travellers: Vec<Traveller<'_>> = actors
            .iter()
            .map(|actor| match actor.kind {
                ActorKind::Signal { load, period, start } => {
                    Traveller::Level(Box::new(LevelTraveller::of(actor.name, load, period, start)))
                }
                ActorKind::Stepper { stepper, timer } => {
                    Traveller::Step(StepTraveller::of(actor.name, stepper, timer))
                }
            })
            .collect();
        // Which step each is at, to name it where another comes too early.
        let mut busy = vec![0; actors.len()];
        let mut end = Time::ZERO;
        for pass in 0..sequence.repeat {
            let start = end;
            let mut next = start;
            for (index, step) in sequence.steps.iter().enumerate() {
                let place = actors.iter().position(|actor| actor.name == step.signal);
                let found = place.and_then(|place| travellers.get_mut(place).zip(busy.get_mut(place)));
                let Some((traveller, busy)) = found else {
                    let known = actors.iter().map(|actor| actor.name);
                    return Err(Error::unknown("signal", &step.signal, "the sequence", known));
                };
                let begins = step.begins.map_or(Ok(next), |at| start.plus(at))?;
                let until = traveller.until();
                if begins < until {
                    let signal = step.signal.clone();
                    return Err(StepProblem::Overlap { signal, busy: *busy, until, begins }.at(index));
                }
                traveller.play(index, pass, step, begins)?;
                *busy = index + 1;
                next = traveller.until();
                end = end.max(next);
                if end > LONGEST {
                    return Err(Error::SequenceTooLong { length: end, most: LONGEST });
                }
            }
        }
        let (mut legs, mut moves) = (Vec::new(), Vec::new());
        for traveller in travellers {
            legs.push(match traveller {
                Traveller::Level(traveller) => (traveller.starts(), traveller.legs),
                Traveller::Step(traveller) => {
                    moves.extend(traveller.moves);
                    (None, Vec::new())
                }
            });
        }
        Ok(Self { legs, moves, length: end })
    }
}

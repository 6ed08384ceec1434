//! The sequences of a board: their signals as they are planned, and what is wrong with them before that.

use super::{Asked, Board, Signal, StepAxis, spec};
use crate::error::{Error, Result};
use crate::part::Part;
use crate::part::check::{PartProblem, Path};
use crate::search::DerivedSignal;
use crate::sequence::{self, Actor, ActorKind, Member, Sequence, SequencedStepper, Setpoint};

impl Board {
    /// The sequence of that name.
    ///
    /// # Errors
    /// [`Error::UnknownName`].
    pub fn sequence(&self, name: &str) -> Result<&Sequence> {
        self.sequences.iter().find(|sequence| sequence.name == name).ok_or_else(|| {
            let known = self.sequences.iter().map(|sequence| sequence.name.as_str());
            Error::unknown("sequence", name, "the board", known)
        })
    }

    /// Where a signal is before a sequence, where that is said.
    fn start_of(&self, signal: &Signal) -> Option<Setpoint> {
        Some(match self.asked_of(signal)? {
            Asked::Level(level) => Setpoint::Level(level),
            Asked::Active(active) => Setpoint::Active(active),
        })
    }

    /// What a sequence may move, by its name.
    ///
    /// # Errors
    /// [`Error::UnknownName`]; a period of nothing.
    pub fn actor(&self, name: &str) -> Result<Actor<'_>> {
        match self.axis(name) {
            Some(axis) => Ok(Self::stepper_actor(axis)),
            None => self.signal_actor(self.signal(name)?),
        }
    }

    fn signal_actor<'b>(&'b self, signal: &'b Signal) -> Result<Actor<'b>> {
        let load = self.load_of(signal).map(|load| &load.kind);
        let period = self.target(signal)?.wanted_period()?;
        let kind = ActorKind::Signal { load, period, start: self.start_of(signal) };
        Ok(Actor { name: &signal.name, kind })
    }

    const fn stepper_actor(axis: &StepAxis) -> Actor<'_> {
        let kind = ActorKind::Stepper { stepper: &axis.stepper, timer: None };
        Actor { name: axis.name.as_str(), kind }
    }

    /// What is wrong with the sequences of a board that is sound besides, as far as that is known without registers.
    pub fn sequence_problems(&self) -> Vec<PartProblem> {
        let signals = self.signals.iter().map(|signal| self.signal_actor(signal));
        let steppers = self.axes.iter().map(|axis| Ok(Self::stepper_actor(axis)));
        // A period that is wrong is told of the signal.
        let Ok(actors) = signals.chain(steppers).collect::<Result<Vec<_>>>() else { return Vec::new() };
        let mut problems = Vec::new();
        for (index, sequence) in self.sequences.iter().enumerate() {
            let path = Path::default().key("sequence").index(index);
            let is_taken = self.sequences.iter().take(index).any(|other| other.name == sequence.name);
            if is_taken {
                let message = format!("there is a sequence `{}` already", sequence.name);
                problems.push(PartProblem { path: path.key("name"), message });
            }
            let Err(error) = sequence::length(&actors, sequence) else { continue };
            let hint = error.hint().map(|hint| format!("; {hint}")).unwrap_or_default();
            let (path, message) = match error {
                // The place says which step it is.
                Error::SequenceStep { step, problem } => {
                    (path.key("steps").index(step.saturating_sub(1)), format!("{problem}{hint}"))
                }
                error => (path, format!("{error}{hint}")),
            };
            problems.push(PartProblem { path, message });
        }
        problems
    }
}

/// The signals and steppers of a sequence as they are planned, in the order in which it names them. `part` is the board's.
///
/// # Errors
/// [`Error::UnknownName`] for a signal that is not there; as [`spec()`] and [`derive`](crate::search::derive).
pub fn sequence_members<'p>(board: &Board, part: &'p Part, sequence: &Sequence) -> Result<Vec<Member<'p>>> {
    let mut members: Vec<Member<'p>> = Vec::new();
    for step in &sequence.steps {
        if members.iter().any(|member| member.name() == step.signal) {
            continue;
        }
        members.push(match board.axis(&step.signal) {
            Some(axis) => {
                let timer = board.step_timer(axis, part)?;
                let (name, stepper) = (axis.name.clone(), axis.stepper.clone());
                Member::Stepper(Box::new(SequencedStepper { name, stepper, timer }))
            }
            None => {
                let (spec, _) = spec(board, board.signal(&step.signal)?, part)?;
                Member::Signal(Box::new(DerivedSignal::of(spec)?))
            }
        });
    }
    Ok(members)
}

//! Moves of a board's steppers, with the signals of their windings.

use super::{Board, StepAxis, TimerOutput, spec};
use crate::error::Result;
use crate::finding::Severity;
use crate::load::StepDrive;
use crate::motion::{Course, MicrostepTables, MoveRequest, StepperMove, Winding};
use crate::part::Part;
use crate::search::DerivedSignal;

/// What becomes of a stepper of a board: its whole travel as one move, or a turn where nothing limits it.
#[derive(Debug)]
pub struct AxisReview {
    /// Its name.
    pub name: String,
    /// The timer, and the channel of its pulse; `None` where that is wrong.
    pub output: Option<TimerOutput>,
    /// The pin of the pulse.
    pub pin: Option<String>,
    /// The move, or why there is none.
    pub made: Result<StepperMove>,
}

impl AxisReview {
    /// Whether it can be moved, and nothing is wrong with that.
    pub fn is_met(&self) -> bool {
        self.made
            .as_ref()
            .is_ok_and(|made| made.findings.iter().all(|finding| finding.severity() != Severity::Error))
    }

    /// A stepper of a board.
    pub(super) fn of(board: &Board, axis: &StepAxis, part: &Part) -> Self {
        let request = board.move_request(axis, part, axis.whole_way());
        let made = request.and_then(|request| StepperMove::of(&request));
        let output = axis.output(part).ok();
        Self { name: axis.name.clone(), output, pin: axis.place.pin.clone(), made }
    }
}

impl Board {
    /// A move of a stepper as fast as it can, each edge at the tick that is nearest or at one beside it.
    ///
    /// # Errors
    /// As [`step_timer`](Self::step_timer) and [`microsteps`](Self::microsteps).
    pub fn move_request<'p>(
        &self,
        axis: &StepAxis,
        part: &'p Part,
        course: Course,
    ) -> Result<MoveRequest<'p>> {
        let request = axis.request(course, self.step_timer(axis, part)?);
        Ok(MoveRequest { microsteps: self.microsteps(axis, part)?, ..request })
    }

    /// The compare values of a stepper's windings, where two signals drive them.
    ///
    /// # Errors
    /// [`Error::UnknownName`](crate::Error::UnknownName) for a signal that is not there; as [`spec()`] and [`MicrostepTables::of`].
    pub fn microsteps(&self, axis: &StepAxis, part: &Part) -> Result<Option<MicrostepTables>> {
        let StepDrive::TwoWindings { microsteps } = axis.stepper.drive else { return Ok(None) };
        let Some(names) = &axis.windings else { return Ok(None) };
        let derived = names.each_ref().map(|name| {
            let (spec, _) = spec(self, self.signal(name)?, part)?;
            DerivedSignal::of(spec)
        });
        let [first, second] = derived;
        let (first, second) = (first?, second?);
        let windings = [&Winding::of(&first)?, &Winding::of(&second)?];
        MicrostepTables::of(microsteps, windings).map(Some)
    }
}

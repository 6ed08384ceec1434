//! A stepper on a board: the timer that times its steps, and the pins of its lines.

use super::{Board, Placed, TimerOutput};
use crate::error::{Error, Result};
use crate::load::{StepDrive, Stepper};
use crate::motion::{Course, MoveRequest, Pace, StepTimer, StepTiming};
use crate::part::{Part, TimerUse};
use crate::quantity::{Angle, Range, Rational};

/// A stepper on a board. It has its timer to itself: the period is the interval to the next step.
#[derive(Debug, Clone, PartialEq)]
pub struct StepAxis {
    /// Its name.
    pub name: String,
    /// The name of what it drives.
    pub load: String,
    /// What it drives.
    pub stepper: Stepper,
    /// The timer, and the channel and pin of the step pulse.
    pub place: Placed,
    /// The pin of the direction, where it is said.
    pub direction: Option<String>,
    /// The pins of four wires, in the order in which they follow one another.
    pub lines: Vec<String>,
    /// The signals of two windings, the first and the one that follows it a full step later.
    pub windings: Option<[String; 2]>,
    /// How many signals that hold a level stand before it in the board file.
    pub before: usize,
}

impl StepAxis {
    /// The timer and the channel of its pulse.
    ///
    /// # Errors
    /// Names that the part does not have, and a pin that carries no output.
    pub fn output(&self, part: &Part) -> Result<TimerOutput> {
        let place = match (&self.place.on, self.stepper.drive) {
            // The pins of four wires are moved by the firmware, and two windings have signals of their own.
            (Some(on), StepDrive::FourWire { .. } | StepDrive::TwoWindings { .. }) => {
                Placed { on: Some(on.clone()), pin: None }
            }
            _ => self.place.clone(),
        };
        place.output(part)?.ok_or_else(|| Error::NoPlace { signal: self.name.clone() })
    }

    /// Its whole travel, or a turn where nothing limits it.
    pub(super) const fn whole_way(&self) -> Course {
        match self.stepper.travel {
            Some(Range { low, high }) => Course::Between { from: low, to: high },
            None => Course::By(Angle::new(Rational::ONE)),
        }
    }

    /// A move as fast as it can, each edge at the tick that is nearest or at one beside it.
    pub(super) fn request<'p>(&self, course: Course, timer: StepTimer<'p>) -> MoveRequest<'p> {
        MoveRequest {
            stepper: self.stepper.clone(),
            course,
            pace: Pace::Fastest,
            timing: StepTiming::Timer(timer),
            most: Rational::ONE,
            cycles_per_step: None,
            moves: 1,
            microsteps: None,
        }
    }

    /// Every pin that it has.
    pub fn pins(&self) -> impl Iterator<Item = &String> {
        self.place.pin.iter().chain(&self.direction).chain(&self.lines)
    }
}

impl Board {
    /// Which of the tables of signals in the board file a signal that holds a level is.
    pub fn table_of_signal(&self, signal: usize) -> usize {
        signal + self.axes.iter().filter(|axis| axis.before <= signal).count()
    }

    /// Which of the tables of signals in the board file a stepper is.
    pub fn table_of_axis(&self, axis: usize) -> usize {
        axis + self.axes.get(axis).map_or(0, |axis| axis.before)
    }

    /// The stepper of that name, where the board has one.
    pub fn axis(&self, name: &str) -> Option<&StepAxis> {
        self.axes.iter().find(|axis| axis.name == name)
    }

    /// The timer that times a stepper's steps, with its clock.
    ///
    /// # Errors
    /// As [`StepAxis::output`], and what the clock tree refuses.
    pub fn step_timer<'p>(&self, axis: &StepAxis, part: &'p Part) -> Result<StepTimer<'p>> {
        let TimerOutput { timer, channel } = axis.output(part)?;
        let (clock, _) = self.clock.of(part, &timer)?;
        let on = TimerUse { clock, ..TimerUse::of(part, &timer) };
        Ok(StepTimer { on, channel })
    }

    /// Whether a stepper has a timer to itself.
    pub(super) fn is_stepping(&self, part: &Part, timer: &str) -> bool {
        self.axes.iter().any(|axis| axis.output(part).is_ok_and(|output| output.timer == timer))
    }
}

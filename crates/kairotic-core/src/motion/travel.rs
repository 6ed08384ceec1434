//! From angles to steps: every position is counted from one zero, so that what is left over of a step is never lost.

use serde::Serialize;

use crate::error::{Error, LevelOutside, OrOverflow, Result};
use crate::load::Stepper;
use crate::quantity::{Angle, LoadLevel, Rational};

/// Where a stepper is to go.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Course {
    /// From one angle to another.
    Between {
        /// The first.
        from: Angle,
        /// The last.
        to: Angle,
    },
    /// By an angle, from wherever it is, again and again.
    By(Angle),
    /// By a number of steps.
    Steps(i64),
}

/// The steps of a move.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
pub struct Travel {
    /// Where it begins, where that is an angle.
    pub from: Option<Angle>,
    /// Where it ends.
    pub to: Option<Angle>,
    /// The way that is wanted, where it is an angle.
    pub by: Option<Angle>,
    /// Steps; less than zero towards smaller angles.
    pub steps: i64,
    /// What the steps turn.
    pub turned: Angle,
    /// What is left over of the wanted way: the end is so far before where it should be.
    pub left: Angle,
    /// The same in steps.
    pub left_steps: Rational,
    /// What becomes of it when the move is made again and again.
    pub repeated: Option<Repeated>,
}

/// A move that is made again and again.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
pub struct Repeated {
    /// How often.
    pub moves: u32,
    /// How far the end is off when each move makes the same steps.
    pub dropped: Angle,
    /// How far it is off when what is left over is carried into the next.
    pub carried: Angle,
}

impl Travel {
    /// The steps of a course, and what becomes of the rest over so many moves.
    ///
    /// # Errors
    /// [`Error::LevelOutside`] for an angle outside the stepper's travel; numbers that do not fit.
    pub fn of(stepper: &Stepper, course: Course, moves: u32) -> Result<Self> {
        let in_turn = stepper.steps_in_turn()?;
        let (from, to, by, steps) = match course {
            Course::Between { from, to } => {
                for angle in [from, to] {
                    inside(stepper, angle)?;
                }
                let steps = stepper.step_at(to)?.checked_sub(stepper.step_at(from)?);
                (Some(from), Some(to), Some(to.less(from)?), steps.or_overflow("number of steps")?)
            }
            Course::By(angle) => (None, None, Some(angle), stepper.step_at(angle)?),
            Course::Steps(steps) => (None, None, None, steps),
        };
        let turned = Rational::whole(steps).over(in_turn).or_overflow("angle")?;
        let left = match to.zip(from) {
            // Between two places, what is left over is that of the last.
            Some((to, _)) => rest(stepper, to)?,
            None => by.map_or(Ok(Rational::ZERO), |by| rest(stepper, by))?,
        };
        let angle = |steps: Rational| steps.over(in_turn).or_overflow("angle").map(Angle::new);
        let repeated = match course {
            Course::By(by) => {
                let all = by.times(moves.into())?;
                let dropped = left.times(moves.into()).or_overflow("angle")?;
                Some(Repeated { moves, dropped: angle(dropped)?, carried: angle(rest(stepper, all)?)? })
            }
            _ => None,
        };
        Ok(Self {
            from,
            to,
            by,
            steps,
            turned: Angle::new(turned),
            left: angle(left)?,
            left_steps: left,
            repeated,
        })
    }
}

/// Steps of a move by `angle` that is made for the `number`th time, from one on, what was left over carried along.
///
/// # Errors
/// Numbers that do not fit.
pub fn carried_steps(stepper: &Stepper, angle: Angle, number: u32) -> Result<i64> {
    let after = |moves: u32| stepper.step_at(angle.times(moves.into())?);
    after(number)?.checked_sub(after(number.saturating_sub(1))?).or_overflow("number of steps")
}

/// What an angle has more than the step that is nearest to it.
fn rest(stepper: &Stepper, angle: Angle) -> Result<Rational> {
    let nearest = Rational::whole(stepper.step_at(angle)?);
    let exact = stepper.steps_in_turn()?.times(angle.value());
    exact.and_then(|exact| exact.minus(nearest)).or_overflow("number of steps")
}

fn inside(stepper: &Stepper, angle: Angle) -> Result<()> {
    match stepper.travel {
        Some(travel) if !travel.holds(angle) => {
            let [found, low, high] = [angle, travel.low, travel.high].map(LoadLevel::Angle);
            Err(Error::LevelOutside(Box::new(LevelOutside { measures: "angle", found, low, high })))
        }
        _ => Ok(()),
    }
}

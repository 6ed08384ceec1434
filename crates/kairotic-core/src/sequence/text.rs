//! Steps in words: `30% for 10s, to 100% over 20s in 12 levels, hold 5s`.

use super::setpoint::Setpoint;
use super::step::{LevelShape, SequenceStep, StepGoal};
use crate::error::{Error, Result, StepProblem};
use crate::quantity::{Dimension, Quantity};

/// The steps of one signal, from a text with commas between them.
///
/// Each is `[from PLACE] [to] PLACE`, `arm` or `calibrate`, and then in any order `over TIME`, `in NUMBER levels`,
/// `smooth`, `and back`, `for TIME` or `hold TIME`, `NUMBER times`; or `hold TIME` alone. `place` reads a place.
///
/// # Errors
/// [`Error::SequenceStep`] that names the step and what is wrong with it; [`Error::NoSteps`].
pub fn steps(
    signal: &str,
    text: &str,
    place: &dyn Fn(&str) -> Result<Setpoint>,
) -> Result<Vec<SequenceStep>> {
    if text.trim().is_empty() {
        return Err(Error::NoSteps);
    }
    let parts = text.split(',').enumerate();
    parts.map(|(index, part)| step(signal, part, place).map_err(|problem| problem.at(index))).collect()
}

fn step(
    signal: &str,
    text: &str,
    place: &dyn Fn(&str) -> Result<Setpoint>,
) -> Result<SequenceStep, StepProblem> {
    let mut words = text.split_whitespace().peekable();
    let read = |text: &str| place(text).map_err(StepProblem::Value);
    let mut step = SequenceStep::at_once(signal.to_owned(), StepGoal::Stay);
    if words.next_if_eq(&"from").is_some() {
        step.from = Some(read(needed(&mut words, "a level after `from`")?)?);
    }
    // A text that begins with its hold goes nowhere.
    if step.from.is_some() || words.peek() != Some(&"hold") {
        words.next_if_eq(&"to");
        step.to = StepGoal::read(needed(&mut words, "a level, `arm`, `calibrate` or `hold`")?, read)?;
    }
    while let Some(word) = words.next() {
        match word {
            "over" => step.over = quantity(&mut words, "a time after `over`")?,
            "for" | "hold" => step.hold = quantity(&mut words, "a time after `for` or `hold`")?,
            "smooth" => step.shape = LevelShape::Smooth,
            "linear" => step.shape = LevelShape::Linear,
            "in" => {
                step.levels = Some(count(needed(&mut words, "a number of levels after `in`")?)?);
                expect(&mut words, "levels", "`levels` after their number")?;
            }
            "and" => {
                expect(&mut words, "back", "`back` after `and`")?;
                step.back = true;
            }
            number => {
                step.repeat = count(number)?;
                expect(&mut words, "times", "`times` after a number")?;
            }
        }
    }
    Ok(step)
}

fn needed<'w>(
    words: &mut impl Iterator<Item = &'w str>,
    expected: &'static str,
) -> Result<&'w str, StepProblem> {
    words.next().ok_or(StepProblem::Words { expected, found: String::new() })
}

fn expect<'w>(
    words: &mut impl Iterator<Item = &'w str>,
    word: &str,
    expected: &'static str,
) -> Result<(), StepProblem> {
    let found = needed(words, expected)?;
    if found == word { Ok(()) } else { Err(StepProblem::Words { expected, found: found.to_owned() }) }
}

fn quantity<'w, D: Dimension + Copy>(
    words: &mut impl Iterator<Item = &'w str>,
    expected: &'static str,
) -> Result<Quantity<D>, StepProblem> {
    let value: Quantity<D> = needed(words, expected)?.parse().map_err(wrong)?;
    value.positive().map_err(wrong)
}

fn wrong(error: impl Into<Error>) -> StepProblem {
    StepProblem::Value(error.into())
}

fn count(text: &str) -> Result<u32, StepProblem> {
    let expected = "`over`, `for`, `hold`, `in`, `smooth`, `and back` or a number of `times`";
    let number = text.parse().ok().filter(|number| *number > 0);
    number.ok_or_else(|| StepProblem::Words { expected, found: text.to_owned() })
}

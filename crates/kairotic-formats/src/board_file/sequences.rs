//! From the keys of a sequence to the sequence.

use kairotic_core::board::Board;
use kairotic_core::part::check::Path;
use kairotic_core::quantity::{Dimension, Quantity};
use kairotic_core::sequence::{LevelShape, Sequence, SequenceStep, StepGoal};

use super::Problems;
use super::given::{Count, Flag, Given, Words};
use super::raw::{RawSequence, RawStep};

const KEYS: [&str; 4] = ["name", "signal", "steps", "repeat"];
const STEP: [&str; 10] =
    ["signal", "at", "from", "to", "over", "levels", "shape", "hold", "there-and-back", "repeat"];

/// The sequence, or `None` where something is missing or wrong. Without a board, which is wrong itself, nothing is said of
/// names and levels.
pub(super) fn sequence(
    problems: &mut Problems,
    path: &Path,
    board: Option<&Board>,
    raw: RawSequence,
) -> Option<Sequence> {
    problems.unknown(path, &raw.rest, &KEYS);
    let name = problems.need(path, "name", raw.name).map(|name| name.0);
    let signal = problems.take(path, "signal", raw.signal).map(|words| words.0);
    let repeat = times(problems, path, "repeat", raw.repeat);
    if raw.steps.is_empty() {
        problems.report(path, "expected at least one step in `steps`");
    }
    let all = raw.steps.len();
    let steps: Vec<SequenceStep> = raw
        .steps
        .into_iter()
        .enumerate()
        .filter_map(|(index, raw)| {
            step(problems, &path.key("steps").index(index), board, signal.as_deref(), raw)
        })
        .collect();
    (steps.len() == all && all > 0).then_some(Sequence { name: name?, steps, repeat: repeat? })
}

fn step(
    problems: &mut Problems,
    path: &Path,
    board: Option<&Board>,
    usual: Option<&str>,
    raw: RawStep,
) -> Option<SequenceStep> {
    problems.unknown(path, &raw.rest, &STEP);
    let is_named = raw.signal.is_some();
    let named = problems.take(path, "signal", raw.signal).map(|words| words.0);
    let signal = named.or_else(|| usual.map(str::to_owned));
    if signal.is_none() && !is_named {
        problems.report(path, "`signal` is missing: name it here, or for all steps in the sequence");
    }
    let begins = problems.positive_or_zero(path, "at", raw.at);
    let over = positive(problems, path, "over", raw.over);
    let hold = positive(problems, path, "hold", raw.hold);
    let levels = raw.levels.is_some().then(|| times(problems, path, "levels", raw.levels));
    let shape = problems.take(path, "shape", raw.shape).unwrap_or(LevelShape::Linear);
    let back = problems.take(path, "there-and-back", raw.there_and_back).is_some_and(|Flag(back)| back);
    let repeat = times(problems, path, "repeat", raw.repeat);
    let (is_from, is_bound) = (raw.from.is_some(), raw.to.is_some());
    let (from, to) = (problems.take(path, "from", raw.from), problems.take(path, "to", raw.to));
    let (signal, board) = (signal?, board?);
    let actor = board.actor(&signal);
    let actor = problems.read(&if is_named { path.key("signal") } else { path.clone() }, actor)?;
    let read = |text: &str| actor.setpoint(text);
    let from = match from {
        Some(Words(text)) => Some(problems.read(&path.key("from"), read(&text))?),
        None if is_from => return None,
        None => None,
    };
    let to = match to {
        Some(Words(text)) => problems.read(&path.key("to"), StepGoal::read(&text, read))?,
        None if is_bound => return None,
        None => StepGoal::Stay,
    };
    let step = SequenceStep::at_once(signal, to);
    let (over, hold, repeat) = (over?, hold?, repeat?);
    let levels = levels.map_or(Some(None), |levels| levels.map(Some))?;
    Some(SequenceStep { begins, from, over, levels, shape, hold, back, repeat, ..step })
}

/// A number of at least one; one where nothing is said.
fn times(problems: &mut Problems, path: &Path, key: &str, given: Option<Given<Count>>) -> Option<u32> {
    if given.is_none() {
        return Some(1);
    }
    let Count(number) = problems.take(path, key, given)?;
    let number = u32::try_from(number).ok().filter(|number| *number > 0);
    if number.is_none() {
        problems.report(&path.key(key), "expected a whole number of at least 1");
    }
    number
}

/// A time greater than zero; none where nothing is said.
fn positive<D: Dimension + Copy>(
    problems: &mut Problems,
    path: &Path,
    key: &str,
    given: Option<Given<Quantity<D>>>,
) -> Option<Quantity<D>> {
    if given.is_none() {
        return Some(Quantity::ZERO);
    }
    let value = problems.take(path, key, given)?;
    problems.read(&path.key(key), value.positive())
}

//! A board file in TOML: every problem of it in one run, each at its line and key.
//!
//! ```
//! use kairotic_formats::board_file;
//! use kairotic_formats::text_file::Source;
//!
//! let text = r#"
//! schema = 1
//! part = "stm32f411"
//!
//! [[signal]]
//! name = "motor"
//! pin = "PA6"
//! freq = "25kHz"
//! duty = "35%"
//! "#;
//! let source = Source { file: "dome.toml".to_owned(), bytes: text.into() };
//! let catalogue = kairotic_parts::Catalogue::embedded();
//! let board = board_file::read(&source, &|name| catalogue.whole_part(name))?;
//! assert_eq!(board.signals[0].name, "motor");
//! # Ok::<(), kairotic_formats::text_file::FileError>(())
//! ```

mod axes;
mod given;
mod loads;
mod place;
mod raw;
#[cfg(feature = "schema")]
mod schema;
mod sequences;
mod signals;
mod words;

#[cfg(feature = "schema")]
pub use self::schema::schema;
use kairotic_core::board::{self, Board, BoardClock};
use kairotic_core::part::Part;
use kairotic_core::part::check::{PartProblem, Path, Step};
use kairotic_core::quantity::{Deviation, Dimension, Duty, Quantity, Range, Rational};
use kairotic_core::{Error, Result as CoreResult};

use self::given::{Count, Given, Words, complaint};
use self::loads::NamedStepper;
use self::place::Known;
use self::raw::{RawBoard, RawClock, Rest};
use crate::text_file::{FileError, Source, Text};

/// The version of the format that is read.
const SCHEMA: u64 = 1;

/// Every key of a board file, and of its clock.
const KEYS: [&str; 6] = ["schema", "part", "clock", "load", "signal", "sequence"];
const CLOCK: [&str; 9] =
    ["source", "frequency", "sysclk", "bus", "registers", "temperature", "ageing", "trim-step", "pll-jitter"];

/// Reads a board file. `part` finds a part by its name, or says which there are.
///
/// # Errors
/// [`FileError`] with the problems found, in the order of the lines.
pub fn read<'p>(source: &Source, part: &dyn Fn(&str) -> CoreResult<&'p Part>) -> Result<Board, FileError> {
    read_with(source, part, |board, part| {
        [board::clashes(board, part), board::problems(board, part)].concat()
    })
}

/// The same for a file whose signals may be in each other's way: whoever reads it looks for that.
///
/// # Errors
/// As [`read`].
pub fn read_clashing<'p>(
    source: &Source,
    part: &dyn Fn(&str) -> CoreResult<&'p Part>,
) -> Result<Board, FileError> {
    read_with(source, part, board::problems)
}

fn read_with<'p>(
    source: &Source,
    part: &dyn Fn(&str) -> CoreResult<&'p Part>,
    look: fn(&Board, &Part) -> Vec<PartProblem>,
) -> Result<Board, FileError> {
    let text = Text::of(source)?;
    let raw: RawBoard = text.parse()?;
    let mut problems = Problems::default();
    let root = Path::default();
    problems.unknown(&root, &raw.rest, &KEYS);
    if let Some(Count(found)) = problems.need(&root, "schema", raw.schema)
        && found != SCHEMA
    {
        problems.report(&root.key("schema"), format!("expected {SCHEMA}, found {found}"));
    }
    let name = problems.need(&root, "part", raw.part).map(|Words(name)| name.to_lowercase());
    let found = name.as_ref().and_then(|name| problems.read(&root.key("part"), part(name)));
    let clock = raw.clock.map_or_else(BoardClock::default, |raw| clock(&mut problems, raw));
    let mut places = Vec::new();
    let (mut loads, mut steppers) = (Vec::new(), Vec::new());
    // A load that is wrong is told once, and not again by each signal that names it.
    let mut wrong = Vec::new();
    for (index, raw) in raw.load.into_iter().enumerate() {
        let (name, made) = loads::load(&mut problems, &root.key("load").index(index), raw);
        let is_stepper =
            name.as_ref().is_some_and(|name| steppers.iter().any(|one: &NamedStepper| one.name == *name));
        match made {
            Some(loads::MadeLoad::Load(load)) => {
                places.push(("load", index));
                // Two of one name that hold levels are found with the rest of the board.
                if is_stepper {
                    name_taken(&mut problems, index, &load.name);
                }
                loads.push(load);
            }
            Some(loads::MadeLoad::Stepper(stepper)) => {
                if is_stepper || loads.iter().any(|load| load.name == stepper.name) {
                    name_taken(&mut problems, index, &stepper.name);
                }
                steppers.push(stepper);
            }
            None => wrong.extend(name),
        }
    }
    let (mut signals, mut axes) = (Vec::new(), Vec::new());
    if raw.signal.is_empty() {
        problems.report(&root, "expected at least one `[[signal]]`");
    }
    for (index, raw) in raw.signal.into_iter().enumerate() {
        let path = root.key("signal").index(index);
        let known = Known {
            part: name.as_deref(),
            loads: &loads,
            steppers: &steppers,
            before: signals.len(),
            wrong: &wrong,
        };
        match signals::signal(&mut problems, &path, known, raw) {
            Some(signals::MadeSignal::Signal(signal)) => {
                places.push(("signal", index));
                signals.push(*signal);
            }
            Some(signals::MadeSignal::StepAxis(axis)) => {
                places.push((board::AXES, index));
                axes.push(*axis);
            }
            None => {}
        }
    }
    let part = name.unwrap_or_default();
    let mut board = Board { part, clock, loads, signals, axes, sequences: Vec::new() };
    if let Some(part) = &found {
        for problem in look(&board, part) {
            let path = original(&problem.path, &places);
            if !problems.is_wrong_near(&path) {
                problems.report(&path, problem.message);
            }
        }
    }
    // What goes on with signals that are wrong is not looked at.
    let is_sound = problems.0.is_empty();
    let mut sequences = Vec::new();
    for (index, raw) in raw.sequence.into_iter().enumerate() {
        let path = root.key("sequence").index(index);
        let made = sequences::sequence(&mut problems, &path, is_sound.then_some(&board), raw);
        sequences.extend(made);
    }
    board.sequences = sequences;
    if problems.0.is_empty() {
        for problem in board.sequence_problems() {
            problems.report(&problem.path, problem.message);
        }
    }
    if problems.0.is_empty() {
        return Ok(board);
    }
    Err(text.problems(problems.0))
}

fn name_taken(problems: &mut Problems, index: usize, name: &str) {
    let path = Path::default().key("load").index(index).key("name");
    problems.report(&path, format!("there is a load `{name}` already"));
}

fn clock(problems: &mut Problems, raw: RawClock) -> BoardClock {
    let path = Path::default().key("clock");
    problems.unknown(&path, &raw.rest, &CLOCK);
    let frequency = problems.take(&path, "frequency", raw.frequency);
    let system = problems.take(&path, "sysclk", raw.sysclk);
    if frequency.is_some() && system.is_some() {
        problems.report(&path.key("sysclk"), "give `frequency` or `sysclk`, not both");
    }
    let source = problems.take(&path, "source", raw.source);
    let registers = problems.every(&path.key("registers"), raw.registers);
    if !registers.is_empty() && (frequency.is_some() || system.is_some()) {
        let text = "the registers say which clock reaches the timers: leave `frequency` and `sysclk` out";
        problems.report(&path.key("registers"), text);
    }
    let buses = problems.every(&path.key("bus"), raw.bus);
    if system.is_none() && !buses.is_empty() {
        problems.report(&path.key("bus"), "bus dividers need a system clock: give `sysclk`");
    }
    let temperature = problems.take(&path, "temperature", raw.temperature);
    let temperature = temperature.filter(|range| {
        let around = range.low <= Deviation::ZERO && range.high >= Deviation::ZERO;
        if !around {
            let text = format!("expected a range around zero, as in -2%..1%, found {range}");
            problems.report(&path.key("temperature"), text);
        }
        around
    });
    BoardClock {
        source,
        registers,
        frequency,
        system,
        buses,
        temperature,
        ageing: problems.positive_or_zero(&path, "ageing", raw.ageing),
        trim: problems.positive_or_zero(&path, "trim-step", raw.trim_step),
        pll: problems.positive_or_zero(&path, "pll-jitter", raw.pll_jitter),
    }
}

/// The path in the file of a path in the board, from which what is wrong has been left out.
fn original(path: &Path, places: &[(&str, usize)]) -> Path {
    let [Step::Key(list), Step::Index(index), rest @ ..] = path.0.as_slice() else { return path.clone() };
    let mut there = places.iter().filter(|(known, _)| known == list).map(|(_, index)| *index);
    // Steppers stand among the signals.
    let there_list = if list == board::AXES { "signal" } else { list };
    let mut steps = vec![Step::Key(there_list.to_owned()), Step::Index(there.nth(*index).unwrap_or(*index))];
    steps.extend(rest.iter().cloned());
    Path(steps)
}

/// What is wrong with a board file, as it is found.
#[derive(Debug, Default)]
struct Problems(Vec<(Path, String)>);

impl Problems {
    fn report(&mut self, path: &Path, message: impl Into<String>) {
        self.0.push((path.clone(), message.into()));
    }

    /// Whether something was said about one of the keys of a table.
    fn is_wrong(&self, path: &Path, keys: &[&str]) -> bool {
        keys.iter().any(|key| self.0.iter().any(|(known, _)| *known == path.key(*key)))
    }

    /// Whether something was said about a value, or about what it stands in.
    fn is_wrong_near(&self, path: &Path) -> bool {
        self.0.iter().any(|(known, _)| path.0.starts_with(&known.0) && !known.0.is_empty())
    }

    /// Keys that nothing knows, each with the nearest that there is.
    fn unknown(&mut self, path: &Path, rest: &Rest, known: &[&str]) {
        for key in rest.keys() {
            let error = Error::unknown("key", key, "a board file at this place", known.iter().copied());
            self.report(&path.key(key), complaint(error));
        }
    }

    /// A value that may be left out.
    fn take<T>(&mut self, path: &Path, key: &str, given: Option<Given<T>>) -> Option<T> {
        given.and_then(|given| given.0.map_err(|message| self.report(&path.key(key), message)).ok())
    }

    /// The values of a list.
    fn every<T>(&mut self, path: &Path, given: Vec<Given<T>>) -> Vec<T> {
        let values = given.into_iter().enumerate();
        let value = |(index, given): (usize, Given<T>)| {
            given.0.map_err(|message| self.report(&path.index(index), message)).ok()
        };
        values.filter_map(value).collect()
    }

    /// A value that has to be there.
    fn need<T>(&mut self, path: &Path, key: &str, given: Option<Given<T>>) -> Option<T> {
        if given.is_none() {
            self.report(path, format!("`{key}` is missing"));
        }
        self.take(path, key, given)
    }

    /// What the core makes of a text.
    fn read<T>(&mut self, path: &Path, result: CoreResult<T, impl Into<Error>>) -> Option<T> {
        result.map_err(|error| self.report(path, complaint(error))).ok()
    }

    /// A quantity that is not less than zero, where there is one.
    fn positive_or_zero<D: Dimension + Copy>(
        &mut self,
        path: &Path,
        key: &str,
        given: Option<Given<Quantity<D>>>,
    ) -> Option<Quantity<D>> {
        let value = self.take(path, key, given)?;
        if value.value() < Rational::ZERO {
            self.report(&path.key(key), format!("expected no less than zero, found {value}"));
            return None;
        }
        Some(value)
    }

    /// A duty from 0 to 100 %, where there is one.
    fn share(&mut self, path: &Path, key: &str, given: Option<Given<Duty>>) -> Option<Duty> {
        let value = self.take(path, key, given)?;
        if value < Duty::ZERO || value.value() > Rational::ONE {
            self.report(&path.key(key), format!("expected 0 % to 100 %, found {value}"));
            return None;
        }
        Some(value)
    }

    /// A range whose lower end, greater than zero, stands first.
    fn rising<D: Dimension + Copy>(
        &mut self,
        path: &Path,
        key: &str,
        range: Option<Range<Quantity<D>>>,
    ) -> Option<Range<Quantity<D>>> {
        let range = range?;
        if range.low.value() >= range.high.value() || range.low.value() < Rational::ZERO {
            self.report(&path.key(key), format!("expected the lower end first, found {range}"));
            return None;
        }
        Some(range)
    }
}

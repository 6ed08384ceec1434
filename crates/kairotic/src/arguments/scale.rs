//! The arguments of `scale`.

use std::path::{Path, PathBuf};

use clap::{ArgGroup, Args, ValueEnum};
use kairotic_core::limits;
use kairotic_core::load::Load;
use kairotic_core::load::ObservedValue;
use kairotic_core::quantity::{Angle, Duty, Frequency, Range, Rational, Tolerance, parse};
use kairotic_core::scale::Word;
use kairotic_core::search::DeriveRequest;
use kairotic_core::signal::Target;
use kairotic_formats::map_code::Language;
use kairotic_formats::observations::{self, Given};

use super::board::{BoardOptions, BoardPlace, BoardSignal};
use super::location::Location;
use super::quantities::read;
use super::signal_options::{DESCRIBED, DescribedSignal};
use crate::fault::{Fault, Result};
use crate::part_library::PartLibrary;

/// From a whole-number input to the compare value, with whole numbers only.
///
/// The ends of the input range become the ends of the span: of --span, of the load of a board's signal, or of the compare
/// values in --to. The cheapest arithmetic is found that is exact enough and whose every number fits the machine's word;
/// both are proved. --code prints it.
#[derive(Debug, Args)]
#[command(
    override_usage = "kairotic scale --from LOW..HIGH (--to LOW..HIGH | --on PART/TIMER --freq F --span LOW..HIGH | --board FILE --signal NAME) [OPTIONS]\n       \
                      kairotic scale --observed GIVEN=SEEN,... --board FILE --signal NAME"
)]
#[command(after_help = EXAMPLES, group = ArgGroup::new("ends").args(["to", "on", "board"]).required(true))]
#[command(group = ArgGroup::new("described").args(DESCRIBED).multiple(true).conflicts_with_all(["to", "board"]))]
pub struct ScaleArgs {
    /// The inputs: 0..4095, 12bit, -100%..100% or 0deg..120deg; the second becomes the higher end of the span
    #[arg(
        long,
        value_name = "LOW..HIGH",
        allow_hyphen_values = true,
        help_heading = "Map",
        required_unless_present = "observed"
    )]
    from: Option<String>,
    /// The compare values themselves, without a timer
    #[arg(long, value_name = "LOW..HIGH", allow_hyphen_values = true, help_heading = "Map")]
    to: Option<String>,
    #[command(flatten)]
    described: DescribedSignal,
    #[command(flatten)]
    board: BoardOptions,
    /// Calibrate the load of a board's signal instead: the pulses, duties or compare values that it was given and what
    /// was seen (degrees, throttle, rpm, volts, watts), as 1000us=8deg,6400=107deg or 40%=900rpm,80%=2100rpm, or a CSV
    /// file with one such pair a line
    #[arg(
        long,
        value_name = "GIVEN=SEEN,...|FILE",
        help_heading = "Calibration",
        requires = "board",
        conflicts_with_all = ["from", "code", "every", "points", "read_back"]
    )]
    pub observed: Option<String>,
    /// Bits of the machine's word: 16 or 32
    #[arg(long, value_name = "BITS", default_value = "32", value_parser = ["16", "32"], help_heading = "Arithmetic")]
    word: String,
    /// The largest error that will do, in compare steps
    #[arg(
        long,
        value_name = "STEPS",
        default_value = "0.5",
        allow_hyphen_values = true,
        help_heading = "Arithmetic"
    )]
    max_error: String,
    /// Print the arithmetic as a function
    #[arg(long, value_name = "LANGUAGE", value_enum, help_heading = "Output")]
    pub code: Option<Code>,
    /// The function's name
    #[arg(long, value_name = "NAME", default_value = "compare_of", value_parser = identifier, help_heading = "Output")]
    pub name: String,
    /// Show every so many inputs, from the lowest on
    #[arg(long, value_name = "NUMBER", value_parser = clap::value_parser!(u32).range(1..), help_heading = "Output", conflicts_with = "points")]
    every: Option<u32>,
    /// Show these inputs, with commas between
    #[arg(
        long,
        value_name = "INPUTS",
        value_delimiter = ',',
        allow_hyphen_values = true,
        help_heading = "Output"
    )]
    points: Vec<i64>,
    /// Draw the map, and how far its arithmetic is off the line, to an SVG or PNG file
    #[arg(long, value_name = "FILE", help_heading = "Output", conflicts_with = "observed")]
    pub plot: Option<PathBuf>,
    /// Replace the picture where the file is there already
    #[arg(long, requires = "plot", help_heading = "Output")]
    pub force: bool,
    /// Show what these compare values stand for
    #[arg(long, value_name = "COMPARES", value_delimiter = ',', help_heading = "Output")]
    pub read_back: Vec<u64>,
}

const EXAMPLES: &str = "\
Examples:
  kairotic scale --from 0..1023 --to 1800..4200 --word 16
      a knob of ten bits to a servo, on a machine with words of 16 bits
  kairotic scale --from 12bit --on stm32f411/tim3 --clock 100MHz --freq 50Hz --span 900us..2100us --code c
      the same for a timer, as a function in C
  kairotic scale --from 0deg..120deg --board dome.toml --signal shutter --every 15
      angles of a board's servo
  kairotic scale --observed 1000us=8deg,1500us=58deg,2000us=107deg --board dome.toml --signal shutter
      the span of the servo that is really there
  kairotic scale --observed 20%=140rpm,50%=1250rpm,80%=2360rpm --board dome.toml --signal vent
      the start duty of the motor that is really there";

/// The language of the function.
#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub enum Code {
    /// C99
    C,
    /// Rust
    Rust,
}

impl From<Code> for Language {
    fn from(code: Code) -> Self {
        match code {
            Code::C => Self::C,
            Code::Rust => Self::Rust,
        }
    }
}

/// Where the compare values come from.
pub enum Ends {
    /// They are given.
    Given(u64, u64),
    /// From the span of a target on a timer, perhaps of a board's signal.
    Timer {
        /// The part's name.
        part: String,
        /// The signal.
        request: Box<DeriveRequest>,
        /// The board, where it is one of a board.
        board: Option<Box<BoardSignal>>,
    },
}

/// What was observed of a load.
pub struct Observed {
    /// The load.
    pub load: Load,
    /// What it was given, and what was seen.
    pub pairs: Vec<(Given, ObservedValue)>,
    /// Where its signal comes out.
    pub place: Location,
    /// The clock that reaches the timer, where it is given.
    pub clock: Option<Tolerance<Frequency>>,
    /// The signal.
    pub target: Box<Target>,
}

/// What is asked of a map.
pub struct ScaleAsk {
    /// The lowest and the highest input.
    pub inputs: (i64, i64),
    /// What the inputs count, where they have a unit.
    pub unit: &'static str,
    /// The compare values.
    pub ends: Ends,
    /// The machine's word.
    pub word: Word,
    /// The largest error that will do, in compare steps.
    pub most: Rational,
}

impl ScaleArgs {
    /// What is asked.
    ///
    /// # Errors
    /// [`Fault`] for texts that are no ranges or quantities.
    pub fn read(&self, catalogue: &PartLibrary) -> Result<ScaleAsk> {
        let (inputs, unit) = inputs(self.from.as_deref().unwrap_or_default())?;
        let word = if self.word == "16" { Word::BITS_16 } else { Word::BITS_32 };
        let wrong = || Fault::Usage {
            message: format!(
                "--max-error: expected a number of compare steps greater than zero, found `{}`",
                self.max_error
            ),
            hint: "for example --max-error 0.5".to_owned(),
        };
        let most: Duty = format!("{}%", self.max_error).parse().map_err(|_| wrong())?;
        let most =
            most.value().times(Rational::whole(100)).filter(|most| most.is_positive()).ok_or_else(wrong)?;
        let ends = if let Some(text) = &self.to {
            let (low, high) = whole("to", text)?;
            let unsigned = |number: i64| {
                u64::try_from(number).map_err(|_| Fault::Usage {
                    message: format!("--to: expected compare values from zero on, found {number}"),
                    hint: "for example --to 1800..4200".to_owned(),
                })
            };
            Ends::Given(unsigned(low)?, unsigned(high)?)
        } else if let Some(BoardPlace { signal, place, clock, .. }) = self.board.read(catalogue)? {
            let target = signal.board.target(&signal.signal)?;
            let request = DeriveRequest::plain(place.timer, place.channel, clock, target);
            Ends::Timer { part: place.part, request: Box::new(request), board: Some(Box::new(signal)) }
        } else {
            let (part, request) = self.described.read(catalogue)?;
            Ends::Timer { part, request: Box::new(request), board: None }
        };
        Ok(ScaleAsk { inputs, unit, ends, word, most })
    }

    /// The board's signal whose load is calibrated, and what was observed of it.
    ///
    /// # Errors
    /// [`Fault`] for a signal without a load, a file that cannot be read, and pairs of another shape.
    pub fn observations(&self, text: &str, catalogue: &PartLibrary) -> Result<Observed> {
        let no_load = || Fault::Usage {
            message: "--observed: the signal has no load to calibrate".to_owned(),
            hint: "name one with `load` in the board file".to_owned(),
        };
        let BoardPlace { signal: on, place, clock, .. } = self.board.read(catalogue)?.ok_or_else(no_load)?;
        let load = on.board.load_of(&on.signal).cloned().ok_or_else(no_load)?;
        let wrong = |pair: &str| Fault::Usage {
            message: format!(
                "--observed: expected a pulse, duty or compare value and what was seen, found `{pair}`"
            ),
            hint: "for example 1000us=8deg or 40%=900rpm, or 1000us,8deg in a file".to_owned(),
        };
        let mut pairs = Vec::new();
        if text.contains('=') {
            for pair in text.split(',') {
                let (given, seen) = pair.split_once('=').ok_or_else(|| wrong(pair))?;
                pairs.push(read("observed", pair, |_| observations::pair(&load.kind, given, seen))?);
            }
        } else {
            let source = catalogue.file(Path::new(text))?;
            pairs = observations::read(&source, &load.kind).map_err(|error| Fault::Usage {
                message: error.to_string(),
                hint: "a line has what was given and what was seen, as in 1000us,8deg".to_owned(),
            })?;
        }
        let target = Box::new(on.board.target(&on.signal)?);
        Ok(Observed { load, pairs, place, clock, target })
    }

    /// The inputs that are shown: those that are asked for, or the ends and what lies at the quarters.
    ///
    /// # Errors
    /// [`Fault::Usage`] for more rows than a table has.
    pub fn shown(&self, (low, high): (i64, i64)) -> Result<Vec<i64>> {
        if !self.points.is_empty() {
            return Ok(self.points.clone());
        }
        if let Some(every) = self.every {
            let every = u64::from(every);
            let rows = high.abs_diff(low) / every + 1;
            if limits::ROWS.is_below(rows) {
                let least = high.abs_diff(low) / limits::ROWS.most + 1;
                return Err(Fault::Usage {
                    message: limits::ROWS.refusal(&format!("--every {every} makes"), rows),
                    hint: format!("--every {least} or more, or fewer inputs"),
                });
            }
            return Ok((low..=high).step_by(every as usize).collect());
        }
        let run = i128::from(high) - i128::from(low);
        let quarter = |part: i128| i64::try_from(i128::from(low) + run * part / 4).unwrap_or(high);
        let mut shown: Vec<i64> = (0..=4).map(quarter).collect();
        shown.dedup();
        Ok(shown)
    }
}

/// A name that C and Rust take.
fn identifier(text: &str) -> Result<String, String> {
    let letter = |c: char| c.is_ascii_alphabetic() || c == '_';
    let starts = text.chars().next().is_some_and(letter);
    if starts && text.chars().all(|c| letter(c) || c.is_ascii_digit()) {
        return Ok(text.to_owned());
    }
    Err("expected letters, digits and underscores, and no digit first".to_owned())
}

/// A range of inputs: whole numbers, a number of bits, or whole numbers of a unit.
fn inputs(text: &str) -> Result<((i64, i64), &'static str)> {
    if let Some(bits) = text.trim().strip_suffix("bit").and_then(|bits| bits.trim().parse::<u32>().ok()) {
        return match 1_i64.checked_shl(bits).filter(|_| (1..=32).contains(&bits)) {
            Some(count) => Ok(((0, count - 1), "")),
            None => Err(wrong_inputs(text)),
        };
    }
    let ends = |low: Rational, high: Rational, scale: i64, unit| {
        let number = |value: Rational| {
            let scaled = value.times(Rational::whole(scale)).filter(|scaled| scaled.is_whole());
            scaled.and_then(|scaled| i64::try_from(scaled.numerator()).ok()).ok_or_else(|| wrong_inputs(text))
        };
        Ok(((number(low)?, number(high)?), unit))
    };
    if text.contains('%') {
        let range: Range<Duty> = read("from", text, parse::range)?;
        return ends(range.low.value(), range.high.value(), 100, "%");
    }
    if text.contains("deg") {
        let range: Range<Angle> = read("from", text, parse::range)?;
        return ends(range.low.value(), range.high.value(), 360, "deg");
    }
    Ok((whole("from", text)?, ""))
}

fn whole(option: &str, text: &str) -> Result<(i64, i64)> {
    let ends = text.split_once("..").and_then(|(low, high)| {
        Some((low.trim().replace('_', "").parse().ok()?, high.trim().replace('_', "").parse().ok()?))
    });
    ends.ok_or_else(|| match option {
        "from" => wrong_inputs(text),
        _ => Fault::Usage {
            message: format!("--{option}: expected two whole numbers with two dots between, found `{text}`"),
            hint: format!("for example --{option} 1800..4200"),
        },
    })
}

fn wrong_inputs(text: &str) -> Fault {
    Fault::Usage {
        message: format!("--from: expected a range of whole numbers, found `{text}`"),
        hint: "for example --from 0..4095, --from 12bit, --from -100%..100% or --from 0deg..120deg"
            .to_owned(),
    }
}

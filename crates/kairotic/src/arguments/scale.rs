//! The arguments of `scale`.

use std::path::Path;

use clap::{ArgGroup, Args, ValueEnum};
use kairotic_core::limits;
use kairotic_core::load::{Load, ObservedValue};
use kairotic_core::quantity::{Angle, Duty, Range, Rational};
use kairotic_core::scale::Word;
use kairotic_core::signal::SignalSpec;
use kairotic_formats::map_code::Language;
use kairotic_formats::observations::{self, LoadInput};

use super::plot::PlotOptions;
use super::signal_spec::{DESCRIBED, SpecOptions};
use super::typed::{Refusal, identifier, plain, range, whole};
use crate::fault::{Fault, Result};
use crate::part_library::PartLibrary;

/// The arguments of `scale`.
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
#[command(mut_arg("plot", |plot| plot.help(
    "Draw the map, and how far its arithmetic is off the line, to an SVG or PNG file"
)))]
pub struct ScaleArgs {
    /// The inputs: 0..4095, 12bit, -100%..100% or 0deg..120deg; the second becomes the higher end of the span
    #[arg(
        long,
        value_name = "LOW..HIGH",
        allow_hyphen_values = true,
        help_heading = "Map",
        required_unless_present = "observed",
        value_parser = inputs
    )]
    from: Option<InputRange>,
    /// The compare values themselves, without a timer
    #[arg(
        long,
        value_name = "LOW..HIGH",
        allow_hyphen_values = true,
        help_heading = "Map",
        conflicts_with_all = DESCRIBED,
        value_parser = compares
    )]
    to: Option<(u64, u64)>,
    #[command(flatten)]
    spec: SpecOptions,
    /// Calibrate the load of a board's signal instead: the pulses, duties or compare values that it was given and what
    /// was seen (degrees, throttle, rpm, volts, watts), as 1000us=8deg,6400=107deg or 40%=900rpm,80%=2100rpm, or a CSV
    /// file with one such pair a line
    #[arg(
        long,
        value_name = "GIVEN=SEEN,...|FILE",
        help_heading = "Calibration",
        requires = "board",
        conflicts_with_all = ["from", "code", "every", "points", "read_back", "plot"]
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
        help_heading = "Arithmetic",
        value_parser = steps_off
    )]
    max_error: Rational,
    /// Print the arithmetic as a function
    #[arg(long, value_name = "LANGUAGE", value_enum, help_heading = "Output")]
    pub code: Option<Code>,
    /// The function's name
    #[arg(long, value_name = "NAME", default_value = "compare_of", value_parser = identifier, help_heading = "Output")]
    pub name: String,
    /// Show every so many inputs, from the lowest on
    #[arg(long, value_name = "NUMBER", value_parser = whole::<u32, 1, 4_294_967_295>, help_heading = "Output", conflicts_with = "points")]
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
    #[command(flatten)]
    pub plot: PlotOptions,
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
pub enum CompareEnds<'c> {
    /// They are given.
    Given(u64, u64),
    /// From the span of a planned signal.
    Signal(Box<SignalSpec<'c>>),
}

/// What was observed of a load.
pub struct Observed<'c> {
    /// The signal that drives it.
    pub spec: SignalSpec<'c>,
    /// The load.
    pub load: Load,
    /// What it was given, and what was seen.
    pub pairs: Vec<(LoadInput, ObservedValue)>,
}

/// What is asked of a map.
pub struct ScaleAsk<'c> {
    /// The inputs.
    pub inputs: InputRange,
    /// The compare values.
    pub ends: CompareEnds<'c>,
    /// The machine's word.
    pub word: Word,
    /// The largest error that will do, in compare steps.
    pub most: Rational,
}

/// The whole-number inputs of a map.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct InputRange {
    /// The one that becomes the lower end of the span.
    pub low: i64,
    /// The one that becomes the higher end.
    pub high: i64,
    /// What they count, where they have a unit.
    pub unit: &'static str,
}

impl ScaleArgs {
    /// What is asked.
    ///
    /// # Errors
    /// As [`SpecOptions::one`].
    pub fn read<'c>(&self, catalogue: &'c PartLibrary) -> Result<ScaleAsk<'c>> {
        // Without inputs a load is calibrated, and this is not asked.
        let inputs = self.from.unwrap_or(InputRange { low: 0, high: 0, unit: "" });
        let word = if self.word == "16" { Word::BITS_16 } else { Word::BITS_32 };
        let ends = match self.to {
            Some((low, high)) => CompareEnds::Given(low, high),
            None => CompareEnds::Signal(Box::new(self.spec.one(catalogue)?.spec)),
        };
        Ok(ScaleAsk { inputs, ends, word, most: self.max_error })
    }

    /// The board's signal whose load is calibrated, and what was observed of it.
    ///
    /// # Errors
    /// [`Fault`] for a signal without a load, a file that cannot be read, and pairs of another shape.
    pub fn observations<'c>(&self, text: &str, catalogue: &'c PartLibrary) -> Result<Observed<'c>> {
        let spec = self.spec.one(catalogue)?.spec;
        let load = spec.load.clone().ok_or_else(|| Fault::Usage {
            message: "--observed: the signal has no load to calibrate".to_owned(),
            hint: "name one with `load` in the board file".to_owned(),
        })?;
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
                let read = observations::pair(&load.kind, given, seen);
                pairs.push(
                    read.map_err(|error| Fault::Option { option: "observed", error: Box::new(error) })?,
                );
            }
        } else {
            let source = catalogue.file(Path::new(text))?;
            pairs = observations::read(&source, &load.kind).map_err(|error| Fault::Usage {
                message: error.to_string(),
                hint: "a line has what was given and what was seen, as in 1000us,8deg".to_owned(),
            })?;
        }
        Ok(Observed { spec, load, pairs })
    }

    /// The inputs that are shown: those that are asked for, or the ends and what lies at the quarters.
    ///
    /// # Errors
    /// [`Fault::Usage`] for more rows than a table has.
    pub fn shown(&self, InputRange { low, high, .. }: InputRange) -> Result<Vec<i64>> {
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

/// A range of inputs: whole numbers, a number of bits, or whole numbers of a unit.
fn inputs(text: &str) -> Result<InputRange, Refusal> {
    let wrong = || {
        Refusal::new(
            format!("expected a range of whole numbers, found `{text}`"),
            "for example --from 0..4095, --from 12bit, --from -100%..100% or --from 0deg..120deg",
        )
    };
    if let Some(bits) = text.trim().strip_suffix("bit").and_then(|bits| bits.trim().parse::<u32>().ok()) {
        let count = 1_i64.checked_shl(bits).filter(|_| (1..=32).contains(&bits)).ok_or_else(wrong)?;
        return Ok(InputRange { low: 0, high: count - 1, unit: "" });
    }
    let number = |value: Rational, scale: i64| {
        let scaled = value.times(Rational::whole(scale)).filter(|scaled| scaled.is_whole());
        scaled.and_then(|scaled| i64::try_from(scaled.numerator()).ok()).ok_or_else(wrong)
    };
    let (low, high, unit) = if text.contains('%') {
        let range: Range<Duty> = range(text)?;
        (number(range.low.value(), 100)?, number(range.high.value(), 100)?, "%")
    } else if text.contains("deg") {
        let range: Range<Angle> = range(text)?;
        (number(range.low.value(), 360)?, number(range.high.value(), 360)?, "deg")
    } else {
        let (low, high) = whole_ends(text).ok_or_else(wrong)?;
        (low, high, "")
    };
    Ok(InputRange { low, high, unit })
}

/// Two compare values.
fn compares(text: &str) -> Result<(u64, u64), Refusal> {
    const EXAMPLE: &str = "for example --to 1800..4200";
    let (low, high) = whole_ends(text).ok_or_else(|| {
        let message = format!("expected two whole numbers with two dots between, found `{text}`");
        Refusal::new(message, EXAMPLE)
    })?;
    let unsigned = |number: i64| {
        let message = format!("expected compare values from zero on, found {number}");
        u64::try_from(number).map_err(|_| Refusal::new(message, EXAMPLE))
    };
    Ok((unsigned(low)?, unsigned(high)?))
}

fn whole_ends(text: &str) -> Option<(i64, i64)> {
    let number = |text: &str| text.trim().replace('_', "").parse().ok();
    let (low, high) = text.split_once("..")?;
    Some((number(low)?, number(high)?))
}

fn steps_off(text: &str) -> Result<Rational, Refusal> {
    plain(text, "compare steps", "for example --max-error 0.5")
}

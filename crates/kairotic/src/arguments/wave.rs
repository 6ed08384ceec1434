//! The arguments of `wave`.

use std::ops::RangeInclusive;
use std::path::PathBuf;

use clap::Args;
use kairotic_core::error::OrOverflow;
use kairotic_core::quantity::{Deviation, Rational, Time, TimeDimension};
use kairotic_core::simulation::{FaultInjection, PinRole};
use kairotic_formats::capture::WriterKind;

use super::files::FileOptions;
use super::played::{Played, PlayedOptions};
use super::signal_spec::SpecOptions;
use super::typed::{Refusal, file, positive, quantity, whole};
use crate::fault::Result;

/// The arguments of `wave`.
///
/// The edges come from the same simulated counter that all formulas are tested against. --save writes them as a capture
/// that `measure` and other programs read; faults can be put in to rehearse what a measurement will say.
#[derive(Debug, Args)]
#[command(after_help = EXAMPLES)]
#[command(mut_arg("signal", |signal| signal.help("One signal of the board; all of them where none is named")))]
#[command(mut_arg("save", |save| save.help("Write the capture to a .vcd or .csv file").value_parser(saved)))]
#[command(mut_arg("plot", |plot| plot.help("Draw the pins under one another, with the counters behind them, to an SVG or PNG file")))]
pub struct WaveArgs {
    #[command(flatten)]
    pub spec: SpecOptions,
    #[command(flatten)]
    pub played: PlayedOptions,
    /// Number of periods of the first signal [default: 20, in a picture 3]
    #[arg(long, value_name = "NUMBER", conflicts_with_all = ["sequence", "moves"], value_parser = whole::<u64, 1, 100_000_000>, help_heading = "Length")]
    periods: Option<u64>,
    /// Length of time instead
    #[arg(long = "for", value_name = "TIME", help_heading = "Length", conflicts_with = "periods", value_parser = positive::<TimeDimension>)]
    length: Option<Time>,
    /// How far the clock is off, such as 40ppm or -0.8%
    #[arg(long, value_name = "DEVIATION", help_heading = "Faults", allow_hyphen_values = true, value_parser = clock_error)]
    clock_error: Option<Deviation>,
    /// The standard deviation of each edge
    #[arg(long, value_name = "TIME", help_heading = "Faults", value_parser = positive::<TimeDimension>)]
    jitter: Option<Time>,
    /// Seed of the jitter: the same seed gives the same edges
    #[arg(long, value_name = "NUMBER", default_value = "1", help_heading = "Faults")]
    seed: u64,
    /// Pulses left out of each signal, counted from 0: numbers and ranges such as 90..118, with commas between
    #[arg(long, value_name = "NUMBERS", value_delimiter = ',', value_parser = run, help_heading = "Faults")]
    missing: Vec<RangeInclusive<u64>>,
    /// Pulses of each signal that are followed by an extra one
    #[arg(long, value_name = "NUMBERS", value_delimiter = ',', value_parser = run, help_heading = "Faults")]
    doubled: Vec<RangeInclusive<u64>>,
    /// The recorder's tick: 1, 10 or 100 of a unit of time
    #[arg(long, value_name = "TIME", default_value = "1ns", help_heading = "Output", value_parser = resolution)]
    pub time_resolution: Time,
    #[command(flatten)]
    pub files: FileOptions,
}

const EXAMPLES: &str = "\
Examples:
  kairotic wave --on stm32f411/tim3 --clock 96MHz --freq 50Hz --pulse 1500us
      the edges of a servo's pulse
  kairotic wave --board dome.toml --for 100ms --save dome.vcd
      all signals of a board, as a capture
  kairotic wave --board dome.toml --sequence opens --save opens.vcd
      a sequence: every pulse of its signals, steps and direction of its stepper
  kairotic wave --board dome.toml --signal shutter --clock-error -0.8% --jitter 2us --missing 7 --save off.vcd
      one of them from a clock that is off, with jitter, and without its eighth pulse";

/// Periods where nothing is said: of a capture, and of a picture.
const PERIODS: u64 = 20;
const DRAWN: u64 = 3;

impl WaveArgs {
    /// The length that is asked for, where the first signal has a period.
    ///
    /// # Errors
    /// A number that does not fit.
    pub fn length(&self, period: Time) -> Result<Time> {
        self.so_long(period, PERIODS)
    }

    /// The length of what is played: all of it where none is asked for, with the last step's pulse.
    ///
    /// # Errors
    /// A number that does not fit.
    pub fn played_length(&self, played: &Played) -> Result<Time> {
        if let Some(length) = self.length {
            return Ok(length);
        }
        let steps =
            played.pins.iter().filter(|pin| matches!(pin.role, PinRole::Step { .. } | PinRole::Wire { .. }));
        let last = steps.map(|pin| pin.period).max().unwrap_or(Time::ZERO);
        // A clock that is slow takes longer.
        let slow = self.clock_error.unwrap_or(Deviation::ZERO).value().plus(Rational::ONE);
        let all = played.length.plus(last).map_err(kairotic_core::Error::from)?;
        let all = slow.and_then(|slow| all.value().over(slow)).or_overflow("length")?;
        Ok(Time::new(all))
    }

    /// As much of that as a picture shows.
    ///
    /// # Errors
    /// As [`WaveArgs::length`].
    pub fn drawn_length(&self, period: Time) -> Result<Time> {
        self.so_long(period, DRAWN)
    }

    fn so_long(&self, period: Time, periods: u64) -> Result<Time> {
        if let Some(length) = self.length {
            return Ok(length);
        }
        let periods = Rational::from(self.periods.unwrap_or(periods));
        Ok(Time::new(period.value().times(periods).or_overflow("length")?))
    }

    /// What is wrong with the waveform.
    pub fn faults(&self) -> FaultInjection {
        FaultInjection {
            seed: self.seed,
            missing: self.missing.clone(),
            doubled: self.doubled.clone(),
            clock_error: self.clock_error.unwrap_or(Deviation::ZERO),
            jitter: self.jitter.unwrap_or(Time::ZERO),
        }
    }

    /// What the capture is written as.
    pub fn kind(&self) -> Option<WriterKind> {
        let ending = self.files.save.as_ref()?.extension()?;
        Some(if ending.eq_ignore_ascii_case("vcd") { WriterKind::Vcd } else { WriterKind::Csv })
    }
}

fn saved(text: &str) -> Result<PathBuf, Refusal> {
    file(text, &["vcd", "csv"], "--save dome.vcd")
}

/// A tick that a file can state.
fn resolution(text: &str) -> Result<Time, Refusal> {
    let tick: Time = positive(text)?;
    let decimal = |value: i128| {
        let digits = value.to_string();
        digits.starts_with('1') && digits.bytes().skip(1).all(|digit| digit == b'0')
    };
    if decimal(tick.value().numerator()) && decimal(tick.value().denominator()) {
        return Ok(tick);
    }
    let message = format!("expected 1, 10 or 100 of a unit of time, found `{text}`");
    Err(Refusal::new(message, "for example --time-resolution 10ns"))
}

fn clock_error(text: &str) -> Result<Deviation, Refusal> {
    let error: Deviation = quantity(text)?;
    if error.value().magnitude() > Rational::new(1, 2).unwrap_or(Rational::ONE) {
        let message = format!("expected -50 % to 50 %, found `{text}`");
        return Err(Refusal::new(message, "for a clock that is another one, give it with --clock"));
    }
    Ok(error)
}

/// A pulse's number, or the first and the last of several with two dots.
fn run(text: &str) -> std::result::Result<RangeInclusive<u64>, String> {
    let (first, last) = text.split_once("..").unwrap_or((text, text));
    let number = |text: &str| text.trim().parse::<u64>().ok();
    number(first)
        .zip(number(last))
        .filter(|(first, last)| first <= last)
        .map(|(first, last)| first..=last)
        .ok_or_else(|| "expected a number, or two rising ones as in 90..118".to_owned())
}

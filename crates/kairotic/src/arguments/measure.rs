//! The arguments of `measure`.

use std::path::PathBuf;

use clap::Args;
use kairotic_core::signal::SignalSpec;

use super::capture::CaptureOptions;
use super::needs::NeedText;
use super::played::PlayedOptions;
use super::plot::PlotOptions;
use super::signal_spec::SpecOptions;
use super::typed::{Refusal, text};
use crate::fault::{Fault, Result};
use crate::part_library::PartLibrary;

/// The arguments of `measure`.
///
/// Value change dumps, tables of times and levels or of samples, and sigrok session archives are read as a stream, whatever
/// their size. With a plan, by options or by a board file, each requirement is met, missed, or cannot be told, and what is
/// off is put down to the registers, the clock or the software.
#[derive(Debug, Args)]
#[command(after_help = EXAMPLES)]
#[command(mut_arg("plot", |plot| plot.help(
    "Draw the first signal that has a period: its periods and edges over time, how they are spread, and its Allan \
     deviation, to an SVG or PNG file"
)))]
#[command(mut_arg("signal", |signal| signal.help("One signal of the board; all of them where none is named")))]
pub struct MeasureArgs {
    /// The capture; - for a pipe
    pub file: PathBuf,
    #[command(flatten)]
    pub capture: CaptureOptions,
    /// Two signals to compare: phase, overlap, dead time
    #[arg(long, value_name = "FIRST,SECOND", value_parser = two_signals, help_heading = "Capture")]
    pub between: Vec<(String, String)>,
    #[command(flatten)]
    pub plot: PlotOptions,
    #[command(flatten)]
    pub spec: SpecOptions,
    #[command(flatten)]
    pub played: PlayedOptions,
    /// Which signal of the capture is which of the plan, where their names differ: D0=shutter,D1=dome
    #[arg(long, value_name = "CAPTURED=PLANNED", value_delimiter = ',', value_parser = captured_planned, help_heading = "Plan")]
    pub map: Vec<(String, String)>,
    /// What is required of a signal that options plan: frequency, pulse, jitter or clock
    #[arg(long, value_name = "NAME=LIMIT", value_parser = text::<NeedText>, help_heading = "Plan", requires = "on")]
    need: Vec<NeedText>,
    /// Tell what the clock behind all planned signals really has, and derive registers for it
    #[arg(long, help_heading = "Plan")]
    pub fit_clock: bool,
}

const EXAMPLES: &str = "\
Examples:
  kairotic measure dome.vcd
      all signals of a capture
  kairotic measure dome.vcd --board dome.toml --fit-clock
      against the plan, and what the clock really has
  kairotic measure opens.vcd --board dome.toml --sequence opens
      against a sequence: every pulse and every step
  kairotic measure samples.csv --rate 1MHz --signals D0 --glitch 2us
      one column of a table with a sample a row
  kairotic measure dome.vcd --signals shutter --on stm32f411/tim3 --clock 96MHz --freq 50Hz --pulse 1500us --need jitter=50ns
      one signal against a target";

impl MeasureArgs {
    /// The planned signals, with what the options require besides.
    ///
    /// # Errors
    /// As [`SpecOptions::all`]; a map or a clock to fit without a plan.
    pub fn plan<'c>(&self, catalogue: &'c PartLibrary) -> Result<Vec<SignalSpec<'c>>> {
        if !self.spec.is_given() {
            if self.fit_clock || !self.map.is_empty() {
                return Err(Fault::Usage {
                    message: "--map and --fit-clock mean nothing without a plan".to_owned(),
                    hint: "give --board FILE, or a target with --on".to_owned(),
                });
            }
            return Ok(Vec::new());
        }
        let mut plan: Vec<SignalSpec<'_>> =
            self.spec.all(catalogue)?.into_iter().map(|planned| planned.spec).collect();
        for SignalSpec { needs, load, .. } in &mut plan {
            for need in &self.need {
                need.require(needs, load.as_ref())?;
            }
        }
        Ok(plan)
    }
}

fn two_signals(text: &str) -> Result<(String, String), Refusal> {
    pair(text, ',').ok_or_else(|| {
        let message = format!("expected two signals with a comma between, found `{text}`");
        Refusal::new(message, "for example --between D0,D1")
    })
}

fn captured_planned(text: &str) -> Result<(String, String), Refusal> {
    pair(text, '=').ok_or_else(|| {
        Refusal::new(format!("expected CAPTURED=PLANNED, found `{text}`"), "for example --map D0=shutter")
    })
}

fn pair(text: &str, between: char) -> Option<(String, String)> {
    text.split_once(between).map(|(first, second)| (first.trim().to_owned(), second.trim().to_owned()))
}

//! The arguments of `measure`.

use std::path::PathBuf;

use clap::Args;
use kairotic_core::load::Load;
use kairotic_core::requirement::Needs;

use super::budget::need;
use super::capture::CaptureOptions;
use super::signal_spec::PlanOptions;
use crate::fault::Result;

/// What a recorder saw, measured: frequency, pulse, duty and jitter with their uncertainty.
///
/// Value change dumps, tables of times and levels or of samples, and sigrok session archives are read as a stream, whatever
/// their size. With a plan, by options or by a board file, each requirement is answered with pass, fail or cannot tell, and
/// what is off is put down to the registers, the clock or the software.
#[derive(Debug, Args)]
#[command(after_help = EXAMPLES)]
pub struct MeasureArgs {
    /// The capture; - for a pipe
    pub file: PathBuf,
    #[command(flatten)]
    pub capture: CaptureOptions,
    /// Two signals to hold against one another: phase, overlap, dead time
    #[arg(long, value_name = "FIRST,SECOND", help_heading = "Capture")]
    pub between: Vec<String>,
    /// Draw the first signal that has a period: its periods and edges over time, how they are spread, and its Allan
    /// deviation, to an SVG or PNG file
    #[arg(long, value_name = "FILE", help_heading = "Output")]
    pub plot: Option<PathBuf>,
    /// Replace the picture where the file is there already
    #[arg(long, requires = "plot", help_heading = "Output")]
    pub force: bool,
    #[command(flatten)]
    pub plan: PlanOptions,
    /// Which signal of the capture is which of the plan, where their names differ: D0=shutter,D1=dome
    #[arg(long, value_name = "CAPTURED=PLANNED", value_delimiter = ',', help_heading = "Plan")]
    pub map: Vec<String>,
    /// What is required of a signal that options plan: frequency, pulse, jitter or clock
    #[arg(long, value_name = "NAME=LIMIT", help_heading = "Plan", requires = "on")]
    need: Vec<String>,
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
  kairotic measure samples.csv --rate 1MHz --signals D0 --glitch 2us
      one column of a table with a sample a row
  kairotic measure dome.vcd --signals shutter --on stm32f411/tim3 --clock 96MHz --freq 50Hz --pulse 1500us --need jitter=50ns
      one signal against a target";

impl MeasureArgs {
    /// What the options require, besides what the plan does.
    ///
    /// # Errors
    /// [`Fault`](crate::fault::Fault) for requirements that there are not.
    pub fn needs(&self, mut needs: Needs, load: Option<&Load>) -> Result<Needs> {
        for text in &self.need {
            need(&mut needs, load, text)?;
        }
        Ok(needs)
    }
}

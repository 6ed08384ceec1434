//! The arguments of `survey`.

use std::path::PathBuf;

use clap::{ArgGroup, Args, ValueEnum};
use glob::Pattern;
use kairotic_core::quantity::Frequency;
use kairotic_core::signal::{Aim, Ask, Target};
use kairotic_core::survey::{SortBy, SurveyClock, SurveyRequest};

use super::board::{BoardOptions, BoardSignal};
use super::quantities::real_clock;
use super::target::TargetOptions;
use crate::fault::{Fault, Result};
use crate::part_library::PartLibrary;

/// One target on many timers, side by side.
///
/// Every kind of timer of every part makes the target as well as it can; identical timers are one row. The clock is
/// the one after reset, unless --clock says otherwise.
#[derive(Debug, Args)]
#[command(override_usage = "kairotic survey (--freq F | --period T | --board FILE --signal NAME) [OPTIONS]")]
#[command(after_help = EXAMPLES, group = ArgGroup::new("aim").args(["freq", "period", "board"]).required(true))]
#[command(group = ArgGroup::new("described").args(["duty", "pulse", "phase", "span", "min_bits"]).multiple(true).conflicts_with("board"))]
pub struct SurveyArgs {
    #[command(flatten)]
    target: TargetOptions,
    #[command(flatten)]
    board: BoardOptions,
    /// Only parts whose name matches, such as 'stm32*'; may be given several times
    #[arg(long = "part", value_name = "PATTERN", help_heading = "Choice")]
    parts: Vec<String>,
    /// The clock of every timer: default (after reset), max, or a frequency
    #[arg(long, value_name = "CLOCK", default_value = "default", help_heading = "Choice")]
    clock: String,
    /// Only timers that this pin can carry
    #[arg(long, value_name = "PIN", help_heading = "Choice")]
    pub pin: Option<String>,
    /// Insist on a mode by name, or on edge, centre or square
    #[arg(long, value_name = "MODE", help_heading = "Choice")]
    mode: Option<String>,
    /// Spread fractions of a tick over several periods, on timers that can
    #[arg(long, help_heading = "Choice")]
    dither: bool,
    /// Only rows with so many steps, in the span if there is one
    #[arg(long, value_name = "NUMBER", help_heading = "Choice")]
    pub min_steps: Option<u64>,
    /// What the rows are sorted by
    #[arg(long, value_enum, default_value_t = Sort::Score, help_heading = "Choice")]
    sort: Sort,
    /// Draw the steps of the first rows against frequency to an SVG or PNG file
    #[arg(long, value_name = "FILE", help_heading = "Output")]
    pub plot: Option<PathBuf>,
    /// Replace the picture where the file is there already
    #[arg(long, requires = "plot", help_heading = "Output")]
    pub force: bool,
}

const EXAMPLES: &str = "\
Examples:
  kairotic survey --freq 50Hz --span 900us..2100us --clock max
      which timer gives the shutter's servo the most positions?
  kairotic survey --freq 50Hz --span 900us..2100us --part 'stm32*' --min-steps 10000 --sort steps
      the same on some parts, with enough steps
  kairotic survey --board dome.toml --signal shutter --clock max
      the same for a signal of a board file
  kairotic survey --freq 44.1kHz --clock max --sort error
      who comes nearest?";

#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
enum Sort {
    Score,
    Error,
    Steps,
    Step,
    Jitter,
    Clock,
    Part,
}

impl SurveyArgs {
    /// What is wanted of every timer.
    ///
    /// # Errors
    /// [`Fault`] for texts that are no quantities.
    pub fn read(&self, catalogue: &PartLibrary) -> Result<SurveyRequest> {
        let clock = match self.clock.as_str() {
            "default" => SurveyClock::Default,
            "max" => SurveyClock::Highest,
            text => SurveyClock::Given(real_clock("clock", text)?),
        };
        let target = match self.board.signal(catalogue)? {
            Some(BoardSignal { board, signal }) => {
                // Another part has its own channels.
                let target = board.target(&signal)?;
                let asks = target.asks.into_iter().map(|ask| Ask { channel: None, ..ask });
                Target { asks: asks.collect(), ..target }
            }
            // One of the two is required.
            None => self.target.target(self.target.aim()?.unwrap_or(Aim::Frequency(Frequency::ZERO)))?,
        };
        Ok(SurveyRequest { target, clock, mode: self.mode.clone(), dither: self.dither })
    }

    /// The names that match one of the patterns; all where there is none.
    ///
    /// # Errors
    /// [`Fault::Usage`] for a pattern that is none, or that nothing matches.
    pub fn matching(&self, names: Vec<String>) -> Result<Vec<String>> {
        let mut patterns = Vec::new();
        for text in &self.parts {
            patterns.push(Pattern::new(&text.to_lowercase()).map_err(|error| Fault::Usage {
                message: format!("--part: expected a pattern, found `{text}`: {error}"),
                hint: "a star stands for any text: --part 'stm32*'".to_owned(),
            })?);
        }
        let fits =
            |name: &String| patterns.is_empty() || patterns.iter().any(|pattern| pattern.matches(name));
        let found: Vec<String> = names.into_iter().filter(fits).collect();
        if found.is_empty() {
            return Err(Fault::Usage {
                message: format!("--part: no part matches {}", self.parts.join(" or ")),
                hint: "`kairotic parts` lists them; a star stands for any text".to_owned(),
            });
        }
        Ok(found)
    }

    /// What the rows are sorted by.
    pub fn order(&self) -> SortBy {
        match self.sort {
            Sort::Score => SortBy::Score,
            Sort::Error => SortBy::Error,
            Sort::Steps => SortBy::Steps,
            Sort::Step => SortBy::Step,
            Sort::Jitter => SortBy::Jitter,
            Sort::Clock => SortBy::Clock,
            Sort::Part => SortBy::Part,
        }
    }
}

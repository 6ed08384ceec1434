//! The arguments of `survey`.

use clap::{ArgGroup, Args, ValueEnum};
use glob::Pattern;
use kairotic_core::survey::{SortBy, SurveyClock, SurveyRequest};
use kairotic_core::target::{Ask, Target};

use super::board::{BoardOptions, BoardSignal};
use super::plot::PlotOptions;
use super::signals;
use super::target::TargetOptions;
use super::typed::{Refusal, clock};
use crate::fault::{Fault, Result};
use crate::part_library::PartLibrary;

/// The arguments of `survey`.
///
/// Every kind of timer of every part makes the target as well as it can; identical timers are one row. The clock is
/// the one after reset, unless --clock says otherwise.
#[derive(Debug, Args)]
#[command(override_usage = "kairotic survey (--freq F | --period T | --board FILE --signal NAME) [OPTIONS]")]
#[command(after_help = EXAMPLES, group = ArgGroup::new("aim").args(["freq", "period", "board"]).required(true))]
#[command(mut_arg("board", |board| board.conflicts_with(signals::GROUP)))]
#[command(mut_arg("plot", |plot| plot.help(
    "Draw the steps of the first rows against frequency to an SVG or PNG file"
)))]
pub struct SurveyArgs {
    #[command(flatten)]
    target: TargetOptions,
    #[command(flatten)]
    board: BoardOptions,
    /// Only parts whose name matches, such as 'stm32*'; may be given several times
    #[arg(long = "part", value_name = "PATTERN", help_heading = "Choice", value_parser = pattern)]
    parts: Vec<Pattern>,
    /// The clock of every timer: default (after reset), max, or a frequency
    #[arg(long, value_name = "CLOCK", default_value = "default", help_heading = "Choice", value_parser = survey_clock)]
    clock: SurveyClock,
    /// Only timers that this pin can carry
    #[arg(long, value_name = "PIN", help_heading = "Choice")]
    pub pin: Option<String>,
    /// Use this mode: its name, or edge, centre or square
    #[arg(long, value_name = "MODE", help_heading = "Choice")]
    mode: Option<String>,
    /// Spread fractions of a tick over several periods, on timers that can
    #[arg(long, help_heading = "Choice")]
    dither: bool,
    /// Only rows with at least this many steps, in the span if there is one
    #[arg(long, value_name = "NUMBER", help_heading = "Choice")]
    pub min_steps: Option<u64>,
    /// Sort the rows by this
    #[arg(long, value_enum, default_value_t = Sort::Score, help_heading = "Choice")]
    sort: Sort,
    #[command(flatten)]
    pub plot: PlotOptions,
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
      which timer comes nearest?";

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
    /// A board file that is wrong; a target without a frequency.
    pub fn read(&self, catalogue: &PartLibrary) -> Result<SurveyRequest> {
        let target = match self.board.signal(catalogue)? {
            Some(BoardSignal { board, signal }) => {
                // Another part has its own channels.
                let target = board.target(&signal)?;
                let asks = target.asks.into_iter().map(|ask| Ask { channel: None, ..ask });
                Target { asks: asks.collect(), ..target }
            }
            None => self.target.target()?,
        };
        let target = Target { mode: self.mode.clone(), ..target };
        Ok(SurveyRequest { target, clock: self.clock, dither: self.dither })
    }

    /// The names that match one of the patterns; all where there is none.
    ///
    /// # Errors
    /// [`Fault::Usage`] for patterns that nothing matches.
    pub fn matching(&self, names: Vec<String>) -> Result<Vec<String>> {
        let fits =
            |name: &String| self.parts.is_empty() || self.parts.iter().any(|pattern| pattern.matches(name));
        let found: Vec<String> = names.into_iter().filter(fits).collect();
        if found.is_empty() {
            let patterns: Vec<&str> = self.parts.iter().map(Pattern::as_str).collect();
            return Err(Fault::Usage {
                message: format!("--part: no part matches {}", patterns.join(" or ")),
                hint: "`kairotic parts` lists them; a star stands for any text".to_owned(),
            });
        }
        Ok(found)
    }

    /// Sort the rows by this.
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

fn survey_clock(text: &str) -> Result<SurveyClock, Refusal> {
    Ok(match text {
        "default" => SurveyClock::Default,
        "max" => SurveyClock::Highest,
        text => SurveyClock::Given(clock(text)?),
    })
}

fn pattern(text: &str) -> Result<Pattern, Refusal> {
    Pattern::new(&text.to_lowercase()).map_err(|error| {
        Refusal::new(
            format!("expected a pattern, found `{text}`: {error}"),
            "a star stands for any text: --part 'stm32*'",
        )
    })
}

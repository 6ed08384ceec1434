//! The arguments of `parts`.

use std::path::PathBuf;

use clap::{Args, Subcommand};
use kairotic_core::part::{Ability, WantedTimer};

use super::location::Location;
use super::typed::Refusal;

/// The arguments of `parts`.
///
/// Without an argument: the parts. With a part: its timers and clocks. With PART/TIMER: the timer's dividers, modes,
/// registers and the laws they follow, each with the document that it comes from. --pin, --can and --search find timers among
/// all parts. `check FILE` tries a family file of your own.
#[derive(Debug, Args)]
#[command(after_help = EXAMPLES, args_conflicts_with_subcommands = true)]
pub struct PartsArgs {
    /// What to do with a family file.
    #[command(subcommand)]
    pub action: Option<PartsAction>,
    /// A part, or a timer of it
    #[arg(value_name = "PART[/TIMER]", value_parser = part_or_timer)]
    pub location: Option<Location>,
    /// The pins of the part: which outputs each can carry, and which share a period
    #[arg(long, requires = "location")]
    pub pins: bool,
    #[command(flatten)]
    pub wanted: WantedTimers,
}

/// What can be done with a family file.
#[derive(Debug, Subcommand)]
pub enum PartsAction {
    /// Read a family file as --parts does, and say what of it a register package could decide
    Check {
        /// The family file
        #[arg(value_name = "FILE")]
        file: PathBuf,
    },
}

/// What timers are looked for, in all parts or in the one that is named.
#[derive(Debug, Args)]
#[group(conflicts_with = "pins")]
pub struct WantedTimers {
    /// Timers that come out of a pin, such as PA8
    #[arg(long, value_name = "PIN", help_heading = "Look for")]
    pin: Option<String>,
    /// Timers that have something: 32 bit, dead time, centre, capture, count, dither, buffered
    #[arg(long, value_name = "WORDS", help_heading = "Look for", value_parser = ability)]
    can: Vec<Ability>,
    /// Timers in whose title, or in whose part's name or title, a word stands
    #[arg(long, value_name = "WORD", help_heading = "Look for")]
    search: Option<String>,
}

impl WantedTimers {
    /// What is looked for.
    pub fn wanted(&self) -> WantedTimer {
        WantedTimer { pin: self.pin.clone(), can: self.can.clone(), word: self.search.clone() }
    }

    /// Whether anything is looked for.
    pub const fn is_given(&self) -> bool {
        self.pin.is_some() || !self.can.is_empty() || self.search.is_some()
    }
}

const EXAMPLES: &str = "\
Examples:
  kairotic parts
  kairotic parts samd21g18
  kairotic parts samd21g18/tcc0
  kairotic parts stm32f446 --pins
  kairotic parts --pin PA8 --can \"dead time\"
  kairotic parts --search samd --can \"24 bit\"
  kairotic parts --parts ./my-parts --format markdown
  kairotic parts check ./my-parts/domechip.toml";

fn ability(text: &str) -> Result<Ability, Refusal> {
    Ok(text.parse()?)
}

fn part_or_timer(text: &str) -> Result<Location, Refusal> {
    let location = text.parse::<Location>().ok().filter(|location| location.channel.is_none());
    location.ok_or_else(|| {
        let message = format!("expected PART or PART/TIMER, found `{text}`");
        Refusal::new(message, "for example `kairotic parts stm32f411/tim3`")
    })
}

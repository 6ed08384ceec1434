//! The arguments of `parts`.

use clap::Args;

/// Browse the catalogue.
///
/// Without an argument: the parts. With a part: its timers and clocks. With PART/TIMER: the timer's dividers, modes,
/// registers and the laws they follow, each with the document that it comes from.
#[derive(Debug, Args)]
#[command(after_help = EXAMPLES)]
pub struct PartsArgs {
    /// A part, or a timer of it
    #[arg(value_name = "PART[/TIMER]")]
    pub path: Option<String>,
    /// The pins of the part: which outputs each can carry, and which share a period
    #[arg(long, requires = "path")]
    pub pins: bool,
}

const EXAMPLES: &str = "\
Examples:
  kairotic parts
  kairotic parts samd21g18
  kairotic parts samd21g18/tcc0
  kairotic parts stm32f446 --pins
  kairotic parts --parts ./my-parts --format markdown";

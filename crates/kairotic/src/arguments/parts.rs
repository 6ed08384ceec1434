//! The arguments of `parts`.

use clap::Args;

use super::location::Location;
use super::typed::Refusal;

/// The arguments of `parts`.
///
/// Without an argument: the parts. With a part: its timers and clocks. With PART/TIMER: the timer's dividers, modes,
/// registers and the laws they follow, each with the document that it comes from.
#[derive(Debug, Args)]
#[command(after_help = EXAMPLES)]
pub struct PartsArgs {
    /// A part, or a timer of it
    #[arg(value_name = "PART[/TIMER]", value_parser = part_or_timer)]
    pub location: Option<Location>,
    /// The pins of the part: which outputs each can carry, and which share a period
    #[arg(long, requires = "location")]
    pub pins: bool,
}

const EXAMPLES: &str = "\
Examples:
  kairotic parts
  kairotic parts samd21g18
  kairotic parts samd21g18/tcc0
  kairotic parts stm32f446 --pins
  kairotic parts --parts ./my-parts --format markdown";

fn part_or_timer(text: &str) -> Result<Location, Refusal> {
    let location = text.parse::<Location>().ok().filter(|location| location.channel.is_none());
    location.ok_or_else(|| {
        let message = format!("expected PART or PART/TIMER, found `{text}`");
        Refusal::new(message, "for example `kairotic parts stm32f411/tim3`")
    })
}

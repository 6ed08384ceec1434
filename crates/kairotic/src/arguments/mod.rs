//! What is typed. Each command's arguments are read here as text and turned into core types; nothing is computed.

pub mod board;
pub mod budget;
pub mod capture;
pub mod check;
pub mod clock;
mod command;
mod conditions;
pub mod decode;
pub mod demo;
pub mod derive;
pub mod emit;
mod files;
pub mod location;
pub mod measure;
pub mod moves;
mod needs;
pub mod parts;
pub mod played;
mod plot;
pub mod print;
pub mod refused;
pub mod routing;
pub mod scale;
pub mod sequence;
mod shape;
pub mod signal_spec;
pub mod signals;
pub mod survey;
pub mod tach;
mod target;
mod timed_move;
pub mod typed;
pub mod wave;
pub mod why;

use std::path::PathBuf;

use clap::{Args, Parser, ValueEnum};

use self::command::commands;

/// Timer registers for a PWM signal: derived, explained, decoded.
#[derive(Debug, Parser)]
#[command(name = "kairotic", version, max_term_width = 100, after_help = EXAMPLES, subcommand_required = true)]
#[command(arg_required_else_help = true, disable_help_subcommand = true)]
pub struct Cli {
    /// What to do.
    #[command(subcommand)]
    pub command: Command,
    /// Options that every command has.
    #[command(flatten)]
    pub common: Common,
}

const EXAMPLES: &str = "\
Examples, from the controller of an observatory dome:
  kairotic derive --on stm32f411/tim3 --clock 100MHz --freq 50Hz --span 900us..2100us --pulse 1500us
      registers for the servo of the dome's shutter
  kairotic decode --on stm32f411/tim3 --clock 100MHz PSC=40 ARR=50000 CCR1=3750 --expect 50Hz
      what is wrong with values found in its old firmware
  kairotic parts stm32f411
      the timers of a part
  kairotic demo
      a short tour

Quantities are numbers with a unit: 25kHz, 1.5ms, 900us, 35%, 48MHz+-50ppm; ranges have two dots.
Exit codes: 0 fine, 1 a requirement is missed, 2 bad input or out of reach, 3 a file cannot be read or written.";

commands! {
    Parts(parts::PartsArgs) "parts":
        "Browse the catalogue: parts, the timers of a part, the laws of a timer";
    Clock(clock::ClockArgs) "clock":
        "Search the clock tree: how a frequency reaches a timer, alone or together with the timer's own setting";
    Derive(derive::DeriveArgs) "derive":
        "From a wanted signal to register values, their reason, and what the pin will do";
    Decode(decode::DecodeArgs) "decode":
        "From register values back to the signal, and what is probably wrong with them";
    Survey(survey::SurveyArgs) "survey":
        "One target on many timers: what each kind makes of it, side by side";
    Scale(scale::ScaleArgs) "scale":
        "From an input range to the compare value, in whole-number arithmetic that is proved, as a table and as code";
    Move(moves::MoveArgs) "move":
        "From here to there: steps, ramp and time of a stepper, each edge at the tick nearest to the ideal";
    Sequence(sequence::SequenceArgs) "sequence":
        "Levels over time: several signals on one line, each as the compare values of its periods";
    Budget(budget::BudgetArgs) "budget":
        "Error budget of a signal: resolution, jitter and clock error, in the worst case and likely";
    Tach(tach::TachArgs) "tach":
        "Speed measurement from pulses: a timer set up for it, or the speed in a capture";
    Wave(wave::WaveArgs) "wave":
        "The waveform that a pin should have, as a capture for rehearsal: with a clock that is off, with jitter, with faults";
    Measure(measure::MeasureArgs) "measure":
        "What a recorder saw: frequency, pulse and jitter with their uncertainty, alone or against a plan";
    Emit(emit::EmitArgs) "emit":
        "Code from a board file: everything from reset to moving pins, and a function for each signal";
    Check(check::CheckArgs) "check":
        "Board files as a whole, and the code made from them: for every commit";
    Why(why::WhyArgs) "why":
        "A finding, a requirement or a word, explained: what it means, an example, what to do";
    Demo(demo::DemoArgs) "demo":
        "A short tour: the signals of an observatory dome's controller";
    Completions(print::CompletionsArgs) "completions":
        "Print a completion script for a shell";
    Manual(print::ManualArgs) "manual":
        "Print a manual page in roff, for `man -l -`";
}

/// Options that every command has.
#[derive(Debug, Args)]
pub struct Common {
    /// Output format
    #[arg(long, global = true, value_enum, default_value_t = Format::Text, help_heading = "Output")]
    pub format: Format,
    /// When text is coloured; a set NO_COLOR means never unless this says otherwise
    #[arg(long, global = true, value_enum, default_value_t = Color::Auto, value_name = "WHEN", help_heading = "Output")]
    pub color: Color,
    /// A family file of your own, or a folder of them; may be given several times
    #[arg(long = "parts", global = true, value_name = "DIR-or-FILE", help_heading = "Catalogue")]
    pub own_parts: Vec<PathBuf>,
}

/// How a result is written.
//
// Plain comments: documented values would each take a line of every command's help.
#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub enum Format {
    Text,
    Json,
    Csv,
    Markdown,
    Sarif,
    Junit,
}

/// When text is coloured.
#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub enum Color {
    Auto,
    Always,
    Never,
}

#[cfg(test)]
mod tests {
    use clap::CommandFactory;

    #[test]
    fn the_command_line_is_well_formed() {
        super::Cli::command().debug_assert();
    }
}

//! The commands by name. What a command takes is made only when it is the one that was named: to make the options of all
//! of them would take longer than most answers.

use clap::error::ErrorKind;
use clap::{ArgMatches, Args, FromArgMatches, Subcommand};

use super::budget::BudgetArgs;
use super::clock::ClockArgs;
use super::decode::DecodeArgs;
use super::demo::DemoArgs;
use super::derive::DeriveArgs;
use super::measure::MeasureArgs;
use super::parts::PartsArgs;
use super::print::{CompletionsArgs, ManualArgs};
use super::scale::ScaleArgs;
use super::survey::SurveyArgs;
use super::tach::TachArgs;
use super::wave::WaveArgs;

/// A command with its options, those that all commands share after its own.
fn with_arguments<A: Args>(command: clap::Command, about: &'static str) -> clap::Command {
    let shared: Vec<_> = command.get_arguments().map(|option| option.get_id().to_string()).collect();
    let command = A::augment_args(command).about(about).long_about(None);
    // To change an option, even into itself, puts it last.
    shared.into_iter().fold(command, |command, id| command.mut_arg(id, |option| option))
}

macro_rules! commands {
    ($($command:ident($arguments:ty) $name:literal: $about:literal;)*) => {
        /// The commands.
        #[derive(Debug)]
        pub enum Command {
            $(
                #[doc = $about]
                $command(Box<$arguments>),
            )*
        }

        impl Subcommand for Command {
            fn augment_subcommands(program: clap::Command) -> clap::Command {
                program$(.subcommand(clap::Command::new($name).about($about).defer(|command| {
                    with_arguments::<$arguments>(command, $about)
                })))*
            }

            fn augment_subcommands_for_update(program: clap::Command) -> clap::Command {
                Self::augment_subcommands(program)
            }

            fn has_subcommand(name: &str) -> bool {
                [$($name),*].contains(&name)
            }
        }

        impl FromArgMatches for Command {
            fn from_arg_matches(matches: &ArgMatches) -> Result<Self, clap::Error> {
                match matches.subcommand() {
                    $(Some(($name, given)) => {
                        <$arguments>::from_arg_matches(given).map(|read| Self::$command(Box::new(read)))
                    })*
                    _ => Err(clap::Error::new(ErrorKind::MissingSubcommand)),
                }
            }

            fn update_from_arg_matches(&mut self, matches: &ArgMatches) -> Result<(), clap::Error> {
                *self = Self::from_arg_matches(matches)?;
                Ok(())
            }
        }
    };
}

commands! {
    Parts(PartsArgs) "parts":
        "Browse the catalogue: parts, the timers of a part, the laws of a timer";
    Clock(ClockArgs) "clock":
        "Search the clock tree: how a frequency reaches a timer, alone or together with the timer's own setting";
    Derive(DeriveArgs) "derive":
        "From a wanted signal to register values, their reason, and what the pin will do";
    Decode(DecodeArgs) "decode":
        "From register values back to the signal, and what is probably wrong with them";
    Survey(SurveyArgs) "survey":
        "One target on many timers: what each kind makes of it, side by side";
    Scale(ScaleArgs) "scale":
        "From an input range to the compare value, in whole-number arithmetic that is proved, as a table and as code";
    Budget(BudgetArgs) "budget":
        "Error budget of a signal: resolution, jitter and clock error, in the worst case and likely";
    Tach(TachArgs) "tach":
        "Speed measurement from pulses: a timer set up for it, or the speed in a capture";
    Wave(WaveArgs) "wave":
        "The waveform that a pin should have, as a capture for rehearsal: with a clock that is off, with jitter, with faults";
    Measure(MeasureArgs) "measure":
        "What a recorder saw: frequency, pulse and jitter with their uncertainty, alone or against a plan";
    Demo(DemoArgs) "demo":
        "A short tour: the signals of an observatory dome's controller";
    Completions(CompletionsArgs) "completions":
        "Print a completion script for a shell";
    Manual(ManualArgs) "manual":
        "Print a manual page in roff, for `man -l -`";
}

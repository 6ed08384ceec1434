//! What a list of commands becomes. What a command takes is made only when it is the one that was named: to make the options of
//! all of them would take longer than most answers.

use clap::Args;

/// A command with its options, those that all commands share after its own. What its arguments' documentation says after the
/// first paragraph stands above the examples: as clap's long description it would spread every option over several lines.
pub(super) fn with_arguments<A: Args>(command: clap::Command, about: &'static str) -> clap::Command {
    let shared: Vec<_> = command.get_arguments().map(|option| option.get_id().to_string()).collect();
    let command = A::augment_args(command);
    let told = command.get_long_about().map(ToString::to_string).unwrap_or_default();
    let details = told.split_once("\n\n").map(|(_, details)| details.to_owned());
    let examples = command.get_after_help().map(ToString::to_string);
    let after: Vec<String> = details.into_iter().chain(examples).collect();
    let command = command.about(about).long_about(None).after_help(after.join("\n\n"));
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

        impl clap::Subcommand for Command {
            fn augment_subcommands(program: clap::Command) -> clap::Command {
                program$(.subcommand(clap::Command::new($name).about($about).defer(|given| {
                    command::with_arguments::<$arguments>(given, $about)
                })))*
            }

            fn augment_subcommands_for_update(program: clap::Command) -> clap::Command {
                Self::augment_subcommands(program)
            }

            fn has_subcommand(name: &str) -> bool {
                [$($name),*].contains(&name)
            }
        }

        impl clap::FromArgMatches for Command {
            fn from_arg_matches(matches: &clap::ArgMatches) -> Result<Self, clap::Error> {
                match matches.subcommand() {
                    $(Some(($name, given)) => {
                        <$arguments as clap::FromArgMatches>::from_arg_matches(given).map(|read| Self::$command(Box::new(read)))
                    })*
                    _ => Err(clap::Error::new(clap::error::ErrorKind::MissingSubcommand)),
                }
            }

            fn update_from_arg_matches(&mut self, matches: &clap::ArgMatches) -> Result<(), clap::Error> {
                *self = Self::from_arg_matches(matches)?;
                Ok(())
            }
        }
    };
}

pub(super) use commands;

//! `--duty` and `--pulse`, each of which may be given several times: their order on the command line counts.

use clap::error::ErrorKind;
use clap::{Arg, ArgAction, ArgMatches, Args, Command, FromArgMatches};
use kairotic_core::quantity::parse;
use kairotic_core::setting::{Active, Ask};

use super::quantities::read;
use crate::fault::Result;

/// The wanted active times in the order in which they were typed.
#[derive(Debug, Clone, Default)]
pub struct Signals(Vec<Typed>);

/// One `--duty` or `--pulse`.
#[derive(Debug, Clone)]
struct Typed {
    option: &'static str,
    value: String,
}

impl Signals {
    /// The signals as the core wants them.
    ///
    /// # Errors
    /// [`Fault::Option`](crate::fault::Fault::Option).
    pub fn asks(&self) -> Result<Vec<Ask>> {
        self.0.iter().map(Typed::ask).collect()
    }
}

impl Typed {
    fn ask(&self) -> Result<Ask> {
        let (channel, text) = match self.value.split_once('=') {
            Some((channel, text)) => (Some(channel.trim().to_lowercase()), text),
            None => (None, self.value.as_str()),
        };
        let active = match self.option {
            "duty" => Active::Duty(read("duty", text, parse::quantity)?),
            _ => Active::Pulse(read("pulse", text, parse::quantity)?),
        };
        Ok(Ask { channel, active })
    }
}

impl FromArgMatches for Signals {
    fn from_arg_matches(matches: &ArgMatches) -> Result<Self, clap::Error> {
        let mut typed: Vec<(usize, Typed)> = Vec::new();
        for option in ["duty", "pulse"] {
            let Some(values) = matches.get_many::<String>(option) else { continue };
            let places = matches.indices_of(option).ok_or_else(|| clap::Error::new(ErrorKind::Format))?;
            typed.extend(
                places.zip(values).map(|(place, value)| (place, Typed { option, value: value.clone() })),
            );
        }
        typed.sort_by_key(|(place, _)| *place);
        Ok(Self(typed.into_iter().map(|(_, typed)| typed).collect()))
    }

    fn update_from_arg_matches(&mut self, matches: &ArgMatches) -> Result<(), clap::Error> {
        *self = Self::from_arg_matches(matches)?;
        Ok(())
    }
}

impl Args for Signals {
    fn augment_args(command: Command) -> Command {
        let option = |name: &'static str, value: &'static str, help: &'static str| {
            Arg::new(name)
                .long(name)
                .value_name(value)
                .help(help)
                .action(ArgAction::Append)
                .allow_hyphen_values(true)
                .help_heading("Target")
        };
        command
            .arg(option(
                "duty",
                "[CHANNEL=]DUTY",
                "Share of the period that the output is active, such as 35%; several go to the channels in order",
            ))
            .arg(option(
                "pulse",
                "[CHANNEL=]TIME",
                "Time that the output is active, such as 1500us; several go to the channels in order",
            ))
    }

    fn augment_args_for_update(command: Command) -> Command {
        Self::augment_args(command)
    }
}

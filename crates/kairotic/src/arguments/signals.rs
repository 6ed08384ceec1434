//! `--duty`, `--pulse` and `--phase`, each of which may be given several times: their order on the command line counts.

use clap::error::ErrorKind;
use clap::{Arg, ArgAction, ArgMatches, Args, Command, FromArgMatches};
use kairotic_core::error::OrOverflow;
use kairotic_core::quantity::{Angle, Duty, DutyDimension, Rational, parse};
use kairotic_core::signal::{Active, Ask};

use super::quantities::read;
use crate::fault::{Fault, Result};

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
    /// [`Fault::Option`].
    pub fn asks(&self) -> Result<Vec<Ask>> {
        let phases = self.0.iter().filter(|typed| typed.option == "phase");
        let signals = self.0.iter().filter(|typed| typed.option != "phase");
        let mut asks = signals.map(Typed::ask).collect::<Result<Vec<Ask>>>()?;
        let mut unnamed = 0;
        for typed in phases {
            let (channel, start) = typed.start()?;
            // A phase without a name goes to the signals in order, as they go to the channels.
            let place = match &channel {
                Some(label) => asks.iter().position(|ask| ask.channel.as_ref() == Some(label)),
                None => {
                    unnamed += 1;
                    Some(unnamed - 1)
                }
            };
            match place.and_then(|place| asks.get_mut(place)) {
                Some(ask) => ask.start = Some(start),
                None => {
                    return Err(Fault::Usage {
                        message: format!("--phase {}: there is no signal that it could belong to", typed.value),
                        hint: "give a --duty or --pulse for each --phase, with the same channel name if it has one"
                            .to_owned(),
                    });
                }
            }
        }
        Ok(asks)
    }
}

impl Typed {
    fn parts(&self) -> (Option<String>, &str) {
        match self.value.split_once('=') {
            Some((channel, text)) => (Some(channel.trim().to_lowercase()), text),
            None => (None, self.value.as_str()),
        }
    }

    /// A start as a share of the period or as a time, of a whole turn at most.
    fn start(&self) -> Result<(Option<String>, Active)> {
        let (channel, text) = self.parts();
        if text.contains('%') {
            return Ok((channel, Active::Duty(read("phase", text, parse::quantity)?)));
        }
        if text.trim_end().ends_with("deg") {
            let angle: Angle = read("phase", text, parse::quantity)?;
            let turns = Rational::new(angle.value().floor(), 1).and_then(|whole| angle.value().minus(whole));
            return Ok((channel, Active::Duty(Duty::new(turns.or_overflow("phase")?))));
        }
        Ok((channel, Active::Pulse(read("phase", text, parse::quantity)?)))
    }

    fn ask(&self) -> Result<Ask> {
        let (channel, text) = self.parts();
        let active = match self.option {
            "duty" => {
                Active::Duty(read("duty", text, |text| parse::quantity::<DutyDimension>(text)?.share())?)
            }
            _ => Active::Pulse(read("pulse", text, parse::quantity)?),
        };
        Ok(Ask { channel, active, start: None })
    }
}

impl FromArgMatches for Signals {
    fn from_arg_matches(matches: &ArgMatches) -> Result<Self, clap::Error> {
        let mut typed: Vec<(usize, Typed)> = Vec::new();
        for option in ["duty", "pulse", "phase"] {
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
            .arg(option(
                "phase",
                "[CHANNEL=]PHASE",
                "Start of the pulse in the period, such as 90deg, 25% or 40us, where the hardware can move it",
            ))
    }

    fn augment_args_for_update(command: Command) -> Command {
        Self::augment_args(command)
    }
}

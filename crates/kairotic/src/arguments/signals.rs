//! `--duty`, `--pulse` and `--phase`, each of which may be given several times: their order on the command line counts.

use clap::error::ErrorKind;
use clap::{Arg, ArgAction, ArgGroup, ArgMatches, Args, Command, FromArgMatches};
use kairotic_core::error::OrOverflow;
use kairotic_core::quantity::{Angle, Duty, DutyDimension, Rational, parse};
use kairotic_core::target::{Active, Ask};

use super::typed::Refusal;
use crate::fault::{Fault, Result};

/// The group of the options that say what is wanted.
pub const GROUP: &str = "wanted";

/// The wanted active times in the order in which they were typed.
#[derive(Debug, Clone, Default)]
pub struct Signals(Vec<TypedTime>);

/// One `--duty`, `--pulse` or `--phase`.
#[derive(Debug, Clone)]
struct TypedTime {
    /// As it was typed.
    text: String,
    /// The channel's label, where one was named.
    channel: Option<String>,
    means: Meaning,
}

/// What one of the options says.
#[derive(Debug, Clone, Copy)]
enum Meaning {
    /// How long the output is active.
    Active(Active),
    /// When that begins.
    Start(Active),
}

impl Signals {
    /// The signals as the core wants them.
    ///
    /// # Errors
    /// [`Fault::Usage`] for a phase without a signal.
    pub fn asks(&self) -> Result<Vec<Ask>> {
        let active = |typed: &TypedTime| match typed.means {
            Meaning::Active(active) => Some(Ask { channel: typed.channel.clone(), active, start: None }),
            Meaning::Start(_) => None,
        };
        let mut asks: Vec<Ask> = self.0.iter().filter_map(active).collect();
        let mut unnamed = 0;
        for TypedTime { text, channel, means } in &self.0 {
            let Meaning::Start(start) = means else { continue };
            // A phase without a name goes to the signals in order, as they go to the channels.
            let place = match channel {
                Some(_) => asks.iter().position(|ask| ask.channel == *channel),
                None => {
                    unnamed += 1;
                    Some(unnamed - 1)
                }
            };
            let ask = place.and_then(|place| asks.get_mut(place)).ok_or_else(|| Fault::Usage {
                message: format!("--phase {text}: there is no signal that it could belong to"),
                hint: "give a --duty or --pulse for each --phase, with the same channel name if it has one"
                    .to_owned(),
            })?;
            ask.start = Some(*start);
        }
        Ok(asks)
    }
}

impl TypedTime {
    /// What an option's text means, after the channel that may stand before it.
    fn of(text: &str, meaning: impl FnOnce(&str) -> Result<Meaning, Refusal>) -> Result<Self, Refusal> {
        let (channel, value) = match text.split_once('=') {
            Some((channel, value)) => (Some(channel.trim().to_lowercase()), value),
            None => (None, text),
        };
        Ok(Self { text: text.to_owned(), channel, means: meaning(value)? })
    }
}

fn duty(text: &str) -> Result<TypedTime, Refusal> {
    TypedTime::of(text, |text| {
        Ok(Meaning::Active(Active::Duty(parse::quantity::<DutyDimension>(text)?.share()?)))
    })
}

fn pulse(text: &str) -> Result<TypedTime, Refusal> {
    TypedTime::of(text, |text| Ok(Meaning::Active(Active::Pulse(parse::quantity(text)?))))
}

/// A start as a share of the period or as a time, of a whole turn at most.
fn phase(text: &str) -> Result<TypedTime, Refusal> {
    TypedTime::of(text, |text| {
        let start = if text.contains('%') {
            Active::Duty(parse::quantity(text)?)
        } else if text.trim_end().ends_with("deg") {
            let angle: Angle = parse::quantity(text)?;
            let turns = Rational::new(angle.value().floor(), 1).and_then(|whole| angle.value().minus(whole));
            Active::Duty(Duty::new(turns.or_overflow("phase")?))
        } else {
            Active::Pulse(parse::quantity(text)?)
        };
        Ok(Meaning::Start(start))
    })
}

impl FromArgMatches for Signals {
    fn from_arg_matches(matches: &ArgMatches) -> Result<Self, clap::Error> {
        let mut typed: Vec<(usize, TypedTime)> = Vec::new();
        for option in ["duty", "pulse", "phase"] {
            let Some(values) = matches.get_many::<TypedTime>(option) else { continue };
            let places = matches.indices_of(option).ok_or_else(|| clap::Error::new(ErrorKind::Format))?;
            typed.extend(places.zip(values.cloned()));
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
                .group(GROUP)
        };
        command
            .group(ArgGroup::new(GROUP).multiple(true))
            .arg(option(
                "duty",
                "[CHANNEL=]DUTY",
                "Share of the period that the output is active, such as 35%; several go to the channels in order",
            ).value_parser(duty))
            .arg(option(
                "pulse",
                "[CHANNEL=]TIME",
                "Time that the output is active, such as 1500us; several go to the channels in order",
            ).value_parser(pulse))
            .arg(option(
                "phase",
                "[CHANNEL=]PHASE",
                "Start of the pulse in the period, such as 90deg, 25% or 40us, where the hardware can move it",
            ).value_parser(phase))
    }

    fn augment_args_for_update(command: Command) -> Command {
        Self::augment_args(command)
    }
}

//! Where: `PART/TIMER` or `PART/TIMER/CHANNEL`, or a pin of the part.

use std::str::FromStr;

use clap::Args;
use kairotic_core::part::{Part, PinOutput, TimerUse};
use serde::Serialize;

use super::typed::{Refusal, text};
use crate::fault::{Fault, Result};
use crate::part_library::PartLibrary;

/// A part, perhaps one of its timers, and perhaps one of that timer's channels, all in lower case.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Location {
    /// The part.
    pub part: String,
    /// The timer.
    pub timer: Option<String>,
    /// The channel's label.
    pub channel: Option<String>,
}

impl FromStr for Location {
    type Err = Refusal;

    fn from_str(text: &str) -> Result<Self, Refusal> {
        let lower = text.to_lowercase();
        let steps: Vec<&str> = lower.split('/').collect();
        let (part, timer, channel) = match steps.as_slice() {
            [part] => (part, None, None),
            [part, timer] => (part, Some(timer), None),
            [part, timer, channel] => (part, Some(timer), Some(channel)),
            _ => return Err(wrong(text)),
        };
        if steps.iter().any(|step| step.is_empty()) {
            return Err(wrong(text));
        }
        let owned = |step: &&str| (*step).to_owned();
        Ok(Self { part: owned(part), timer: timer.map(owned), channel: channel.map(owned) })
    }
}

fn wrong(text: &str) -> Refusal {
    Refusal::new(
        format!("expected PART/TIMER or PART/TIMER/CHANNEL, found `{text}`"),
        "for example --on stm32f411/tim3 or --on stm32f411/tim3/1; `kairotic parts` lists the parts",
    )
}

impl Location {
    /// The timer; the part alone is enough if it has only one.
    ///
    /// # Errors
    /// A part that is not in the catalogue, and one of which a timer has to be named.
    pub fn timer<'c>(&self, catalogue: &'c PartLibrary) -> Result<TimerUse<'c>> {
        let part = catalogue.part(&self.part)?;
        match (&self.timer, part.timers.as_slice()) {
            (Some(timer), _) => Ok(TimerUse::of(part, timer)),
            (None, [timer]) => Ok(TimerUse::of(part, &timer.name)),
            (None, timers) => {
                let timers: Vec<&str> = timers.iter().map(|timer| timer.name.as_str()).collect();
                let name = &self.part;
                Err(Fault::Usage {
                    message: format!("--on: expected PART/TIMER or PART/TIMER/CHANNEL, found `{name}`"),
                    hint: format!(
                        "its timers: {}; `kairotic survey --part {name}` compares them",
                        timers.join(", ")
                    ),
                })
            }
        }
    }

    /// The location as it was typed.
    fn typed(&self) -> String {
        let rest = [&self.timer, &self.channel].into_iter().flatten();
        rest.fold(self.part.clone(), |typed, step| format!("{typed}/{step}"))
    }
}

/// Where a signal is: the timer, or the pin that it comes out of.
#[derive(Debug, Args)]
pub struct LocationOptions {
    /// The timer, and perhaps the channel; a part alone means its only timer, with --pin the pin's, or in `derive` the
    /// best
    #[arg(long, value_name = "PART/TIMER[/CHANNEL]", value_parser = text::<Location>)]
    on: Option<Location>,
    /// The pin that the signal comes out of: it says which timer and channel; of several, `derive` takes the best
    #[arg(long, value_name = "PIN", requires = "on")]
    pin: Option<String>,
}

/// A timer's output as it was located.
#[derive(Debug, Clone)]
pub struct Located<'c> {
    /// The timer.
    pub on: TimerUse<'c>,
    /// The channel's label, where one was named.
    pub channel: Option<String>,
    /// The pin, where one was named.
    pub pin: Option<PinChoice>,
}

/// A pin with the output that it carries, and the pins that share its timer.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct PinChoice {
    /// The output.
    #[serde(flatten)]
    pub output: PinOutput,
    /// The other pins of the same timer.
    pub sharing: Vec<String>,
    /// How a pin is given an output.
    pub select: String,
}

impl PinChoice {
    /// What a pin of a part carries.
    ///
    /// # Errors
    /// As [`Part::output_on`].
    pub fn of(part: &Part, pin: &str, timer: Option<&str>) -> kairotic_core::Result<Self> {
        Ok(Self::with(part, part.output_on(pin, timer)?))
    }

    /// A pin with the output of a timer that it is known to carry.
    pub fn carrying(part: &Part, pin: &str, (timer, channel): (&str, Option<&str>)) -> Self {
        let carried = part.outputs_on(pin, Some(timer)).unwrap_or_default();
        let found =
            carried.into_iter().find(|output| channel.is_none_or(|channel| output.channel == channel));
        let channel = channel.unwrap_or_default().to_owned();
        let by = part.pinout.as_ref().map_or_else(String::new, |_| "any pin".to_owned());
        let free = PinOutput { pin: pin.to_owned(), timer: timer.to_owned(), channel, by };
        Self::with(part, found.unwrap_or(free))
    }

    /// A pin with one of the outputs that it can carry.
    fn with(part: &Part, output: PinOutput) -> Self {
        let pinout = part.pinout.as_ref();
        let sharing = pinout.map(|pinout| pinout.sharing(&output.timer)).unwrap_or_default();
        Self {
            sharing: sharing.into_iter().filter(|other| *other != output.pin).collect(),
            select: pinout.map(|pinout| pinout.select.clone()).unwrap_or_default(),
            output,
        }
    }
}

impl LocationOptions {
    /// Whether a place is named.
    pub const fn is_given(&self) -> bool {
        self.on.is_some()
    }

    /// What `--on` says.
    fn named(&self) -> Result<&Location> {
        self.on.as_ref().ok_or_else(|| Fault::Usage {
            message: "missing --on PART/TIMER".to_owned(),
            hint: "for example --on stm32f411/tim3; `kairotic parts` lists the parts".to_owned(),
        })
    }

    /// Every place that is meant: those of a pin that several timers serve, and all timers of a part that is named
    /// alone.
    ///
    /// # Errors
    /// As [`LocationOptions::one`], but for several places.
    pub fn all<'c>(&self, catalogue: &'c PartLibrary) -> Result<Vec<Located<'c>>> {
        let named = self.named()?;
        let part = catalogue.part(&named.part)?;
        match (&self.pin, &named.timer) {
            (None, None) => {
                let at = |timer: &String| Located { on: TimerUse::of(part, timer), channel: None, pin: None };
                Ok(part.timers.iter().map(|timer| at(&timer.name)).collect())
            }
            (None, Some(_)) => Ok(vec![self.one(catalogue)?]),
            (Some(pin), timer) => {
                let whole = catalogue.whole_part(&named.part)?;
                if let Some(timer) = timer {
                    whole.instance(timer)?;
                }
                let mut outputs = whole.outputs_on(pin, timer.as_deref())?;
                let carried = outputs.first().map(PinOutput::output).unwrap_or_default();
                if let Some(channel) = &named.channel {
                    outputs.retain(|output| output.channel.is_empty() || output.channel == *channel);
                }
                if outputs.is_empty() {
                    let on = named.typed();
                    return Err(Fault::Usage {
                        message: format!("--pin: {pin} carries {carried}, not the channel of --on {on}"),
                        hint: "leave the channel out: the pin says it".to_owned(),
                    });
                }
                let located = |mut output: PinOutput| {
                    // Where any pin will do, the channel is the one that was named, or is left open.
                    if let (true, Some(channel)) = (output.channel.is_empty(), &named.channel) {
                        channel.clone_into(&mut output.channel);
                    }
                    let channel = Some(output.channel.clone()).filter(|channel| !channel.is_empty());
                    let on = TimerUse::of(part, &output.timer);
                    Located { on, channel, pin: Some(PinChoice::with(whole, output)) }
                };
                Ok(outputs.into_iter().map(located).collect())
            }
        }
    }

    /// The place, and the pin where one was named.
    ///
    /// # Errors
    /// [`Fault`] for names that are not there, and for a pin that carries no output or several.
    pub fn one<'c>(&self, catalogue: &'c PartLibrary) -> Result<Located<'c>> {
        let named = self.named()?;
        let Some(pin) = &self.pin else {
            return Ok(Located { on: named.timer(catalogue)?, channel: named.channel.clone(), pin: None });
        };
        let pin = PinChoice::of(catalogue.whole_part(&named.part)?, pin, named.timer.as_deref())?;
        let on = TimerUse::of(catalogue.part(&named.part)?, &pin.output.timer);
        Ok(Located { on, channel: Some(pin.output.channel.clone()), pin: Some(pin) })
    }
}

//! Where: `PART/TIMER` or `PART/TIMER/CHANNEL`, or a pin of the part.

use clap::Args;
use kairotic_core::part::{Part, PinOutput};
use serde::Serialize;

use crate::part_library::PartLibrary;

use crate::fault::{Fault, Result};

/// A timer of a part, and perhaps one of its channels.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Location {
    /// The part.
    pub part: String,
    /// The timer.
    pub timer: String,
    /// The channel's label.
    pub channel: Option<String>,
}

impl Location {
    /// Reads `PART/TIMER[/CHANNEL]`; capitals do not matter.
    ///
    /// # Errors
    /// [`Fault::Usage`] for any other shape.
    pub fn read(text: &str) -> Result<Self> {
        let lower = text.to_lowercase();
        let steps: Vec<&str> = lower.split('/').collect();
        let (part, timer, channel) = match steps.as_slice() {
            [part, timer] => (part, timer, None),
            [part, timer, channel] => (part, timer, Some((*channel).to_owned())),
            _ => return Err(wrong(text)),
        };
        if steps.iter().any(|step| step.is_empty()) {
            return Err(wrong(text));
        }
        Ok(Self { part: (*part).to_owned(), timer: (*timer).to_owned(), channel })
    }

    /// The same, where the part alone is enough if it has only one timer.
    ///
    /// # Errors
    /// As [`Location::read`]; a part that is not in the catalogue.
    pub fn of(text: &str, catalogue: &PartLibrary) -> Result<Self> {
        if text.is_empty() || text.contains('/') {
            return Self::read(text);
        }
        let part = catalogue.part(&text.to_lowercase())?;
        if let [timer] = part.timers.as_slice() {
            return Ok(Self { part: part.name.clone(), timer: timer.name.clone(), channel: None });
        }
        let timers: Vec<&str> = part.timers.iter().map(|timer| timer.name.as_str()).collect();
        Err(Fault::Usage {
            message: format!("--on: expected PART/TIMER or PART/TIMER/CHANNEL, found `{text}`"),
            hint: format!("its timers: {}; `kairotic survey --part {text}` compares them", timers.join(", ")),
        })
    }
}

/// Where a signal is: the timer, or the pin that it comes out of.
#[derive(Debug, Args)]
pub struct LocationOptions {
    /// The timer, and perhaps the channel; a part alone means its only timer, with --pin the pin's, or in `derive` the best
    #[arg(long, value_name = "PART/TIMER[/CHANNEL]")]
    on: Option<String>,
    /// The pin that the signal comes out of: it says which timer and channel; of several, `derive` takes the best
    #[arg(long, value_name = "PIN")]
    pin: Option<String>,
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

    /// Every place that is meant: those of a pin that several timers serve, and all timers of a part that is named alone.
    ///
    /// # Errors
    /// As [`LocationOptions::read`], but for several places.
    pub fn all(&self, catalogue: &PartLibrary) -> Result<Vec<(Location, Option<PinChoice>)>> {
        let on = self.on.clone().unwrap_or_default().to_lowercase();
        let (name, rest) = on.split_once('/').map_or((on.as_str(), None), |(name, rest)| (name, Some(rest)));
        let at = |timer: &str, channel| Location { part: name.to_owned(), timer: timer.to_owned(), channel };
        match (&self.pin, rest) {
            (None, None) if !name.is_empty() => {
                let part = catalogue.part(name)?;
                Ok(part.timers.iter().map(|timer| (at(&timer.name, None), None)).collect())
            }
            (None, _) => Ok(vec![self.read(catalogue)?]),
            (Some(pin), rest) => {
                let (timer, channel) = match rest.map(|rest| rest.split_once('/').unwrap_or((rest, ""))) {
                    None => (None, ""),
                    Some((timer, channel)) => (Some(timer), channel),
                };
                let part = catalogue.whole_part(name)?;
                if let Some(timer) = timer {
                    part.instance(timer)?;
                }
                let mut outputs = part.outputs_on(pin, timer)?;
                let carried = outputs.first().map(PinOutput::output).unwrap_or_default();
                outputs.retain(|output| {
                    channel.is_empty() || output.channel.is_empty() || output.channel == channel
                });
                if outputs.is_empty() {
                    return Err(Fault::Usage {
                        message: format!("--pin: {pin} carries {carried}, not the channel of --on {on}"),
                        hint: "leave the channel out: the pin says it".to_owned(),
                    });
                }
                let place = |mut output: PinOutput| {
                    // Where any pin will do, the channel is the one that was named, or is left open.
                    if output.channel.is_empty() {
                        channel.clone_into(&mut output.channel);
                    }
                    let channel = Some(output.channel.clone()).filter(|channel| !channel.is_empty());
                    (at(&output.timer, channel), Some(PinChoice::with(&part, output)))
                };
                Ok(outputs.into_iter().map(place).collect())
            }
        }
    }

    /// The place, and the pin where one was named.
    ///
    /// # Errors
    /// [`Fault`] for a text of another shape, and for a pin that carries no output or several.
    pub fn read(&self, catalogue: &PartLibrary) -> Result<(Location, Option<PinChoice>)> {
        let on = self.on.clone().unwrap_or_default();
        let Some(pin) = &self.pin else { return Ok((Location::of(&on, catalogue)?, None)) };
        let lower = on.to_lowercase();
        let (name, timer) = match lower.split_once('/') {
            None => (lower.as_str(), None),
            Some((name, timer)) => (name, Some(timer)),
        };
        let part = catalogue.whole_part(name)?;
        let choice = PinChoice::of(&part, pin, timer)?;
        let (timer, channel) = (choice.output.timer.clone(), Some(choice.output.channel.clone()));
        Ok((Location { part: name.to_owned(), timer, channel }, Some(choice)))
    }
}

fn wrong(text: &str) -> Fault {
    Fault::Usage {
        message: format!("--on: expected PART/TIMER or PART/TIMER/CHANNEL, found `{text}`"),
        hint: "for example --on stm32f411/tim3 or --on stm32f411/tim3/1; `kairotic parts` lists the parts"
            .to_owned(),
    }
}

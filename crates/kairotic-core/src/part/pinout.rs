//! Where outputs come out: pins, and what puts a timer's channel there.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};

use super::fact::Fact;
use super::{Instance, Part};
use crate::error::{Error, Result};
use crate::name;

/// The timer outputs of a package.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Pinout {
    /// The device and package that it is for.
    pub package: String,
    /// How a pin is given an output, in words.
    pub select: String,
    /// For each pin its outputs, `timer/channel`, each with the code that chooses it.
    #[serde(default)]
    pub pins: BTreeMap<String, BTreeMap<String, String>>,
    /// Fields that move all channels of a timer at once.
    #[serde(default)]
    pub remaps: Vec<Remap>,
    /// Where that stands.
    pub facts: Vec<Fact>,
}

/// A field that moves all channels of a timer at once.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Remap {
    /// The timer.
    pub timer: String,
    /// The field.
    pub field: String,
    /// Where its values put the channels.
    pub routes: Vec<RemapRoute>,
}

/// Where one value of a [`Remap`] puts the channels.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct RemapRoute {
    /// The field's value.
    pub code: u64,
    /// The pin of each channel.
    pub pins: BTreeMap<String, String>,
}

/// One output on one pin.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct PinOutput {
    /// The pin.
    pub pin: String,
    /// The timer.
    pub timer: String,
    /// The channel's label; with an `n` behind it for a complementary output.
    pub channel: String,
    /// What puts it there.
    pub by: String,
}

impl PinOutput {
    /// `timer/channel`, or the timer alone where no channel is meant.
    pub fn output(&self) -> String {
        if self.channel.is_empty() { self.timer.clone() } else { format!("{}/{}", self.timer, self.channel) }
    }
}

/// What stands for the code where any pin can have any output.
const ANY_PIN: &str = "any pin";

impl Pinout {
    /// Every output on every pin, in the order of the pins.
    pub fn outputs(&self) -> Vec<PinOutput> {
        let mut all = Vec::new();
        for (pin, functions) in &self.pins {
            for (output, by) in functions {
                let (timer, channel) = output.split_once('/').unwrap_or((output, ""));
                all.push(PinOutput {
                    pin: pin.clone(),
                    timer: timer.to_owned(),
                    channel: channel.to_owned(),
                    by: by.clone(),
                });
            }
        }
        for Remap { timer, field, routes } in &self.remaps {
            for RemapRoute { code, pins } in routes {
                all.extend(pins.iter().map(|(channel, pin)| PinOutput {
                    pin: pin.clone(),
                    timer: timer.clone(),
                    channel: channel.clone(),
                    by: format!("{field} = {code}"),
                }));
            }
        }
        all.sort_by_cached_key(|output| (natural(&output.pin), output.output(), output.by.clone()));
        all
    }

    /// Whether any pin can have any output, so that none is listed.
    pub fn is_free(&self) -> bool {
        self.pins.is_empty() && self.remaps.is_empty()
    }

    /// The pins that carry outputs of a timer, and therefore have one period.
    pub fn sharing(&self, timer: &str) -> Vec<String> {
        let mut pins: Vec<String> = self
            .outputs()
            .into_iter()
            .filter(|output| output.timer == timer)
            .map(|output| output.pin)
            .collect();
        pins.dedup();
        pins
    }
}

impl Part {
    /// The outputs that a pin can carry, those of `timer` only where one is given.
    ///
    /// # Errors
    /// [`Error::NoPinout`], [`Error::AnyPin`], and [`Error::UnknownName`] for a pin that carries none.
    pub fn pin(&self, pin: &str, timer: Option<&str>) -> Result<Vec<PinOutput>> {
        let pinout = self.pinout.as_ref().ok_or_else(|| Error::NoPinout { part: self.name.clone() })?;
        if pinout.is_free() {
            let (part, select) = (self.name.clone(), pinout.select.clone());
            return Err(Error::AnyPin { part, select });
        }
        let all = pinout.outputs();
        let fits = |output: &&PinOutput| {
            output.pin.eq_ignore_ascii_case(pin) && timer.is_none_or(|timer| output.timer == timer)
        };
        let found: Vec<PinOutput> = all.iter().filter(fits).cloned().collect();
        if found.is_empty() {
            let place = timer.map_or(self.name.clone(), |timer| format!("{}/{timer}", self.name));
            let of_timer = |output: &&PinOutput| timer.is_none_or(|timer| output.timer == timer);
            let mut known: Vec<&str> =
                all.iter().filter(of_timer).map(|output| output.pin.as_str()).collect();
            known.dedup();
            return Err(Error::unknown("timer output on pin", pin, &place, known.into_iter()));
        }
        Ok(found)
    }

    /// Every output that a signal on a pin may mean, each once and no complements; of the timer only, where one is named.
    /// Where any pin can have any output, those of all timers, without a channel.
    ///
    /// # Errors
    /// As [`Part::output_on`], but for several outputs.
    pub fn outputs_on(&self, pin: &str, timer: Option<&str>) -> Result<Vec<PinOutput>> {
        if self.pinout.as_ref().is_some_and(Pinout::is_free) {
            let timers = self.timers.iter().filter(|one| timer.is_none_or(|timer| one.name == timer));
            let output = |one: &Instance| PinOutput {
                pin: name::cleaned(pin),
                timer: one.name.clone(),
                channel: String::new(),
                by: ANY_PIN.to_owned(),
            };
            return Ok(timers.map(output).collect());
        }
        let mut found: Vec<PinOutput> = Vec::new();
        for output in self.pin(pin, timer)? {
            if !output.channel.ends_with('n') && found.iter().all(|known| known.output() != output.output()) {
                found.push(output);
            }
        }
        // Complements only: that has its own answer.
        if found.is_empty() { self.output_on(pin, timer).map(|output| vec![output]) } else { Ok(found) }
    }

    /// The one output that a signal on a pin means: of the timer, where one is named, and no complement.
    ///
    /// # Errors
    /// As [`Part::pin`]; [`Error::PinOutputs`] where there are several, or complements only.
    pub fn output_on(&self, pin: &str, timer: Option<&str>) -> Result<PinOutput> {
        let outputs = self.pin(pin, timer)?;
        let named: Vec<&PinOutput> = outputs.iter().filter(|output| !output.channel.ends_with('n')).collect();
        if let [first, others @ ..] = named.as_slice()
            && others.iter().all(|other| other.output() == first.output())
        {
            return Ok((*first).clone());
        }
        let known = outputs.iter().map(|output| format!("{} ({})", output.output(), output.by));
        let timer = named.first().map(|first| first.timer.clone());
        let outputs = known.collect::<Vec<_>>().join(", ");
        Err(Error::PinOutputs { pin: pin.to_owned(), outputs, part: self.name.clone(), timer })
    }
}

/// A name as people sort it: `PA2` before `PA10`.
fn natural(name: &str) -> (String, u64, String) {
    let start = name.find(|digit: char| digit.is_ascii_digit()).unwrap_or(name.len());
    let (letters, rest) = name.split_at_checked(start).unwrap_or((name, ""));
    let end = rest.find(|digit: char| !digit.is_ascii_digit()).unwrap_or(rest.len());
    let (digits, tail) = rest.split_at_checked(end).unwrap_or((rest, ""));
    (letters.to_owned(), digits.parse().unwrap_or(0), tail.to_owned())
}

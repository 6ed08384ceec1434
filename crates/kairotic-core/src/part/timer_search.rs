//! Timers that are looked for: by a pin, by what they have, by a word.

use serde::Serialize;

use super::{Ability, Instance, Part, Pinout, Timer};
use crate::error::Result;

/// What timers are looked for; all of it has to hold.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize)]
pub struct WantedTimer {
    /// A pin that it comes out of.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub pin: Option<String>,
    /// What it has, with one of its base counters.
    pub can: Vec<Ability>,
    /// A word in its name or title, or in its part's.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub word: Option<String>,
}

/// A timer that was found.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct FoundTimer {
    /// The part.
    pub part: String,
    /// The timer.
    pub timer: String,
    /// The channel that comes out of the pin.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub channel: Option<String>,
    /// What brings it there.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub chosen_by: Option<String>,
    /// What it is.
    pub title: String,
}

impl WantedTimer {
    /// Everything that is asked, in words.
    pub fn told(&self) -> String {
        let can = self.can.iter().map(ToString::to_string);
        self.pin.iter().cloned().chain(can).chain(self.word.clone()).collect::<Vec<_>>().join(", ")
    }

    /// The timers of a part that fit, each once for every way to the pin.
    ///
    /// # Errors
    /// As [`Part::views`].
    pub fn among(&self, part: &Part) -> Result<Vec<FoundTimer>> {
        let mut found = Vec::new();
        for instance in &part.timers {
            let views = part.views(instance)?;
            let can = views.iter().any(|timer| self.can.iter().all(|ability| timer.can(*ability)));
            let Some(first) = views.first().filter(|_| can && self.is_named(part, instance, &views)) else {
                continue;
            };
            let timer = |channel: Option<String>, chosen_by: Option<String>| FoundTimer {
                part: part.name.clone(),
                timer: instance.name.clone(),
                channel,
                chosen_by,
                title: first.block.title.clone(),
            };
            let Some(pin) = &self.pin else {
                found.push(timer(None, None));
                continue;
            };
            let outputs = part.pinout.iter().flat_map(Pinout::outputs);
            let own = outputs
                .filter(|output| output.timer == instance.name && output.pin.eq_ignore_ascii_case(pin));
            found.extend(own.map(|output| timer(Some(output.channel), Some(output.by))));
        }
        Ok(found)
    }

    fn is_named(&self, part: &Part, instance: &Instance, views: &[Timer]) -> bool {
        let Some(word) = self.word.as_ref().map(|word| word.to_lowercase()) else { return true };
        let names = [&part.name, &part.title, &instance.name].into_iter();
        names
            .chain(views.iter().map(|timer| &timer.block.title))
            .any(|text| text.to_lowercase().contains(&word))
    }
}

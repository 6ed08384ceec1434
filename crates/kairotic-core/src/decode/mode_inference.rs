//! What register values say about the mode and the channels in use.

use crate::error::{Error, NoModeReason, Result};
use crate::part::{Channel, ChannelWrite, CompareLaw, Mode, Polarity, Registers, Slot, Timer, TopSource};
use crate::setting::RegisterPlan;
use crate::setting::write::sets_polarity;
use crate::target::Level;

/// Register values of a timer, and the channel that is looked at, if only one is.
pub(crate) struct ModeInference<'t> {
    pub(crate) timer: &'t Timer,
    pub(crate) registers: &'t Registers,
    pub(crate) only: Option<&'t str>,
}

impl<'t> ModeInference<'t> {
    /// The mode that fits what is known; where several do, the one that leaves least unsaid and unused, then a usual
    /// one.
    pub(crate) fn mode(&self) -> Result<&'t Mode> {
        let mut fitting: Vec<(bool, usize, bool, &Mode)> = Vec::new();
        for mode in &self.timer.block.modes {
            if self.fits(mode)? {
                let top = self.timer.top_slot(mode)?;
                let missing = top.as_ref().is_some_and(|slot| self.registers.number(slot).is_none());
                fitting.push((missing, self.unused_tops(top.as_ref())?, !mode.usual, mode));
            }
        }
        // The sort is stable: equals keep the family file's order.
        fitting.sort_by_key(|(missing, unused, unusual, _)| (*missing, *unused, *unusual));
        fitting.first().map(|(.., mode)| *mode).ok_or_else(|| {
            let known = self.timer.block.modes.iter().map(|mode| {
                let fields =
                    mode.setup.iter().map(|write| format!("{}={}", write.slot.join(":"), write.value));
                format!("{} ({})", mode.name, fields.collect::<Vec<_>>().join(" "))
            });
            let reason = Box::new(NoModeReason::UnknownBits { known: known.collect() });
            Error::NoMode { timer: self.timer.path(), reason }
        })
    }

    /// The channels to decode: those with a compare value that are connected, and a top's channel that toggles.
    pub(crate) fn channels(&self, mode: &'t Mode) -> Result<Vec<&'t Channel>> {
        let mut used = Vec::new();
        for channel in self.timer.free_channels(mode) {
            let asked = self.only.is_none_or(|label| channel.label == label);
            let given = if mode.has_top_in(channel) {
                self.is_connected_to(mode, channel)?
            } else {
                // A channel that is asked for by name is never passed over in silence.
                let touched = self.touches(mode, channel)?;
                touched && (self.only.is_some() || !self.is_idle(channel)?)
            };
            if asked && given {
                used.push(channel);
            }
        }
        Ok(used)
    }

    /// Whether anything is given of what a channel's pulse is made of: its own compare value, and the one that is compared in its
    /// place.
    fn touches(&self, mode: &Mode, channel: &Channel) -> Result<bool> {
        let (own, other) = (self.timer.slot(&channel.compare)?, self.timer.compare_slot(mode, channel)?);
        Ok(self.registers.touches(&own) || self.registers.touches(&other))
    }

    /// The pin's level while a channel is active.
    pub(crate) fn level(&self, mode: &Mode, channel: &Channel) -> Result<Level> {
        let Some(polarity) = self.free_polarity(mode) else { return Ok(Level::High) };
        let low = self.role(channel, &polarity.role)?.is_some_and(|given| polarity.low.contains(&given));
        Ok(if low { Level::Low } else { Level::High })
    }

    /// What no register said although it decides between modes or levels, and what was left out.
    pub(crate) fn assumed(&self, mode: &Mode, plan: &RegisterPlan) -> Result<Vec<String>> {
        let mut assumed = Vec::new();
        let mut assume = |slot: &Slot, value: u64, means: &str| {
            if self.registers.number(slot).is_none() {
                assumed.push(format!("{}={value} ({means})", slot.name()));
            }
        };
        for write in &mode.setup {
            assume(&self.timer.slot(&write.slot)?, write.value, &write.means);
        }
        for planned in &plan.channels {
            let channel = self.timer.channel(&planned.label)?;
            for write in &mode.channel_setup {
                if let Some(field) = self.timer.role(channel, &write.role)? {
                    assume(&Slot(vec![field]), write.value, &write.means);
                }
            }
            if let Some(polarity) = self.free_polarity(mode)
                && let Some(field) = self.timer.role(channel, &polarity.role)?
                && let Some(high) = polarity.high.first()
            {
                assume(&Slot(vec![field]), *high, "active high");
            }
        }
        if mode.compare == CompareLaw::Toggle && plan.channels.is_empty() {
            assumed.push("an output that toggles".to_owned());
        }
        for channel in self.timer.free_channels(mode).filter(|channel| !mode.has_top_in(channel)) {
            let touched = self.touches(mode, channel)?;
            if touched && self.only.is_none() && self.is_idle(channel)? {
                assumed.push(format!("channel {} is connected to no output", channel.label));
            }
        }
        Ok(assumed)
    }

    /// Whether nothing that is known contradicts a mode.
    fn fits(&self, mode: &'t Mode) -> Result<bool> {
        for write in &mode.setup {
            let slot = self.timer.slot(&write.slot)?;
            if !self.allows(&slot, write.value, &write.also) {
                return Ok(false);
            }
        }
        for channel in self.channels(mode)? {
            if !self.fits_channel(mode, channel)? {
                return Ok(false);
            }
        }
        Ok(true)
    }

    /// Whether nothing that is known of a channel contradicts a mode.
    fn fits_channel(&self, mode: &Mode, channel: &Channel) -> Result<bool> {
        if !self.fits_writes(&mode.channel_setup, channel)? {
            return Ok(false);
        }
        let Some(polarity) = self.free_polarity(mode) else { return Ok(true) };
        let given = self.role(channel, &polarity.role)?;
        Ok(given.is_none_or(|given| polarity.high.contains(&given) || polarity.low.contains(&given)))
    }

    /// Whether nothing that is known of a channel contradicts what is written to its fields.
    fn fits_writes(&self, writes: &[ChannelWrite], channel: &Channel) -> Result<bool> {
        for write in writes {
            if let Some(field) = self.timer.role(channel, &write.role)?
                && !self.allows(&Slot(vec![field]), write.value, &write.also)
            {
                return Ok(false);
            }
        }
        Ok(true)
    }

    /// Whether a channel's fields connect it to its output in no mode at all.
    fn is_idle(&self, channel: &Channel) -> Result<bool> {
        for mode in &self.timer.block.modes {
            let free = self.timer.free_channels(mode).any(|free| free.label == channel.label);
            if free && self.fits_channel(mode, channel)? {
                return Ok(false);
            }
        }
        Ok(true)
    }

    /// Whether the fields that let a top's own channel toggle are given, and do.
    fn is_connected_to(&self, mode: &Mode, channel: &Channel) -> Result<bool> {
        let always = &self.timer.block.channel_setup;
        let mut given = false;
        for role in channel.roles.keys() {
            let decides = mode.channel_setup.iter().chain(always).any(|write| write.role == *role)
                || self.free_polarity(mode).is_some_and(|polarity| polarity.role == *role);
            given |= decides && self.role(channel, role)?.is_some();
        }
        Ok(given && self.fits_writes(always, channel)? && self.fits_channel(mode, channel)?)
    }

    /// How many registers were given that are the top of another mode but not of this one.
    fn unused_tops(&self, top: Option<&Slot>) -> Result<usize> {
        let mut others: Vec<Slot> = Vec::new();
        for mode in &self.timer.block.modes {
            if let (TopSource::Register { .. }, Some(slot)) = (&mode.top, self.timer.top_slot(mode)?)
                && Some(&slot) != top
                && self.registers.touches(&slot)
                && !others.contains(&slot)
            {
                others.push(slot);
            }
        }
        Ok(others.len())
    }

    /// The value of a channel's field by its role, if it was given.
    fn role(&self, channel: &Channel, role: &str) -> Result<Option<u64>> {
        Ok(self.timer.role(channel, role)?.and_then(|field| self.registers.value(&field)))
    }

    /// Whether a slot may hold a value, or another with the same effect.
    fn allows(&self, slot: &Slot, value: u64, also: &[u64]) -> bool {
        std::iter::once(&value).chain(also).any(|value| !self.registers.contradicts(slot, *value))
    }

    /// The polarity, unless the mode needs its field for a value of its own.
    fn free_polarity(&self, mode: &Mode) -> Option<&'t Polarity> {
        self.timer.block.polarity.as_ref().filter(|polarity| !sets_polarity(mode, polarity))
    }
}

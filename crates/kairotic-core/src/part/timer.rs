//! One timer of a part, ready for use: its block with all names filled in.

use std::collections::BTreeMap;

use serde::{Serialize, Serializer};

use super::block::{BaseOption, Block, Mode, SetupWrite, TopSource};
use super::dead_time::DeadTime;
use super::fact::{Concern, Fact, Trust};
use super::law::CompareLaw;
use super::point::ComparePoint;
use super::register::{self, Field, Slot};
use super::values::Names;
use super::{Channel, ClockInput, Instance, Part, Variation};
use crate::error::{Error, Result};
use crate::quantity::{Deviation, Frequency, Tolerance};

/// One timer of a part.
#[derive(Debug, Clone, PartialEq)]
pub struct Timer {
    /// The part's name.
    pub part: String,
    /// The timer's name.
    pub name: String,
    /// The prefix that register names may carry.
    pub prefix: String,
    /// The clock that reaches the dividers.
    pub clock: ClockInput,
    /// The block, with this instance's names, widths, channels and modes.
    pub block: Block,
    /// The counter chosen, where the block can choose.
    pub base: Option<Base>,
    /// Its dead time generator, where it has one.
    pub dead_time: Option<DeadTime>,
    /// Statements about this instance.
    pub facts: Vec<Fact>,
    /// The documents that facts refer to, by short key.
    pub documents: BTreeMap<String, String>,
    /// The clocks that the part has, for suspecting a mix-up: name and frequency.
    pub known_clocks: Vec<(String, Frequency)>,
}

/// The counter that a block works with.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Base {
    /// Its name.
    pub name: String,
    /// What it is, in a few words.
    pub title: String,
    /// The field that chooses it.
    pub field: String,
    /// That field's value.
    pub code: u64,
}

impl Part {
    /// The timer of that name, with the base counter of that name where the timer can choose one.
    ///
    /// # Errors
    /// [`Error::UnknownName`] for a timer or base that is not there; [`Error::BrokenPart`] when the file contradicts
    /// itself, which validation rules out.
    pub fn timer(&self, name: &str, base: Option<&str>) -> Result<Timer> {
        let instance = self.instance(name)?;
        self.instantiate(instance, base)
    }

    /// One instance made ready.
    ///
    /// # Errors
    /// As [`Part::timer`].
    pub fn instantiate(&self, instance: &Instance, base: Option<&str>) -> Result<Timer> {
        let broken = |what: String| Error::BrokenPart { part: self.name.clone(), what };
        let block = self
            .blocks
            .get(&instance.block)
            .ok_or_else(|| broken(format!("timer `{}` names no block of this file", instance.name)))?;
        let clock = self
            .clocks
            .get(&instance.clock)
            .ok_or_else(|| broken(format!("timer `{}` names no clock of this file", instance.name)))?;
        let bases = block.bases(instance);
        let chosen = match base {
            None => bases.first().copied(),
            Some(asked) => {
                Some(bases.iter().copied().find(|option| option.name == asked).ok_or_else(|| {
                    let known = bases.iter().map(|option| option.name.as_str());
                    Error::unknown("base counter", asked, &instance.name, known)
                })?)
            }
        };
        let mut vars = instance.with.vars.clone();
        vars.extend(chosen.iter().flat_map(|option| option.with.vars.clone()));
        let mut filled = filled(block, &vars);
        filled.expand_lengths();
        filled.vary(&instance.with);
        chosen.iter().for_each(|option| filled.vary(&option.with));
        let base = chosen.zip(filled.base.as_ref()).map(|(option, choice)| Base {
            name: option.name.clone(),
            title: option.title.clone(),
            field: choice.field.clone(),
            code: option.code,
        });
        Ok(Timer {
            part: self.name.clone(),
            name: instance.name.clone(),
            prefix: instance.prefix.clone(),
            clock: clock.clone(),
            block: filled,
            base,
            dead_time: instance.with.dead_time.clone(),
            facts: instance.facts.clone(),
            documents: self.documents.clone(),
            known_clocks: self.known_clocks(),
        })
    }

    /// One instance with each base counter that it can choose, the default first; alone where it cannot choose.
    ///
    /// # Errors
    /// As [`Part::timer`].
    pub fn views(&self, instance: &Instance) -> Result<Vec<Timer>> {
        let bases = self.blocks.get(&instance.block).map(|block| block.bases(instance)).unwrap_or_default();
        if bases.is_empty() {
            return Ok(vec![self.instantiate(instance, None)?]);
        }
        bases.into_iter().map(|option| self.instantiate(instance, Some(&option.name))).collect()
    }

    /// The instance of that name.
    ///
    /// # Errors
    /// [`Error::UnknownName`].
    pub fn instance(&self, name: &str) -> Result<&Instance> {
        self.timers.iter().find(|timer| timer.name == name).ok_or_else(|| {
            Error::unknown("timer", name, &self.name, self.timers.iter().map(|timer| timer.name.as_str()))
        })
    }

    /// The frequencies that a clock of this part may well have, each with its name.
    fn known_clocks(&self) -> Vec<(String, Frequency)> {
        let oscillators = self.oscillators.iter().map(|source| (source.name.clone(), source.frequency));
        let limits = self.clocks.values().flat_map(|clock| {
            [("default", clock.default), ("highest", clock.maximum)]
                .map(|(which, frequency)| (format!("{which} of {}", clock.title), frequency))
        });
        oscillators.chain(limits).collect()
    }
}

impl Timer {
    /// `part/timer`.
    pub fn path(&self) -> String {
        format!("{}/{}", self.part, self.name)
    }

    /// The source clock as it is after reset.
    ///
    /// # Errors
    /// [`Error::ClockOff`]: it does not run then.
    pub fn default_clock(&self) -> Result<Tolerance<Frequency>> {
        match &self.clock.off {
            None => Ok(Tolerance { nominal: self.clock.default, deviation: Deviation::ZERO }),
            Some(off) => Err(Error::ClockOff {
                clock: self.clock.title.clone(),
                field: off.field.clone(),
                choices: off.told(),
                on: self.clock.default,
            }),
        }
    }

    /// The mode of that name.
    ///
    /// # Errors
    /// [`Error::UnknownName`].
    pub fn mode(&self, name: &str) -> Result<&Mode> {
        self.block.modes.iter().find(|mode| mode.name == name).ok_or_else(|| {
            let known = self.block.modes.iter().map(|mode| mode.name.as_str());
            Error::unknown("mode", name, &self.path(), known)
        })
    }

    /// The channel of that label.
    ///
    /// # Errors
    /// [`Error::UnknownName`].
    pub fn channel(&self, label: &str) -> Result<&Channel> {
        self.block.channels.iter().find(|channel| channel.label == label).ok_or_else(|| {
            let known = self.block.channels.iter().map(|channel| channel.label.as_str());
            Error::unknown("channel", label, &self.path(), known)
        })
    }

    /// The place that `REGISTER` or `REGISTER.FIELD` names.
    ///
    /// # Errors
    /// [`Error::BrokenPart`]: the names come from the family file.
    pub fn field(&self, name: &str) -> Result<Field> {
        register::find(&self.block.registers, name).ok_or_else(|| Error::BrokenPart {
            part: self.part.clone(),
            what: format!("there is no register field `{name}`"),
        })
    }

    /// Every name that [`Timer::field`] takes: registers and their fields.
    pub fn register_names(&self) -> Vec<String> {
        register::names(&self.block.registers)
    }

    /// The registers and what they may be called.
    pub fn names<'t>(&'t self, place: &'t str) -> Names<'t> {
        Names { registers: &self.block.registers, prefix: &self.prefix, place }
    }

    /// The places that hold one number together.
    ///
    /// # Errors
    /// As [`Timer::field`].
    pub fn slot(&self, names: &[String]) -> Result<Slot> {
        names.iter().map(|name| self.field(name)).collect::<Result<Vec<_>>>().map(Slot)
    }

    /// The place of a role in a channel, if the channel has that role.
    ///
    /// # Errors
    /// As [`Timer::field`].
    pub fn role(&self, channel: &Channel, role: &str) -> Result<Option<Field>> {
        channel.roles.get(role).map(|name| self.field(name)).transpose()
    }

    /// The fields that hold a channel's compare value in a mode.
    ///
    /// # Errors
    /// As [`Timer::field`].
    pub fn compare_slot(&self, mode: &Mode, channel: &Channel) -> Result<Slot> {
        let other = mode.start.as_ref().and_then(|law| channel.roles.get(law.end.as_ref()?));
        match other {
            Some(end) => self.slot(std::slice::from_ref(end)),
            None => self.slot(&channel.compare),
        }
    }

    /// The channels that carry a pulse-width signal in a mode: those whose compare register is not the top, and where the mode
    /// moves pulses, those that have a field for it.
    pub fn free_channels<'t>(&'t self, mode: &'t Mode) -> impl Iterator<Item = &'t Channel> + 't {
        self.block.channels.iter().filter(|channel| {
            let is_top = match &mode.top {
                TopSource::Compare { channel: taken, toggles, .. } => {
                    channel.label == *taken && !(*toggles && mode.compare == CompareLaw::Toggle)
                }
                _ => false,
            };
            let moves = mode.start.as_ref().is_none_or(|law| channel.roles.contains_key(&law.role));
            !is_top && moves
        })
    }

    /// The fields that hold a mode's top; none for a fixed length.
    ///
    /// # Errors
    /// As [`Timer::field`].
    pub fn top_slot(&self, mode: &Mode) -> Result<Option<Slot>> {
        match &mode.top {
            TopSource::Fixed(_) | TopSource::PowerOfTwo { .. } => Ok(None),
            TopSource::Register { slot, .. } => self.slot(slot).map(Some),
            TopSource::Compare { channel, .. } => self.slot(&self.channel(channel)?.compare).map(Some),
        }
    }

    /// The smallest and the largest top of a mode.
    ///
    /// # Errors
    /// As [`Timer::field`].
    pub fn top_limits(&self, mode: &Mode) -> Result<(u64, u64)> {
        let (slot, min, max) = match &mode.top {
            TopSource::Fixed(top) => return Ok((*top, *top)),
            TopSource::PowerOfTwo { min, max, .. } => return Ok((1 << min.min(&32), 1 << max.min(&32))),
            TopSource::Register { slot, min, max } => (self.slot(slot)?, min, max),
            TopSource::Compare { channel, min, max, .. } => {
                (self.slot(&self.channel(channel)?.compare)?, min, max)
            }
        };
        Ok((*min, max.unwrap_or_else(|| slot.largest())))
    }

    /// The largest compare value of a channel in a mode.
    ///
    /// # Errors
    /// As [`Timer::field`].
    pub fn compare_limit(&self, mode: &Mode, channel: &Channel) -> Result<u64> {
        let register = self.compare_slot(mode, channel)?.largest();
        Ok(match &mode.compare {
            // Where other fields make a constant output, its compare value needs no room in the register.
            CompareLaw::Linear(law) if mode.ends.is_some() => {
                law.full.value(self.top_limits(mode)?.1).map_or(register, |full| full.max(register))
            }
            CompareLaw::Linear(law) => law.max.map_or(register, |max| max.min(register)),
            CompareLaw::Toggle => register,
        })
    }

    /// The unsure statements about a mode that bear on `concern`, or on everything when `None`.
    pub fn doubts<'t>(
        &'t self,
        mode: &'t Mode,
        concern: Option<Concern>,
    ) -> impl Iterator<Item = &'t Fact> + 't {
        let dividers = self.block.dividers.iter().flat_map(|divider| &divider.facts);
        (self.facts.iter().chain(&self.block.facts).chain(&mode.facts).chain(dividers))
            .filter(move |fact| fact.trust == Trust::Unsure && fact.concerns == concern)
    }
}

impl Block {
    /// Makes a mode of its own of each length that is a power of two.
    fn expand_lengths(&mut self) {
        let mut modes = Vec::new();
        for mode in std::mem::take(&mut self.modes) {
            let TopSource::PowerOfTwo { slot, min, max } = &mode.top else {
                modes.push(mode);
                continue;
            };
            // The longest first: it has the most steps.
            for exponent in (*min..=(*max).min(32)).rev() {
                let length = 1_u64 << exponent;
                let mut one = mode.clone();
                one.name = format!("{}-{exponent}bit", mode.name);
                one.title = format!("{}, {length} ticks a period", mode.title);
                one.top = TopSource::Fixed(length);
                if let (CompareLaw::Linear(law), true) = (&mut one.compare, exponent < *max) {
                    // What the file says of the largest top is about the longest; the others have room to spare.
                    law.zero_at_largest_top = law.zero != ComparePoint::Never;
                    law.full_at_largest_top = law.full != ComparePoint::Never;
                }
                one.setup.insert(
                    0,
                    SetupWrite {
                        slot: slot.clone(),
                        value: exponent.into(),
                        also: Vec::new(),
                        means: format!("{length} ticks a period"),
                    },
                );
                modes.push(one);
            }
        }
        self.modes = modes;
    }

    fn bases(&self, instance: &Instance) -> Vec<&BaseOption> {
        let base = self.base.iter().filter(|_| !instance.with.no_base);
        let choices = base.flat_map(|choice| &choice.choices);
        choices.filter(|option| instance.bases.is_empty() || instance.bases.contains(&option.name)).collect()
    }

    /// Takes over what a variation has differently.
    fn vary(&mut self, with: &Variation) {
        self.counter_bits = with.counter_bits.unwrap_or(self.counter_bits);
        for (name, register) in &with.registers {
            let known = self.registers.get(name);
            let register = known.map_or_else(|| register.clone(), |known| register.clone().placed_as(known));
            self.registers.insert(name.clone(), register);
        }
        if !with.dividers.is_empty() {
            self.dividers.clone_from(&with.dividers);
        }
        if !with.channels.is_empty() {
            self.channels.retain(|channel| with.channels.contains(&channel.label));
        }
        if !with.modes.is_empty() {
            self.modes.retain(|mode| with.modes.contains(&mode.name));
        }
        if with.no_base {
            self.base = None;
        }
        if let (true, Some(polarity)) = (with.fixed_polarity, &mut self.polarity) {
            polarity.high.append(&mut polarity.low);
        }
        if with.inputs.is_some() {
            self.inputs.clone_from(&with.inputs);
        }
        self.setup.extend(with.setup.iter().cloned());
        self.channel_setup.extend(with.channel_setup.iter().cloned());
    }
}

/// The block with `{key}` replaced in every name.
fn filled(block: &Block, vars: &BTreeMap<String, String>) -> Block {
    let mut block = block.clone();
    if vars.is_empty() {
        return block;
    }
    let fill = |text: &mut String| {
        for (key, value) in vars {
            if text.contains('{') {
                *text = text.replace(&format!("{{{key}}}"), value);
            }
        }
    };
    block.registers = std::mem::take(&mut block.registers)
        .into_iter()
        .map(|(mut name, mut register)| {
            fill(&mut name);
            register.at.iter_mut().for_each(|at| at.fill(fill));
            register.fields = std::mem::take(&mut register.fields)
                .into_iter()
                .map(|(mut field, bits)| {
                    fill(&mut field);
                    (field, bits)
                })
                .collect();
            (name, register)
        })
        .collect();
    fill(&mut block.title);
    if let Some(base) = &mut block.base {
        fill(&mut base.field);
    }
    block.dividers.iter_mut().flat_map(|divider| &mut divider.slot).for_each(fill);
    block.setup.iter_mut().flat_map(|write| &mut write.slot).for_each(fill);
    let order = &mut block.order;
    let groups = [&mut order.first, &mut order.load, &mut order.outputs, &mut order.start, &mut order.update];
    groups.into_iter().flatten().for_each(fill);
    for wait in &mut order.waits {
        fill(&mut wait.after);
        wait.until.iter_mut().for_each(|until| fill(&mut until.field));
    }
    if let Some(hold) = &mut order.hold {
        fill(&mut hold.begin.field);
        fill(&mut hold.end.field);
    }
    for pointer in &mut block.pointers {
        fill(&mut pointer.field);
        fill(&mut pointer.to);
    }
    for channel in &mut block.channels {
        fill(&mut channel.label);
        channel.compare.iter_mut().chain(&mut channel.buffer).for_each(fill);
        channel.roles.values_mut().for_each(fill);
    }
    for mode in &mut block.modes {
        mode.setup.iter_mut().flat_map(|write| &mut write.slot).for_each(fill);
        match &mut mode.top {
            TopSource::Register { slot, .. } | TopSource::PowerOfTwo { slot, .. } => {
                slot.iter_mut().for_each(fill)
            }
            TopSource::Compare { channel, .. } => fill(channel),
            TopSource::Fixed(_) => {}
        }
    }
    block
}

/// A result names its timer as `PART/TIMER`.
impl Serialize for Timer {
    fn serialize<S: Serializer>(&self, serializer: S) -> std::result::Result<S::Ok, S::Error> {
        serializer.collect_str(&self.path())
    }
}

//! The way from a plan to register fields: what is meant, and what is written for it.

use serde::Serialize;

use super::{Output, PlannedDeadTime, Setting};
use crate::error::{Error, Result};
use crate::part::{
    Channel, CompareLaw, DeadTime, DeadUnit, Field, Mode, Pointer, Polarity, Slot, Steps, Timer,
};
use crate::quantity::{Rational, show};
use crate::target::Level;

/// One register field with the value to write.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct FieldWrite {
    /// The register.
    pub register: String,
    /// The field, where the register has fields.
    pub field: Option<String>,
    /// What the value stands for: a number such as the division or the ticks, or what the bits choose.
    pub meant: String,
    /// What is written.
    pub written: Written,
    /// The meaning in words.
    pub note: String,
}

/// What is written to a field.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[serde(untagged)]
pub enum Written {
    /// A number.
    Number(u64),
    /// Where something lies in memory, which only the firmware knows.
    AddressOf(String),
}

impl Written {
    /// The number, where it is one.
    pub const fn number(&self) -> Option<u64> {
        match self {
            Self::Number(number) => Some(*number),
            Self::AddressOf(_) => None,
        }
    }
}

impl std::fmt::Display for Written {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Self::Number(number) => number.fmt(f),
            Self::AddressOf(name) => write!(f, "address of {name}"),
        }
    }
}

impl FieldWrite {
    /// The name that `decode` takes.
    pub fn name(&self) -> String {
        match &self.field {
            Some(field) => format!("{}.{field}", self.register),
            None => self.register.clone(),
        }
    }
}

impl Setting {
    /// Every field to write on the timer that the setting is for, the numbers first.
    ///
    /// # Errors
    /// Those of a setting of another timer: names that this one does not have.
    pub fn writes(&self, timer: &Timer) -> Result<Vec<FieldWrite>> {
        writes(timer, timer.mode(&self.plan.mode)?, self)
    }
}

/// Every field that makes the waveform: divider, top and compares first, then what chooses and switches.
fn writes(timer: &Timer, mode: &Mode, setting: &Setting) -> Result<Vec<FieldWrite>> {
    let Setting { plan, divisions, ticks, outputs, .. } = setting;
    let mut list = WriteList { timer, top: plan.top, writes: Vec::new() };
    list.dividers(&plan.dividers, divisions)?;
    list.top(mode, plan.top, *ticks)?;
    for (planned, output) in plan.channels.iter().zip(outputs) {
        if let Some(compare) = planned.compare {
            list.compare(mode, timer.channel(&planned.label)?, compare, planned.start, *ticks, output)?;
        }
    }
    if let (Some(planned), Some(dead_time)) = (plan.dead_time, &timer.dead_time) {
        list.dead_time(dead_time, planned, setting)?;
    }
    list.base()?;
    for write in &mode.setup {
        list.put(&timer.slot(&write.slot)?.0, write.value, &write.means, &write.means);
    }
    for planned in &plan.channels {
        let channel = timer.channel(&planned.label)?;
        for write in mode.channel_setup.iter().chain(&timer.block.channel_setup) {
            if let Some(field) = timer.role(channel, &write.role)? {
                list.put(&[field], write.value, &write.means, &write.means);
            }
        }
        list.polarity(mode, channel, planned.level)?;
    }
    for Pointer { field, to, means } in &timer.block.pointers {
        let (field, written) = (timer.field(field)?, Written::AddressOf(to.clone()));
        list.take(&field, written, means.clone(), means.clone());
    }
    for write in &timer.block.setup {
        list.put(&timer.slot(&write.slot)?.0, write.value, &write.means, &write.means);
    }
    Ok(list.writes)
}

/// The fields that choose the division and the counter, and nothing that makes a signal.
pub(crate) fn counting_writes(timer: &Timer, dividers: &[u64]) -> Result<Vec<FieldWrite>> {
    let mut list = WriteList { timer, top: 0, writes: Vec::new() };
    list.dividers(dividers, &super::evaluate::divisions(timer, dividers)?)?;
    list.base()?;
    Ok(list.writes)
}

/// Whether a mode needs the polarity's field for a value of its own.
pub(crate) fn sets_polarity(mode: &Mode, polarity: &Polarity) -> bool {
    mode.channel_setup.iter().any(|write| write.role == polarity.role)
}

/// Whether the role that inverts an output is free in a mode.
pub(crate) fn can_invert(timer: &Timer, mode: &Mode) -> bool {
    timer
        .block
        .polarity
        .as_ref()
        .is_some_and(|polarity| !polarity.low.is_empty() && !sets_polarity(mode, polarity))
}

struct WriteList<'t> {
    timer: &'t Timer,
    top: u64,
    writes: Vec<FieldWrite>,
}

impl WriteList<'_> {
    fn push(&mut self, field: &Field, written: u64, meant: String, note: String) {
        self.take(field, Written::Number(written), meant, note);
    }

    fn take(&mut self, field: &Field, written: Written, meant: String, note: String) {
        let (register, field) = (field.register.clone(), field.field.clone());
        // A field is written once: some serve several channels, and what a complementary output needs, which comes first,
        // stands above what a lone output would have.
        if self.writes.iter().any(|known| (&known.register, &known.field) == (&register, &field)) {
            return;
        }
        self.writes.push(FieldWrite { register, field, meant, written, note });
    }

    /// One value with one meaning, in however many fields; only the first carries the words.
    fn put(&mut self, fields: &[Field], value: u64, meant: &str, note: &str) {
        let slot = Slot(fields.to_vec());
        for (place, (field, written)) in slot.split(value).into_iter().enumerate() {
            let note = if place == 0 { note.to_owned() } else { rest_of(&slot.name(), value) };
            self.push(field, written, meant.to_owned(), note);
        }
    }

    fn dividers(&mut self, written: &[u64], divisions: &[Rational]) -> Result<()> {
        for ((stage, written), division) in self.timer.block.dividers.iter().zip(written).zip(divisions) {
            self.divider(&stage.slot, &stage.steps, *written, *division)?;
        }
        Ok(())
    }

    fn base(&mut self) -> Result<()> {
        if let Some(base) = &self.timer.base {
            self.put(&[self.timer.field(&base.field)?], base.code, &base.name, &base.title);
        }
        Ok(())
    }

    fn divider(&mut self, names: &[String], steps: &Steps, written: u64, division: Rational) -> Result<()> {
        let slot = self.timer.slot(names)?;
        let fixed = self.timer.block.fixed_divider;
        let after = if fixed == 1 { String::new() } else { format!(", after the fixed {fixed}") };
        let note = format!("divide by {}{after}", division.mixed());
        let Steps::Fraction { fraction_bits, .. } = steps else {
            self.put(&slot.0, written, &division.to_string(), &note);
            return Ok(());
        };
        // Each field of a fixed-point number means its own share of the division.
        let mut below = slot.width();
        for (place, (field, part)) in slot.split(written).into_iter().enumerate() {
            below -= field.width;
            let less = if place == 0 { steps.written_less() } else { 0 };
            let share = i128::from(part)
                .checked_shl(below)
                .and_then(|share| {
                    Rational::new(share + i128::from(less), 1_i128.checked_shl(*fraction_bits)?)
                })
                .ok_or(Error::overflow("divider"))?;
            let note = match (place, part) {
                (0, _) => note.clone(),
                (_, 0) => "no fraction".to_owned(),
                _ => format!("{share} of it"),
            };
            self.push(field, part, share.to_string(), note);
        }
        Ok(())
    }

    fn top(&mut self, mode: &Mode, top: u64, ticks: u64) -> Result<()> {
        let Some(slot) = self.timer.top_slot(mode)? else { return Ok(()) };
        let bits = mode.dither_bits();
        let (meant, note) = match Rational::new(ticks.into(), 1_i128 << bits) {
            Some(mean) if bits > 0 => {
                (mean.to_string(), format!("{} ticks a period on average", mean.mixed()))
            }
            _ => (ticks.to_string(), format!("{ticks} ticks a period")),
        };
        self.put(&slot.0, top, &meant, &note);
        Ok(())
    }

    fn compare(
        &mut self,
        mode: &Mode,
        channel: &Channel,
        compare: u64,
        start: u64,
        length: u64,
        output: &Output,
    ) -> Result<()> {
        let slot = self.timer.compare_slot(mode, channel)?;
        let mut written = compare;
        if let Some(law) = &mode.start {
            if law.holds_end {
                written = if law.wraps { (start + compare) % length.max(1) } else { start + compare };
            }
            if let Some(field) = self.timer.role(channel, &law.role)? {
                let note = if start == 0 {
                    "starts with the period".to_owned()
                } else {
                    format!("starts after {start} ticks")
                };
                self.put(&[field], start, &start.to_string(), &note);
            }
        }
        if let (Some(ends), CompareLaw::Linear(law)) = (&mode.ends, &mode.compare) {
            let top = self.top;
            let at = [law.zero.value(top) == Some(compare), law.full.value(top) == Some(compare)];
            if at.contains(&true) {
                // The compare value does not matter then; the start's would be an edge of no length.
                written = (start + 1) % length.max(1);
            }
            for (end, reached) in [&ends.zero, &ends.full].into_iter().zip(at) {
                if let Some(field) = self.timer.role(channel, &end.role)? {
                    let value = if reached { end.value } else { end.otherwise };
                    let note = if reached { end.means.clone() } else { format!("not {}", end.means) };
                    self.put(&[field], value, &note, &note);
                }
            }
        }
        let compare = written;
        let ticks = show::decimal(output.ticks, 6).unwrap_or_else(|| output.ticks.to_string());
        let note = match &mode.compare {
            CompareLaw::Toggle => "anywhere up to the top: the output toggles".to_owned(),
            CompareLaw::Linear(_) if slot.0.len() > 1 => format!("compare {compare}: {ticks} ticks active"),
            CompareLaw::Linear(_) => format!("{ticks} ticks active"),
        };
        self.put(&slot.0, compare, &output.ticks.to_string(), &note);
        Ok(())
    }

    fn dead_time(&mut self, dead_time: &DeadTime, planned: PlannedDeadTime, setting: &Setting) -> Result<()> {
        let counts = dead_time.counts_of(planned.code).unwrap_or(0);
        let unit = if dead_time.counts == DeadUnit::Clocks { "clocks" } else { "ticks" };
        for slot in &dead_time.slots {
            let slot = self.timer.slot(slot)?;
            self.put(&slot.0, planned.code, &counts.to_string(), &format!("dead time of {counts} {unit}"));
        }
        if let Some(divider) = &dead_time.divider {
            let by = divider.taps.iter().find(|tap| tap.code == planned.divider).map_or(1, |tap| tap.by);
            let slot = self.timer.slot(&divider.slot)?;
            self.put(
                &slot.0,
                planned.divider,
                &by.to_string(),
                &format!("dead time counts the clock divided by {by}"),
            );
        }
        for channel in &setting.plan.channels {
            for wanted in dead_time.outputs.get(&channel.label).into_iter().flatten() {
                let field = self.timer.field(&wanted.field)?;
                self.put(&[field], wanted.value, "on", &format!("complement of {} on", channel.label));
            }
        }
        Ok(())
    }

    fn polarity(&mut self, mode: &Mode, channel: &Channel, level: Level) -> Result<()> {
        let polarity = self.timer.block.polarity.as_ref().filter(|polarity| !sets_polarity(mode, polarity));
        let Some(polarity) = polarity else { return Ok(()) };
        let codes = if level == Level::High { &polarity.high } else { &polarity.low };
        if let (Some(field), Some(value)) = (self.timer.role(channel, &polarity.role)?, codes.first()) {
            let value = *value;
            let note = format!("active {}", level.word());
            self.put(&[field], value, &note, &note);
        }
        Ok(())
    }
}

fn rest_of(slot: &str, value: u64) -> String {
    format!("the rest of {slot} = {value}")
}

//! A block as one of its instances sees it, all names filled in.

use std::collections::{BTreeMap, BTreeSet};

use super::{PartCheck, Path, mode_path};
use crate::part::{
    Channel, ChannelWrite, DeadSegment, DeadTime, Register, SetupWrite, Steps, Timer, register,
};

/// More divisions than this make no sense, and a search would have to hold them all.
const MOST_PRODUCTS: u64 = 1 << 20;

impl PartCheck<'_> {
    /// Checks a block as one instance sees it, all names filled in.
    pub(super) fn timer(&mut self, instance: &Path, block_name: &str, timer: &Timer) {
        let block = &timer.block;
        let block_path = Path::default().key("blocks").key(block_name);
        if !(1..=64).contains(&block.counter_bits) {
            self.report(&block_path.key("counter_bits"), "expected 1 to 64 bits");
        }
        if block.fixed_divider == 0 {
            self.report(&block_path.key("fixed_divider"), "expected at least 1");
        }
        self.register_map(&block_path.key("registers"), &block.registers);
        for (name, register) in &block.registers {
            if register.at.as_ref().is_some_and(|at| at.value(&BTreeMap::new()).is_none()) {
                let path = block_path.key("registers").key(name).key("at");
                self.report(&path, format!("`vars` of {} give it no value", timer.name));
            }
        }
        if let Some(base) = &timer.base {
            self.value(&block_path.key("base"), timer, std::slice::from_ref(&base.field), base.code);
        }
        self.dividers(&block_path.key("dividers"), timer);
        self.channels(&block_path.key("channels"), timer);
        let all: Vec<&Channel> = block.channels.iter().collect();
        self.setups(&block_path, timer, &block.setup, (&block.channel_setup, &all));
        self.order(&block_path.key("order"), timer);
        for (index, pointer) in block.pointers.iter().enumerate() {
            let path = block_path.key("pointers").index(index);
            self.value(&path.key("field"), timer, std::slice::from_ref(&pointer.field), 0);
            self.value(&path.key("to"), timer, std::slice::from_ref(&pointer.to), 0);
        }
        if let Some(polarity) = &block.polarity {
            let path = block_path.key("polarity");
            let codes = polarity.high.iter().chain(&polarity.low);
            self.role(&path, timer, &all, (&polarity.role, codes.clone().copied().max().unwrap_or(0)));
            if polarity.high.is_empty() {
                self.report(&path.key("high"), "expected at least one code");
            }
            if codes.clone().collect::<BTreeSet<_>>().len() != codes.count() {
                self.report(&path, "expected each code once");
            }
        }
        if let Some(inputs) = &block.inputs {
            let path = block_path.key("inputs");
            self.facts(&path, &inputs.facts, true);
            if inputs.counter_bits.is_some_and(|bits| !(1..=64).contains(&bits)) {
                self.report(&path.key("counter_bits"), "expected 1 to 64 bits");
            }
        }
        if let Some(dead_time) = &timer.dead_time {
            self.dead_time(&instance.key("with").key("dead_time"), timer, dead_time);
        }
        if block.modes.is_empty() {
            self.report(instance, "expected at least one mode");
        }
        let mut names = BTreeSet::new();
        for mode in &block.modes {
            let path = mode_path(self.part, block_name, &mode.name);
            if !names.insert(&mode.name) {
                self.report(&path.key("name"), format!("there is a mode `{}` already", mode.name));
            }
            self.mode(&path, timer, mode);
        }
    }

    fn dead_time(&mut self, path: &Path, timer: &Timer, dead_time: &DeadTime) {
        self.facts(path, &dead_time.facts, true);
        let ascending = |pair: &[DeadSegment]| match pair {
            [one, next] => one.to < next.from && dead_time.counts_of(one.to) < Some(next.counts),
            _ => true,
        };
        let sound = |segment: &DeadSegment| segment.from <= segment.to && segment.step > 0;
        let segments = &dead_time.segments;
        if segments.is_empty() || !segments.iter().all(sound) || !segments.windows(2).all(ascending) {
            self.report(&path.key("segments"), "expected segments in ascending order of codes and counts");
        }
        let largest = segments.iter().map(|segment| segment.to).max().unwrap_or(0);
        for slot in &dead_time.slots {
            self.value(&path.key("slots"), timer, slot, largest);
        }
        if let Some(divider) = &dead_time.divider {
            let largest = divider.taps.iter().map(|tap| tap.code).max().unwrap_or(0);
            self.value(&path.key("divider"), timer, &divider.slot, largest);
            if divider.taps.is_empty() || divider.taps.iter().any(|tap| tap.by == 0) {
                self.report(&path.key("divider"), "expected at least one tap, each dividing by 1 or more");
            }
        }
        for (label, fields) in &dead_time.outputs {
            let path = path.key("outputs").key(label);
            if timer.channel(label).is_err() {
                self.report(&path, format!("there is no channel `{label}`"));
            }
            for wanted in fields {
                self.value(&path, timer, std::slice::from_ref(&wanted.field), wanted.value);
            }
        }
    }

    pub(super) fn register_map(&mut self, path: &Path, registers: &BTreeMap<String, Register>) {
        for (name, register) in registers {
            let path = path.key(name);
            if name.contains('{') {
                self.report(&path, format!("`vars` of the timer do not fill in `{name}`"));
            }
            if !(1..=64).contains(&register.bits) {
                self.report(&path.key("bits"), "expected 1 to 64");
            }
            self.word(&path, register.word);
            let mut taken = 0_u64;
            for (field, bits) in &register.fields {
                let path = path.key("fields").key(field);
                if bits.low + bits.width > register.bits {
                    self.report(
                        &path,
                        format!("field {field} reaches beyond the register's {} bits", register.bits),
                    );
                    continue;
                }
                let mask = register::largest(bits.width) << bits.low;
                if taken & mask != 0 {
                    self.report(&path, format!("field {field} overlaps another field of {name}"));
                }
                taken |= mask;
            }
        }
    }

    fn dividers(&mut self, path: &Path, timer: &Timer) {
        for (index, stage) in timer.block.dividers.iter().enumerate() {
            let path = path.index(index);
            self.facts(&path, &stage.facts, true);
            let largest = self.steps(&path.key("steps"), &stage.steps);
            self.value(&path, timer, &stage.slot, largest);
        }
        let counts = timer.block.dividers.iter().map(|stage| stage.steps.count());
        let product = counts.fold(1_u64, u64::saturating_mul);
        if timer.block.dividers.len() > 1 && product > MOST_PRODUCTS {
            self.report(
                path,
                format!("expected at most {MOST_PRODUCTS} divisions of several dividers, found {product}"),
            );
        }
    }

    /// Checks the steps of a divider or multiplier, and answers the largest value that is written.
    pub(super) fn steps(&mut self, path: &Path, steps: &Steps) -> u64 {
        match steps {
            Steps::Range { min, max, .. } => {
                if *min == 0 || min > max {
                    self.report(path, format!("expected 1 <= min <= max, found {min} and {max}"));
                }
                max.saturating_sub(steps.written_less())
            }
            Steps::Fraction { min, max, fraction_bits, .. } => {
                let bits = (1..=16).contains(fraction_bits);
                if !bits || *min < steps.written_less().max(1) || min > max {
                    let wanted = "expected 1 <= min <= max (at least one whole where one less is written) and 1 to 16 \
                                  fraction bits";
                    self.report(path, wanted);
                }
                if bits { max.saturating_sub(steps.written_less()) } else { *max }
            }
            Steps::List(taps) => {
                let codes: BTreeSet<u64> = taps.iter().map(|tap| tap.code).collect();
                if taps.is_empty() || taps.iter().any(|tap| tap.by == 0) {
                    self.report(path, "expected at least one tap, each dividing by 1 or more");
                }
                if codes.len() != taps.len() {
                    self.report(path, "expected a different code for each tap");
                }
                taps.iter().map(|tap| tap.code).max().unwrap_or(0)
            }
        }
    }

    fn channels(&mut self, path: &Path, timer: &Timer) {
        if timer.block.channels.is_empty() {
            self.report(path, "expected at least one channel");
        }
        for channel in &timer.block.channels {
            self.name(path, &channel.label);
            let fields = channel.compare.iter().chain(&channel.buffer).chain(channel.roles.values());
            for name in fields {
                if let Err(error) = timer.field(name) {
                    self.report(path, format!("channel {}: {error}", channel.label));
                }
            }
            let width = |names: &[String]| timer.slot(names).map(|slot| slot.width()).ok();
            if width(channel.renewed()) != width(&channel.compare) {
                let told = format!("channel {}: `buffer` has to be as wide as `compare`", channel.label);
                self.report(path, told);
            }
        }
    }

    pub(super) fn setups(
        &mut self,
        path: &Path,
        timer: &Timer,
        setup: &[SetupWrite],
        (channel_setup, channels): (&[ChannelWrite], &[&Channel]),
    ) {
        for (index, write) in setup.iter().enumerate() {
            for value in std::iter::once(&write.value).chain(&write.also) {
                self.value(&path.key("setup").index(index), timer, &write.slot, *value);
            }
        }
        for (index, write) in channel_setup.iter().enumerate() {
            for value in std::iter::once(&write.value).chain(&write.also) {
                self.role(&path.key("channel_setup").index(index), timer, channels, (&write.role, *value));
            }
        }
    }

    /// Checks that a value's fields exist and hold it.
    pub(super) fn value(&mut self, path: &Path, timer: &Timer, names: &[String], value: u64) {
        match timer.slot(names) {
            Err(error) => self.report(path, error.to_string()),
            Ok(slot) if slot.0.is_empty() => self.report(path, "expected at least one register field"),
            Ok(slot) if slot.width() > 64 => self.report(path, "expected at most 64 bits in all"),
            Ok(slot) if value > slot.largest() => {
                self.report(
                    path,
                    format!("{value} does not fit {}, which holds 0..{}", slot.name(), slot.largest()),
                );
            }
            Ok(_) => {}
        }
    }

    /// Checks that the channels have a field of that role, and that it holds the value.
    pub(super) fn role(
        &mut self,
        path: &Path,
        timer: &Timer,
        channels: &[&Channel],
        (role, value): (&str, u64),
    ) {
        for channel in channels {
            match channel.roles.get(role) {
                None => self.report(path, format!("channel {} has no role `{role}`", channel.label)),
                Some(name) => self.value(path, timer, std::slice::from_ref(name), value),
            }
        }
    }
}

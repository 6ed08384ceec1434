//! A module in Rust for firmware without the standard library: the same steps and functions as in C.

use std::collections::BTreeSet;

use kairotic_core::board::{DirectionLines, PlannedLevels, PlannedSignal};
use kairotic_core::part::{Access, largest};
use kairotic_core::program::{Action, CompareUpdate, ProgramStep, RegisterPlace, RegisterWrite, TakeOver};
use kairotic_core::setting::{Setting, Written};

use super::code::{CodeText, EmittedFrom};
use super::held::EmittedHold;
use super::words::{camel, generics, is_zero, microseconds, part_of_unit, type_bits};
use super::{EmitError, Named, rust_drive, rust_transfer};
use crate::map_code::{self, Language};

/// The module's text.
pub(super) fn module(named: &Named<'_>) -> Result<CodeText, EmitError> {
    let mut rust =
        RustWriter { named, code: CodeText::default(), reads: BTreeSet::new(), writes: BTreeSet::new() };
    rust.line(format!("//! The signals of {}, from reset on.\n", named.board));
    rust.assumed();
    rust.constants()?;
    rust.supplied();
    rust.buffers()?;
    rust.start()?;
    rust.setters()?;
    rust.holds()?;
    rust.stop();
    rust.accesses();
    Ok(rust.code)
}

struct RustWriter<'a, 'n> {
    named: &'n Named<'a>,
    code: CodeText,
    /// The widths of registers that are read and written.
    reads: BTreeSet<u32>,
    writes: BTreeSet<u32>,
}

impl RustWriter<'_, '_> {
    fn line(&mut self, text: impl AsRef<str>) {
        self.code.line(text);
    }

    /// Documentation above what follows, or another comment.
    fn comment(&mut self, mark: &str, lines: &[String]) {
        for line in lines {
            self.code.line(format!("{mark} {}", super::harmless(line)));
        }
    }

    /// What the code takes for granted.
    fn assumed(&mut self) {
        let bits = self.named.address_bits();
        self.line(format!("const _: () = assert!(usize::BITS >= {bits}, \"addresses have {bits} bits\");\n"));
    }

    /// The numbers of each signal.
    fn constants(&mut self) -> Result<(), EmitError> {
        let Named { request, short, .. } = self.named;
        for (place, (signal, name)) in request.plan.signals.iter().zip(short).enumerate() {
            let Some(plan) = request.plan.timers.get(signal.timer) else { continue };
            self.code.from = EmittedFrom::Signal(place);
            let Setting { clock, ticks, plan: registers, .. } = &plan.setting;
            let (upper, of) = (name.to_uppercase(), &signal.name);
            let constant = |what: &str, told: &str, kind: &str, value: String| {
                format!("/// {told}\npub const {upper}_{what}: {kind} = {value};")
            };
            self.line(constant(
                "TOP",
                &format!("The top of {of}'s counter."),
                "u32",
                registers.top.to_string(),
            ));
            self.line(constant("TICKS", "Ticks in a period.", "u32", ticks.to_string()));
            if clock.value().is_whole() {
                let hz = clock.value().floor().to_string();
                self.line(constant("CLOCK_HZ", "The clock of its timer.", "u32", hz));
            }
            if let Some(compare) = signal.compare {
                let [lowest, highest] = signal.limits;
                self.line(constant("COMPARE", "Its compare value after start.", "u32", compare.to_string()));
                self.line(constant(
                    "COMPARE_LOWEST",
                    "The lowest that may be set.",
                    "u32",
                    lowest.to_string(),
                ));
                self.line(constant(
                    "COMPARE_HIGHEST",
                    "The highest that may be set.",
                    "u32",
                    highest.to_string(),
                ));
            }
            self.line("");
            if let Some(levels) = self.named.settable_levels(place) {
                let ends = self.named.level_ends(place, levels);
                self.level_type(name, &signal.name, levels, ends);
            }
        }
        self.code.from = EmittedFrom::Board;
        Ok(())
    }

    /// A number that is a level of one signal.
    fn level_type(
        &mut self,
        name: &str,
        signal: &str,
        levels: &PlannedLevels,
        (lowest, highest): (i64, i64),
    ) {
        let PlannedLevels { unit, per_unit, .. } = levels;
        let kind = camel(name);
        let of = part_of_unit(unit, *per_unit);
        self.line(format!(
            "/// A level of {signal} in {of}, from {lowest} to {highest}.\n\
             #[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]\n\
             pub struct {kind}Level(i16);\n\n\
             impl {kind}Level {{\n    \
                 /// The lowest.\n    \
                 pub const LOWEST: Self = Self({lowest});\n    \
                 /// The highest.\n    \
                 pub const HIGHEST: Self = Self({highest});\n\n    \
                 /// The level, or the nearest end.\n    \
                 pub fn saturating(level: i16) -> Self {{\n        \
                     Self(level.clamp({lowest}, {highest}))\n    \
                 }}\n\n    \
                 /// The number.\n    \
                 pub const fn get(self) -> i16 {{\n        \
                     self.0\n    \
                 }}\n\
             }}\n"
        ));
    }

    /// What the firmware has to supply: it does not compile without.
    fn supplied(&mut self) {
        let (supplies, delays) = (self.named.supplies(), self.named.delays());
        let directions = self.named.direction_supplies();
        if let Some(device) = self.named.device() {
            self.line(
                "/// The device's address on the bus, seven bits; the lines of the package may say another.",
            );
            self.line(format!("pub const BUS_ADDRESS: u8 = 0x{device:02X};\n"));
        }
        if !self.named.needs_supplied() {
            return;
        }
        self.line("/// What the firmware has to supply.\npub trait Supplied {");
        for (function, why) in supplies {
            self.comment("    ///", &[why]);
            self.line(format!("    fn {}();", self.named.without_board(&function)));
        }
        for (function, why) in directions {
            self.comment("    ///", &[why]);
            self.line(format!("    fn {}(direction: i8);", self.named.without_board(&function)));
        }
        if self.named.device().is_some() {
            self.line(
                "    /// Sends bytes to the device, the first of them a register's address, as one transfer.",
            );
            self.line("    fn transfer(device: u8, bytes: &[u8]);");
        }
        if delays {
            self.line("    /// Waits for so many microseconds, or longer.\n    fn delay_us(us: u32);");
        }
        self.line("}\n");
    }

    fn buffers(&mut self) -> Result<(), EmitError> {
        for step in &self.named.request.plan.program.steps {
            if let Action::Buffer { name, bits, words } = &step.action {
                let buffer = self.named.buffer(name)?.to_uppercase();
                let atomic = format!("core::sync::atomic::AtomicU{bits}");
                let values: Vec<String> =
                    words.iter().map(|word| format!("{atomic}::new({})", number(*word, *bits))).collect();
                let (count, values) = (words.len(), values.join(", "));
                self.line(format!("static {buffer}: [{atomic}; {count}] = [{values}];\n"));
            }
        }
        Ok(())
    }

    fn start(&mut self) -> Result<(), EmitError> {
        let mut told = vec![
            "From reset to moving pins: clocks, gates, pins, values, outputs; the counters start last."
                .to_owned(),
            "It waits for ready flags without end. Interrupts have to be off.".to_owned(),
        ];
        told.extend(self.named.programmed());
        self.comment("///", &told);
        self.line(if self.named.needs_supplied() {
            "pub fn start<S: Supplied>() {"
        } else {
            "pub fn start() {"
        });
        for (drive, name) in self.named.drives.iter().zip(&self.named.short) {
            let Some(drive) = *drive else { continue };
            self.line(rust_drive::begun(name, drive));
            if drive.lines == DirectionLines::Beside {
                self.line(format!("    S::{name}_direction({});", drive.begins));
            }
        }
        for step in &self.named.request.plan.program.steps {
            self.code.from = self.named.origin_of(step);
            self.step(step)?;
        }
        self.code.from = EmittedFrom::Board;
        self.line("}\n");
        Ok(())
    }

    fn step(&mut self, step: &ProgramStep) -> Result<(), EmitError> {
        let told = |name: &str| [format!("{name}: {}", step.why)];
        match &step.action {
            Action::Write(write) => {
                self.comment("    //", &told(&write.register.name));
                self.write(write)?;
            }
            Action::Until { register, mask, value } => {
                self.comment("    //", &told(&register.name));
                let read = self.read(register)?;
                let (mask, value) = (number(*mask, register.bits), number(*value, register.bits));
                self.line(format!("    while {read} & {mask} != {value} {{}}"));
            }
            Action::Delay { time } => {
                let us = microseconds(*time);
                self.comment("    //", std::slice::from_ref(&step.why));
                self.line(format!("    S::delay_us({us});"));
            }
            Action::Supply { function } => {
                self.comment("    //", std::slice::from_ref(&step.why));
                self.line(format!("    S::{function}();"));
            }
            Action::Buffer { .. } | Action::Programmed { .. } => {}
            Action::Transfer { register, bytes, .. } => {
                self.comment("    //", &told(register));
                self.line(format!("    S::transfer(BUS_ADDRESS, &[{}]);", rust_transfer::listed(bytes)));
            }
            Action::Attribute { .. } => {
                return Err(EmitError::Elsewhere(self.named.request.board.part.clone()));
            }
        }
        Ok(())
    }

    fn write(&mut self, write: &RegisterWrite) -> Result<(), EmitError> {
        let RegisterWrite { register, value, mask, unlock, .. } = write;
        let value = match value {
            Written::Number(value) => number(*value, register.bits),
            Written::AddressOf(name) => {
                let buffer =
                    self.named.buffer(&self.named.buffer_named(&register.name, name))?.to_uppercase();
                format!("{buffer}.as_ptr() as u{}", register.bits)
            }
        };
        let whole = write.is_whole() || register.access == Access::WriteOnly;
        let value = if whole { value } else { self.modified(register, *mask, &value)? };
        let Some((first, unlock)) = unlock else { return self.put(register, &value) };
        // What is written is worked out before: between the two writes there is no time for it.
        self.line(format!("    let value = {value};"));
        self.put(first, &number(unlock.value, first.bits))?;
        self.put(register, "value")
    }

    /// What a register holds, with other bits under a mask.
    fn modified(&mut self, register: &RegisterPlace, mask: u64, value: &str) -> Result<String, EmitError> {
        let keep = number(!mask & largest(register.bits), register.bits);
        let read = self.read(register)?;
        Ok(if is_zero(value) { format!("{read} & {keep}") } else { format!("({read} & {keep}) | {value}") })
    }

    fn read(&mut self, register: &RegisterPlace) -> Result<String, EmitError> {
        self.reads.insert(register.bits);
        Ok(format!("read{}({})", register.bits, address(register)?))
    }

    fn put(&mut self, register: &RegisterPlace, value: &str) -> Result<(), EmitError> {
        self.writes.insert(register.bits);
        let address = address(register)?;
        self.line(format!("    write{}({address}, {value});", register.bits));
        Ok(())
    }

    fn setters(&mut self) -> Result<(), EmitError> {
        let Named { request, short, updates, .. } = self.named;
        let (bound, with) = generics(self.named.device().is_some());
        for (place, ((signal, name), update)) in
            request.plan.signals.iter().zip(short).zip(updates).enumerate()
        {
            let Some(update) = update else { continue };
            self.code.from = EmittedFrom::Signal(place);
            let word = word(update.largest);
            self.line(format!("fn put_{name}{bound}(compare: {word}) {{"));
            self.update(update)?;
            let [lowest, highest] = signal.limits;
            if self.named.is_driven(place) {
                // What a drive sets has no other function: it would turn the motor round without a pause.
                self.line("}\n");
                continue;
            }
            self.line(format!(
                "}}\n\n/// Sets the compare value of {}; one outside {lowest} to {highest} is taken to the nearer end.",
                signal.name
            ));
            self.line(format!("pub fn set_{name}_compare{bound}(compare: {word}) {{"));
            self.line(format!("    put_{name}{with}(compare.clamp({lowest}, {highest}));\n}}\n"));
            if let Some(levels) = self.named.settable_levels(place) {
                self.set(name, signal, levels, &word);
            }
        }
        for (place, signal) in request.plan.signals.iter().enumerate() {
            let levels = self.named.settable_levels(place);
            if let Some(text) =
                levels.and_then(|levels| rust_drive::defined(self.named, (place, signal), levels))
            {
                self.code.from = EmittedFrom::Signal(place);
                self.line(text);
            }
        }
        self.code.from = EmittedFrom::Board;
        Ok(())
    }

    /// The writes of one compare value.
    fn update(&mut self, update: &CompareUpdate) -> Result<(), EmitError> {
        if let Some(transfer) = &update.transfer {
            self.line(rust_transfer::put(transfer));
        }
        let own = word(update.largest);
        for part in &update.parts {
            let register = &part.register;
            let narrow = largest(part.mask.count_ones());
            let down =
                if part.down > 0 { format!("(compare >> {})", part.down) } else { "compare".to_owned() };
            let of = if part.word.is_some() { part.bits } else { register.bits };
            let cast = if own == format!("u{of}") { down } else { format!("({down} as u{of})") };
            let cut = if update.parts.len() > 1 && part.mask != largest(part.bits) {
                format!("({cast} & {})", number(narrow, of))
            } else {
                cast
            };
            let placed = match part.up {
                0 => cut,
                up => format!("({cut} << {up})"),
            };
            if let Some(word) = part.word {
                let buffer = self.named.buffer(&self.named.buffer_of(&register.name))?.to_uppercase();
                let keep = number(largest(part.bits) & !part.mask, part.bits);
                let ordering = "core::sync::atomic::Ordering::Relaxed";
                self.line(format!("    let kept = {buffer}[{word}].load({ordering}) & {keep};"));
                self.line(format!("    {buffer}[{word}].store(kept | {placed}, {ordering});"));
            } else if part.mask == largest(part.bits) {
                self.put(register, bare(&placed))?;
            } else {
                let value = self.modified(register, part.mask, &placed)?;
                self.put(register, &value)?;
            }
        }
        update.then.iter().try_for_each(|taken| self.taken_over(taken))
    }

    /// The write of a field that holds new compare values, or takes them over.
    fn taken_over(&mut self, taken: &TakeOver) -> Result<(), EmitError> {
        self.comment("    //", &[format!("{}: {}", taken.register.name, taken.means)]);
        let value = number(taken.value, taken.register.bits);
        let value = match taken.register.access {
            Access::WriteOnly => value,
            _ => self.modified(&taken.register, taken.mask, &value)?,
        };
        self.put(&taken.register, &value)
    }

    /// What keeps the new compare values of a timer's channels waiting, and lets them go.
    fn holds(&mut self) -> Result<(), EmitError> {
        for hold in &self.named.holds {
            let EmittedHold { timer, held, .. } = hold;
            self.comment("///", &hold.told(&format!("release_{timer}")));
            self.line(format!("pub fn hold_{timer}() {{"));
            self.taken_over(&held.begin)?;
            self.line(format!(
                "}}\n\n/// Lets what waits since `hold_{timer}` go.\npub fn release_{timer}() {{"
            ));
            self.taken_over(&held.end)?;
            self.line("}\n");
        }
        Ok(())
    }

    fn set(&mut self, name: &str, signal: &PlannedSignal, levels: &PlannedLevels, word: &str) {
        let map = &levels.scaled;
        self.line(map_code::inner_function(Language::Rust, &format!("{name}_compare_of"), map));
        let bits = map.request.word.bits();
        let input = match (levels.lowest < 0, bits) {
            (true, 16) => "level.get()".to_owned(),
            (true, _) => "i32::from(level.get())".to_owned(),
            (false, bits) => format!("level.get() as u{bits}"),
        };
        let compare = format!("{name}_compare_of({input})");
        let compare = if word == format!("u{bits}") { compare } else { format!("{compare} as {word}") };
        let off = signal.off.filter(|_| levels.rests_at_zero);
        let (bound, with) = generics(self.named.device().is_some());
        let rests = if off.is_some() { " At 0 the output is constantly inactive." } else { "" };
        self.line(format!("/// Sets the level of {}.{rests}", signal.name));
        self.line(format!("pub fn set_{name}{bound}(level: {}Level) {{", camel(name)));
        match off {
            Some(off) => self.line(format!(
                "    if level.get() == 0 {{\n        put_{name}{with}({off});\n    }} else {{\n        put_{name}{with}({compare});\n    }}\n}}\n"
            )),
            None => self.line(format!("    put_{name}{with}({compare});\n}}\n")),
        }
    }

    fn stop(&mut self) {
        let Named { request, short, updates, .. } = self.named;
        let never: Vec<&str> = self.named.moving().map(|signal| signal.name.as_str()).collect();
        self.line("/// Puts the signals to rest: constantly inactive. The counters go on.");
        if !never.is_empty() {
            let never = never.join(", ");
            self.line(format!("/// No compare value does that for {never}: those keep what they have."));
        }
        let over_the_bus = self.named.device().is_some();
        let beside = !self.named.direction_supplies().is_empty();
        self.line(if beside || over_the_bus { "pub fn stop<S: Supplied>() {" } else { "pub fn stop() {" });
        for (place, ((signal, name), update)) in
            request.plan.signals.iter().zip(short).zip(updates).enumerate()
        {
            if let Some(drive) = self.named.drive(place) {
                let (_, with) = generics(over_the_bus || drive.lines == DirectionLines::Beside);
                self.line(format!("    set_{name}{with}({}Level::saturating(0));", camel(name)));
            } else if let (Some(off), Some(_), None) = (signal.off, update, self.named.first_line(place)) {
                let (_, with) = generics(over_the_bus);
                self.line(format!("    put_{name}{with}({off});"));
            }
        }
        self.line("}");
    }

    /// The functions that all accesses go through, of the widths that there are.
    fn accesses(&mut self) {
        for bits in self.reads.clone() {
            self.line(format!(
                "\nfn read{bits}(address: usize) -> u{bits} {{\n    \
                     // SAFETY: the addresses are those of registers that the part has.\n    \
                     unsafe {{ core::ptr::read_volatile(address as *const u{bits}) }}\n}}"
            ));
        }
        for bits in self.writes.clone() {
            self.line(format!(
                "\nfn write{bits}(address: usize, value: u{bits}) {{\n    \
                     // SAFETY: the addresses are those of registers that the part has.\n    \
                     unsafe {{ core::ptr::write_volatile(address as *mut u{bits}, value) }}\n}}"
            ));
        }
    }
}

/// A value without the parentheses around all of it.
fn bare(value: &str) -> &str {
    let Some(inner) = value.strip_prefix('(').and_then(|inner| inner.strip_suffix(')')) else { return value };
    let mut depth = 0_i32;
    let closed = inner.chars().all(|letter| {
        depth += i32::from(letter == '(') - i32::from(letter == ')');
        depth >= 0
    });
    if closed { inner } else { value }
}

/// A register's address.
fn address(register: &RegisterPlace) -> Result<String, EmitError> {
    let address = register.address.ok_or_else(|| EmitError::Address(register.name.clone()))?;
    Ok(number(address, if address > 0xFFFF { 32 } else { 16 }))
}

/// A number with all digits of its width.
fn number(value: u64, bits: u32) -> String {
    let digits = usize::try_from(bits.div_ceil(4)).unwrap_or(1);
    format!("0x{value:0digits$X}")
}

/// The type that holds numbers up to one.
fn word(largest: u64) -> String {
    format!("u{}", type_bits(largest))
}

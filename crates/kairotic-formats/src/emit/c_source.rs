//! The source: the steps of the program, and new compare values.

use kairotic_core::board::{DirectionLines, PlannedLevels, PlannedSignal};
use kairotic_core::part::{Access, largest};
use kairotic_core::program::{Action, CompareUpdate, ProgramStep, RegisterWrite, TakeOver};
use kairotic_core::quantity::Rational;
use kairotic_core::setting::Written;

use super::c_write::{CWriter, number, word};
use super::code::{CodeText, EmittedFrom};
use super::held::EmittedHold;
use super::words::microseconds;
use super::{EmitError, Named, c_drive, c_transfer};
use crate::map_code::{self, Language};

/// The source's text.
pub(super) fn source(named: &Named<'_>) -> Result<CodeText, EmitError> {
    let macros = named.board.to_uppercase();
    let mut c = CWriter { macros: &macros, code: CodeText::default() };
    c.line(format!("#include <limits.h>\n\n#include \"{}.h\"\n", named.board));
    assumed(&mut c, named);
    c.comment("", &["All accesses go through these two; a test may put others in their place.".to_owned()]);
    c.line(format!("#ifndef {macros}_WRITE"));
    c.line(format!(
        "#define {macros}_READ(bits, address) (*(volatile uint##bits##_t *)(uintptr_t)(address))"
    ));
    c.line(format!("#define {macros}_WRITE(bits, address, value) \\"));
    c.line("    (*(volatile uint##bits##_t *)(uintptr_t)(address) = (uint##bits##_t)(value))\n#endif\n");
    for (function, why) in named.supplies().into_iter().chain(named.special_supplies()) {
        c.line(format!(
            "#ifndef {}_SUPPLIED\n#error \"{function}() has to be supplied: {}\"\n#endif",
            function.to_uppercase(),
            quoted(&why)
        ));
    }
    if named.needs_supplied() {
        c.line("");
    }
    for step in &named.request.plan.program.steps {
        if let Action::Buffer { name, bits, words } = &step.action {
            let buffer = named.buffer(name)?;
            let values: Vec<String> = words.iter().map(|word| number(*word, *bits)).collect();
            c.line(format!(
                "static volatile uint{bits}_t {buffer}[{}] = {{ {} }};\n",
                words.len(),
                values.join(", ")
            ));
        }
    }
    let drives =
        || named.drives.iter().zip(&named.signals).filter_map(|(drive, name)| Some(((*drive)?, name)));
    for (drive, name) in drives() {
        c_drive::state(&mut c, name, drive);
    }
    c.line(format!("void {}_start(void)\n{{", named.board));
    for (drive, name) in drives() {
        c_drive::begun(&mut c, name, drive);
        if drive.lines == DirectionLines::Beside {
            c.line(format!("    {name}_direction({});", drive.begins));
        }
    }
    for step in &named.request.plan.program.steps {
        c.code.from = named.origin_of(step);
        statement(&mut c, named, step)?;
    }
    c.code.from = EmittedFrom::Board;
    c.line("}\n");
    setters(&mut c, named)?;
    holds(&mut c, named)?;
    stop(&mut c, named)?;
    Ok(c.code)
}

/// What the code takes for granted, so that it does not compile where that is not so.
fn assumed(c: &mut CWriter<'_>, named: &Named<'_>) {
    let (board, macros) = (&named.board, c.macros);
    let bytes = named.address_bits() / 8;
    c.comment(
        "",
        &[format!("Taken for granted: bytes of eight bits, and pointers of {bytes} bytes or more.")],
    );
    c.line(format!("typedef char {board}_assert_bytes[(CHAR_BIT == 8) ? 1 : -1];"));
    c.line(format!("typedef char {board}_assert_pointers[(sizeof(uintptr_t) >= {bytes}U) ? 1 : -1];\n"));
    let clock = &named.request.board.clock;
    let system = clock.system.or(clock.frequency).map(|clock| clock.nominal.value());
    if let Some(hz) = system.filter(|hz| hz.is_whole()).map(Rational::floor) {
        c.code.from = EmittedFrom::Clock;
        let told = format!("A build that states its clock as {macros}_CLOCK_HZ is held to the plan's.");
        c.comment("", &[told]);
        c.line(format!("#if defined({macros}_CLOCK_HZ) && {macros}_CLOCK_HZ != {hz}UL"));
        c.line(format!("#error \"the plan is for a clock of {hz} Hz\"\n#endif\n"));
        c.code.from = EmittedFrom::Board;
    }
}

/// One step.
fn statement(c: &mut CWriter<'_>, named: &Named<'_>, step: &ProgramStep) -> Result<(), EmitError> {
    let told = |name: &str| vec![format!("{name}: {}", step.why)];
    match &step.action {
        Action::Write(write) => {
            c.comment("    ", &told(&write.register.name));
            one_write(c, named, write)?;
        }
        Action::Until { register, mask, value } => {
            c.comment("    ", &told(&register.name));
            let (mask, value) = (number(*mask, register.bits), number(*value, register.bits));
            c.line(format!("    while (({} & {mask}) != {value}) {{\n    }}", c.read(register)?));
        }
        Action::Delay { time } => {
            c.comment("    ", std::slice::from_ref(&step.why));
            c.line(format!("    {}_delay_us({}UL);", named.board, microseconds(*time)));
        }
        Action::Supply { function } => {
            c.comment("    ", std::slice::from_ref(&step.why));
            c.line(format!("    {}();", named.supplied(function)));
        }
        Action::Buffer { .. } | Action::Programmed { .. } => {}
        Action::Transfer { register, bytes, .. } => {
            c.comment("    ", &told(register));
            c_transfer::step(c, named, bytes);
        }
        Action::Attribute { .. } => {
            return Err(EmitError::Elsewhere(named.request.board.part.clone()));
        }
    }
    Ok(())
}

fn one_write(c: &mut CWriter<'_>, named: &Named<'_>, write: &RegisterWrite) -> Result<(), EmitError> {
    let RegisterWrite { register, value, mask, unlock, .. } = write;
    let value = match value {
        Written::Number(value) => number(*value, register.bits),
        Written::AddressOf(name) => {
            format!("(uintptr_t){}", named.buffer(&named.buffer_named(&register.name, name))?)
        }
    };
    let whole = write.is_whole() || register.access == Access::WriteOnly;
    let Some((first, unlock)) = unlock else {
        return match whole {
            true => c.write(register, &value),
            false => c.modify(register, *mask, &value),
        };
    };
    // What is written is worked out before: between the two writes there is no time for it.
    let bits = register.bits;
    let text = if whole { value } else { c.modified(register, *mask, &value)? };
    c.line("    {");
    c.line(format!("        const uint{bits}_t value = (uint{bits}_t)({text});"));
    let (first, second) =
        (c.written(first, &number(unlock.value, first.bits))?, c.written(register, "value")?);
    c.line(format!("        {first}\n        {second} /* within {} cycles */\n    }}", unlock.within));
    Ok(())
}

/// New compare values.
fn setters(c: &mut CWriter<'_>, named: &Named<'_>) -> Result<(), EmitError> {
    let signals = named.request.plan.signals.iter().zip(&named.signals).zip(&named.updates);
    for (place, ((signal, name), update)) in signals.enumerate() {
        let Some(update) = update else { continue };
        c.code.from = EmittedFrom::Signal(place);
        let upper = name.to_uppercase();
        let (word, most) = (word(update.largest), update.largest);
        c.line(format!("static void {name}_put({word} compare)\n{{"));
        put(c, named, update)?;
        if named.is_driven(place) {
            // What a drive sets has no other function: it would turn the motor round without a pause.
            c.line("}\n");
            continue;
        }
        c.line(format!("}}\n\nvoid {name}_set_compare({word} compare)\n{{"));
        // A limit at an end of the type needs no look.
        if signal.limits[0] > 0 {
            c.line(format!("    if (compare < {upper}_COMPARE_LOWEST) {{\n        compare = {upper}_COMPARE_LOWEST;\n    }}"));
        }
        if signal.limits[1] < most {
            c.line(format!("    if (compare > {upper}_COMPARE_HIGHEST) {{\n        compare = {upper}_COMPARE_HIGHEST;\n    }}"));
        }
        c.line(format!("    {name}_put(compare);\n}}\n"));
        if let Some(levels) = named.settable_levels(place) {
            set(c, name, signal, levels, &word);
        }
    }
    // Both lines are there by now.
    for (place, signal) in named.request.plan.signals.iter().enumerate() {
        if let (Some(_), Some(levels)) = (named.drive(place), named.settable_levels(place)) {
            c.code.from = EmittedFrom::Signal(place);
            c_drive::defined(c, named, (place, signal), levels);
        }
    }
    Ok(())
}

/// A level in the load's unit.
fn set(c: &mut CWriter<'_>, name: &str, signal: &PlannedSignal, levels: &PlannedLevels, word: &str) {
    let map = &levels.scaled;
    c.line(map_code::inner_function(Language::C, &format!("{name}_compare_of"), map));
    let (upper, bits) = (name.to_uppercase(), map.request.word.bits());
    let sign = if levels.lowest < 0 { "" } else { "u" };
    c.line(format!("void {name}_set(int16_t level)\n{{"));
    c.line(format!(
        "    if (level < {upper}_LEVEL_LOWEST) {{\n        level = {upper}_LEVEL_LOWEST;\n    }}"
    ));
    c.line(format!(
        "    if (level > {upper}_LEVEL_HIGHEST) {{\n        level = {upper}_LEVEL_HIGHEST;\n    }}"
    ));
    let put = format!("{name}_put(({word}){name}_compare_of(({sign}int{bits}_t)level));");
    match signal.off.filter(|_| levels.rests_at_zero) {
        Some(off) => c.line(format!(
            "    if (level == 0) {{\n        {name}_put({off}U);\n    }} else {{\n        {put}\n    }}\n}}\n"
        )),
        None => c.line(format!("    {put}\n}}\n")),
    }
}

/// The writes of one compare value.
fn put(c: &mut CWriter<'_>, named: &Named<'_>, update: &CompareUpdate) -> Result<(), EmitError> {
    if let Some(transfer) = &update.transfer {
        c_transfer::put(c, named, transfer);
    }
    for part in &update.parts {
        let register = &part.register;
        let narrow = largest(part.mask.count_ones());
        let down = if part.down > 0 { format!("(compare >> {})", part.down) } else { "compare".to_owned() };
        let cut = if update.parts.len() > 1 && part.mask != largest(part.bits) {
            format!("({down} & {})", number(narrow, register.bits))
        } else {
            down
        };
        let placed = match part.up {
            0 => cut,
            up => format!("((uint{}_t){cut} << {up})", register.bits),
        };
        if let Some(word) = part.word {
            let buffer = named.buffer(&named.buffer_of(&register.name))?;
            let (bits, keep) = (part.bits, number(largest(part.bits) & !part.mask, part.bits));
            c.line(format!("    {buffer}[{word}] = (uint{bits}_t)(({buffer}[{word}] & {keep}) | {placed});"));
        } else if part.mask == largest(part.bits) {
            c.write(register, &placed)?;
        } else {
            c.modify(register, part.mask, &placed)?;
        }
    }
    update.then.iter().try_for_each(|taken| taken_over(c, taken))
}

/// The write of a field that holds new compare values, or takes them over.
fn taken_over(c: &mut CWriter<'_>, taken: &TakeOver) -> Result<(), EmitError> {
    c.comment("    ", &[format!("{}: {}", taken.register.name, taken.means)]);
    let value = number(taken.value, taken.register.bits);
    match taken.register.access {
        Access::WriteOnly => c.write(&taken.register, &value),
        _ => c.modify(&taken.register, taken.mask, &value),
    }
}

/// What keeps the new compare values of a timer's channels waiting, and lets them go.
fn holds(c: &mut CWriter<'_>, named: &Named<'_>) -> Result<(), EmitError> {
    c.code.from = EmittedFrom::Board;
    for EmittedHold { timer, held, .. } in &named.holds {
        for (does, taken) in [("hold", &held.begin), ("release", &held.end)] {
            c.line(format!("void {}_{timer}_{does}(void)\n{{", named.board));
            taken_over(c, taken)?;
            c.line("}\n");
        }
    }
    Ok(())
}

/// All signals at rest.
fn stop(c: &mut CWriter<'_>, named: &Named<'_>) -> Result<(), EmitError> {
    c.code.from = EmittedFrom::Board;
    c.line(format!("void {}_stop(void)\n{{", named.board));
    let signals = named.request.plan.signals.iter().zip(&named.signals).zip(&named.updates);
    for (place, ((signal, name), update)) in signals.enumerate() {
        if named.drive(place).is_some() {
            c.line(format!("    {name}_set(0);"));
        } else if let (Some(off), Some(_), None) = (signal.off, update, named.first_line(place)) {
            c.line(format!("    {name}_put({off}U);"));
        }
    }
    c.line("}");
    Ok(())
}

/// A text inside a string of the preprocessor.
fn quoted(text: &str) -> String {
    text.replace(['"', '\\'], "'")
}

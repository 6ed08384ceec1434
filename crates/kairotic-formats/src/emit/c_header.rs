//! The header: what the firmware is promised, and the numbers of the plan.

use kairotic_core::board::PlannedLevels;
use kairotic_core::part::UpdatePoint;
use kairotic_core::setting::Setting;

use super::c_write::{CWriter, word};
use super::code::{CodeText, EmittedFrom};
use super::words::part_of_unit;
use super::{Named, c_drive};

/// The header's text.
pub(super) fn header(named: &Named<'_>) -> CodeText {
    let macros = named.board.to_uppercase();
    let mut c = CWriter { macros: &macros, code: CodeText::default() };
    c.line(format!("#ifndef {macros}_H\n#define {macros}_H\n\n#include <stdint.h>\n"));
    for place in 0..named.signals.len() {
        c.code.from = EmittedFrom::Signal(place);
        numbers(&mut c, named, place);
    }
    c.code.from = EmittedFrom::Board;
    lines(&mut c, named);
    supplied(&mut c, named);
    c.comment("", &start_told(named));
    c.line(format!("void {}_start(void);\n", named.board));
    stop(&mut c, named);
    for place in 0..named.signals.len() {
        c.code.from = EmittedFrom::Signal(place);
        set(&mut c, named, place);
    }
    c.code.from = EmittedFrom::Board;
    for hold in &named.holds {
        let name = format!("{}_{}", named.board, hold.timer);
        c.comment("", &hold.told(&format!("{name}_release")));
        c.line(format!("void {name}_hold(void);\nvoid {name}_release(void);\n"));
    }
    c.line(format!("#endif /* {macros}_H */"));
    c.code
}

/// The numbers of one signal.
fn numbers(c: &mut CWriter<'_>, named: &Named<'_>, place: usize) {
    let (plan, part) = (named.request.plan, &named.request.board.part);
    let of_plan = plan.signals.get(place).zip(named.signals.get(place));
    let Some((signal, name)) = of_plan else { return };
    let (Some(plan), name) = (plan.timers.get(signal.timer), name.to_uppercase()) else { return };
    let Setting { clock, frequency, ticks, plan: registers, outputs, .. } = &plan.setting;
    let pin = plan.pins.get(&signal.channel).map(|pin| format!(" on {pin}")).unwrap_or_default();
    let output = outputs.iter().find(|output| output.channel == signal.channel);
    let pulse =
        output.map(|output| format!(", active {} a period", output.pulse.rounded(6))).unwrap_or_default();
    let of = format!("{part}/{}/{}{pin}", plan.timer.name, signal.channel);
    let told = format!("{}: {of}, {} from {}{pulse}", signal.name, frequency.rounded(9), clock.rounded(9));
    c.comment("", &[told]);
    c.line(format!("#define {name}_TOP {}UL", registers.top));
    c.line(format!("#define {name}_TICKS {ticks}UL"));
    if let Some(compare) = signal.compare {
        let [lowest, highest] = signal.limits;
        c.line(format!("#define {name}_COMPARE {compare}UL"));
        c.line(format!("#define {name}_COMPARE_LOWEST {lowest}UL"));
        c.line(format!("#define {name}_COMPARE_HIGHEST {highest}UL"));
    }
    if let Some(levels) = named.settable_levels(place) {
        let (lowest, highest) = named.level_ends(place, levels);
        let PlannedLevels { unit, per_unit, .. } = levels;
        c.comment("", &[format!("Levels are in {}.", part_of_unit(unit, *per_unit))]);
        c.line(format!("#define {name}_LEVELS_PER_UNIT {per_unit}"));
        c.line(format!("#define {name}_LEVEL_LOWEST ({lowest})"));
        c.line(format!("#define {name}_LEVEL_HIGHEST {highest}"));
        if let Some(drive) = named.drive(place) {
            c.line(format!("#define {name}_PAUSE_MS {}U", drive.pause_ms));
        }
    }
    c.line("");
}

/// The lines of reversible drives that this code does not drive.
fn lines(c: &mut CWriter<'_>, named: &Named<'_>) {
    for name in named.one_sided(true) {
        let told = format!(
            "{name}: its drive has a second line, for the other direction. That one is left to the firmware."
        );
        c.comment("", &[told]);
        c.line("");
    }
}

/// What the developer has to supply, since the catalogue does not know it.
fn supplied(c: &mut CWriter<'_>, named: &Named<'_>) {
    for (function, why) in named.supplies() {
        c.comment("", &[format!("To be supplied: {why}")]);
        c.line(format!("void {function}(void);\n"));
    }
    for (function, why) in named.direction_supplies() {
        c.comment("", &[format!("To be supplied: {why}.")]);
        c.line(format!("void {function}(int8_t direction);\n"));
    }
    if let Some(device) = named.device() {
        let told = [
            "The device's address on the bus, seven bits; the lines of the package may say another, which the build then defines."
                .to_owned(),
        ];
        c.comment("", &told);
        let name = format!("{}_BUS_ADDRESS", c.macros);
        c.line(format!("#ifndef {name}\n#define {name} 0x{device:02X}U\n#endif\n"));
        let told = ["To be supplied: sends so many bytes to the device, the first of them a register's address, as one transfer.".to_owned()];
        c.comment("", &told);
        c.line(format!(
            "void {}_transfer(uint8_t device, const uint8_t *bytes, uint8_t count);\n",
            named.board
        ));
    }
    if named.delays() {
        c.comment("", &["To be supplied: waits for so many microseconds, or longer.".to_owned()]);
        c.line(format!("void {}_delay_us(uint32_t us);\n", named.board));
    }
}

/// What the function that starts everything relies on.
fn start_told(named: &Named<'_>) -> Vec<String> {
    let mut told = vec![
        "From reset to moving pins: clocks, gates, pins, values, outputs; the counters start last."
            .to_owned(),
        "It waits for ready flags without end. Interrupts have to be off.".to_owned(),
    ];
    told.extend(named.programmed());
    told
}

/// The function that puts all signals to rest, where that can be done by their compare values.
fn stop(c: &mut CWriter<'_>, named: &Named<'_>) {
    let never: Vec<&str> = named.moving().map(|signal| signal.name.as_str()).collect();
    let mut told = vec!["Puts the signals to rest: constantly inactive. The counters go on.".to_owned()];
    if !never.is_empty() {
        told.push(format!("No compare value does that for {}: those keep what they have.", never.join(", ")));
    }
    c.comment("", &told);
    c.line(format!("void {}_stop(void);\n", named.board));
}

/// The function that sets the compare value of one signal.
fn set(c: &mut CWriter<'_>, named: &Named<'_>, place: usize) {
    let of_plan = named.request.plan.signals.get(place).zip(named.signals.get(place));
    let Some((signal, name)) = of_plan else { return };
    if let Some(first) = named.first_line(place).and_then(|first| named.signals.get(first)) {
        c.comment("", &[format!("{} is set by {first}_set().", signal.name)]);
        c.line("");
        return;
    }
    if let (Some(_), Some(levels)) = (named.drive(place), named.settable_levels(place)) {
        return c_drive::declared(c, named, place, levels);
    }
    let Some(update) = named.updates.get(place).and_then(Option::as_ref) else {
        let told = format!(
            "{}: another compare value takes more than a write of its register; there is no function for it.",
            signal.name
        );
        c.comment("", &[told]);
        c.line("");
        return;
    };
    let when = match update.update {
        _ if update.transfer.is_some() => {
            "after the transfer; whether it waits for a new period is not certain"
        }
        UpdatePoint::Immediate => "at once: a pulse under way may be cut or doubled",
        UpdatePoint::Bottom => "when the next period begins",
        UpdatePoint::Top => "at the top of the counter",
        UpdatePoint::Both => "at the top and at the bottom of the counter",
    };
    let [lowest, highest] = signal.limits;
    c.comment(
        "",
        &[
            format!(
                "Sets the compare value of {}; one outside {lowest} to {highest} is taken to the nearer end.",
                signal.name
            ),
            format!("It takes effect {when}. Not to be interrupted by what touches the same timer."),
        ],
    );
    c.line(format!("void {name}_set_compare({} compare);\n", word(update.largest)));
    if let Some(levels) = named.settable_levels(place) {
        let PlannedLevels { unit, per_unit, lowest, highest, rests_at_zero, .. } = levels;
        let mut told = vec![format!(
            "Sets {} in {}, from {lowest} to {highest}; one outside is taken to the nearer end.",
            signal.name,
            part_of_unit(unit, *per_unit)
        )];
        if *rests_at_zero && signal.off.is_some() {
            told.push("At 0 the output is constantly inactive.".to_owned());
        }
        c.comment("", &told);
        c.line(format!("void {name}_set(int16_t level);\n"));
    }
}

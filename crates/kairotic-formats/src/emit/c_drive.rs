//! C for motors that turn both ways: a level of either sign, and a pause before the motor turns round.

use kairotic_core::board::{DirectionLines, PlannedLevels, PlannedSignal};

use super::Named;
use super::c_write::{CWriter, word};
use super::drives::EmittedDrive;
use super::words::part_of_unit;
use crate::map_code::{self, Language};

/// The functions of a drive as the header tells them.
pub(super) fn declared(c: &mut CWriter<'_>, named: &Named<'_>, place: usize, levels: &PlannedLevels) {
    let of_plan = named.request.plan.signals.get(place).zip(named.signals.get(place));
    let (Some((signal, name)), Some(drive)) = (of_plan, named.drive(place)) else { return };
    let (lowest, highest) = named.level_ends(place, levels);
    let of = part_of_unit(levels.unit, levels.per_unit);
    let way = match drive.lines {
        DirectionLines::Second(second) => {
            let other = named.request.plan.signals.get(second).map_or("", |other| other.name.as_str());
            format!("Below 0 the PWM is on the line of {other}; a line without it is constantly inactive.")
        }
        DirectionLines::Beside => "Below 0 it turns the other way, by its direction lines.".to_owned(),
    };
    let pause = drive.pause_ms;
    c.comment(
        "",
        &[
            format!("Sets {} in {of}, from {lowest} to {highest}; one outside is taken to the nearer end.", signal.name),
            way,
            format!("Before it turns the other way it is at rest for {pause} ms or longer, which {name}_tick() counts from"),
            "its next call on: the level waits until then. A level set meanwhile takes its place.".to_owned(),
        ],
    );
    c.line(format!("void {name}_set(int16_t level);"));
    c.comment(
        "",
        &[format!(
            "Tells {} that so many milliseconds have gone by. Not to be interrupted by {name}_set().",
            signal.name
        )],
    );
    c.line(format!("void {name}_tick(uint{}_t elapsed_ms);\n", drive.pause_bits()));
}

/// What a drive knows of itself.
pub(super) fn state(c: &mut CWriter<'_>, name: &str, drive: EmittedDrive) {
    let pause = drive.pause_bits();
    c.line(format!(
        "/* What is wanted, which way it last turned, whether it is driven, and what is left of the pause, where that\n   \
            counts already. */\n\
         static int16_t {name}_wanted;\n\
         static int8_t {name}_way;\n\
         static uint8_t {name}_driven;\n\
         static uint8_t {name}_counts;\n\
         static uint{pause}_t {name}_pause_ms;\n"
    ));
}

/// What it knows from the start, however often that comes.
pub(super) fn begun(c: &mut CWriter<'_>, name: &str, drive: EmittedDrive) {
    let (way, driven) = (drive.begins, i32::from(drive.begins != 0));
    c.line(format!("    {name}_way = {way};\n    {name}_driven = {driven};\n    {name}_pause_ms = 0;"));
}

/// The functions of a drive. `signal` is the one on its first line.
pub(super) fn defined(
    c: &mut CWriter<'_>,
    named: &Named<'_>,
    (place, signal): (usize, &PlannedSignal),
    levels: &PlannedLevels,
) {
    let (Some(name), Some(drive)) = (named.signals.get(place), named.drive(place)) else { return };
    let map = &levels.scaled;
    let update = named.updates.get(place).and_then(Option::as_ref);
    let (Some(off), Some(word)) = (signal.off, update.map(|update| word(update.largest))) else { return };
    c.line(map_code::inner_function(Language::C, &format!("{name}_compare_of"), map));
    let (upper, bits, pause) = (name.to_uppercase(), map.request.word.bits(), drive.pause_bits());
    let EmittedDrive { lines, .. } = drive;
    let second = match lines {
        DirectionLines::Second(second) => named.signals.get(second),
        DirectionLines::Beside => None,
    };
    let turn = |direction: &str| match (&second, named.direction(place)) {
        (None, Some(function)) => format!("\n        {function}({direction});"),
        _ => String::new(),
    };
    let rest = second.map(|second| format!("\n        {second}_put({off}U);")).unwrap_or_default();
    let rest = format!("{name}_put({off}U);{rest}{}", turn("0"));
    let drive = match second {
        Some(second) => format!(
            "if (direction > 0) {{\n        {name}_put(compare);\n    }} else {{\n        {second}_put(compare);\n    }}"
        ),
        None => format!("{}\n    {name}_put(compare);", turn("direction").trim_start()),
    };
    c.line(format!(
        "static void {name}_follow(void)\n{{\n    \
             const int16_t level = {name}_wanted;\n    \
             const int8_t direction = (int8_t)((level > 0) - (level < 0));\n    \
             {word} compare;\n    \
             if ({name}_driven != 0 && direction != {name}_way) {{\n        \
                 {rest}\n        \
                 {name}_driven = 0;\n        \
                 {name}_counts = 0;\n        \
                 {name}_pause_ms = {upper}_PAUSE_MS;\n    \
             }}\n    \
             if (direction == 0 || (direction != {name}_way && {name}_pause_ms > 0)) {{\n        \
                 return;\n    \
             }}\n    \
             compare = ({word}){name}_compare_of((uint{bits}_t)(direction < 0 ? -level : level));\n    \
             {name}_way = direction;\n    \
             {name}_driven = 1;\n    \
             {drive}\n\
         }}\n\n\
         void {name}_set(int16_t level)\n{{\n    \
             if (level < {upper}_LEVEL_LOWEST) {{\n        level = {upper}_LEVEL_LOWEST;\n    }}\n    \
             if (level > {upper}_LEVEL_HIGHEST) {{\n        level = {upper}_LEVEL_HIGHEST;\n    }}\n    \
             {name}_wanted = level;\n    \
             {name}_follow();\n\
         }}\n\n\
         void {name}_tick(uint{pause}_t elapsed_ms)\n{{\n    \
             /* What went by before the first call is no part of the pause. */\n    \
             if ({name}_pause_ms == 0 || {name}_counts == 0) {{\n        \
                 {name}_counts = 1;\n        return;\n    \
             }}\n    \
             if (elapsed_ms < {name}_pause_ms) {{\n        \
                 {name}_pause_ms = (uint{pause}_t)({name}_pause_ms - elapsed_ms);\n        return;\n    \
             }}\n    \
             {name}_pause_ms = 0;\n    \
             {name}_follow();\n\
         }}\n"
    ));
}

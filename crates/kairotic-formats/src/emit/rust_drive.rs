//! Rust for motors that turn both ways: the same as in C.

use kairotic_core::board::{DirectionLines, PlannedLevels, PlannedSignal};

use super::Named;
use super::drives::EmittedDrive;
use super::words::{camel, generics, part_of_unit, type_bits};
use crate::map_code::{self, Language};

/// What a drive knows from the start, however often that comes.
pub(super) fn begun(name: &str, drive: EmittedDrive) -> String {
    let (upper, relaxed) = (name.to_uppercase(), "core::sync::atomic::Ordering::Relaxed");
    let (way, driven) = (drive.begins, drive.begins != 0);
    format!(
        "    {upper}_WAY.store({way}, {relaxed});\n    {upper}_DRIVEN.store({driven}, {relaxed});\n    {upper}_PAUSE_LEFT.store(0, {relaxed});"
    )
}

/// The functions of a drive. `signal` is the one on its first line.
pub(super) fn defined(
    named: &Named<'_>,
    (place, signal): (usize, &PlannedSignal),
    levels: &PlannedLevels,
) -> Option<String> {
    let (name, drive) = (named.short.get(place)?, named.drive(place)?);
    let (off, update) = (signal.off?, named.updates.get(place)?.as_ref()?);
    let map = &levels.scaled;
    let (kind, upper, word) = (camel(name), name.to_uppercase(), format!("u{}", type_bits(update.largest)));
    let (bits, pause) = (map.request.word.bits(), drive.pause_bits());
    let EmittedDrive { lines, pause_ms, .. } = drive;
    let second = match lines {
        DirectionLines::Second(second) => Some(named.short.get(second)?),
        DirectionLines::Beside => None,
    };
    let of = &signal.name;
    let way = match second {
        Some(other) => {
            format!("below 0 the PWM is on the line of {other}, and the other line is constantly inactive")
        }
        None => "below 0 it turns the other way, by its direction lines".to_owned(),
    };
    let over_the_bus = named.device().is_some();
    let (supplied, with) = generics(second.is_none() || over_the_bus);
    let (_, over) = generics(over_the_bus);
    let turn = |direction: &str| match second {
        Some(_) => String::new(),
        None => format!("\n        S::{name}_direction({direction});"),
    };
    let rest = second.map(|second| format!("\n        put_{second}{over}({off});")).unwrap_or_default();
    let rest = format!("put_{name}{over}({off});{rest}{}", turn("0"));
    let driven = match second {
        Some(second) => format!(
            "if direction > 0 {{\n        put_{name}{over}(compare);\n    }} else {{\n        put_{second}{over}(compare);\n    }}"
        ),
        None => format!("{}\n    put_{name}{over}(compare);", turn("direction").trim_start()),
    };
    let input = match bits {
        16 => "level.unsigned_abs()".to_owned(),
        bits => format!("u{bits}::from(level.unsigned_abs())"),
    };
    let compare = format!("{name}_compare_of({input})");
    let compare = if word == format!("u{bits}") { compare } else { format!("{compare} as {word}") };
    let (atomic, relaxed) = ("core::sync::atomic", "core::sync::atomic::Ordering::Relaxed");
    let unit = part_of_unit(levels.unit, levels.per_unit);
    let map = map_code::inner_function(Language::Rust, &format!("{name}_compare_of"), map);
    let capital = format!("AtomicU{pause}");
    Some(format!(
        "{map}\n\
         /// The pause of {of} before it turns the other way, in milliseconds.\n\
         pub const {upper}_PAUSE_MS: u{pause} = {pause_ms};\n\n\
         static {upper}_WANTED: {atomic}::AtomicI16 = {atomic}::AtomicI16::new(0);\n\
         static {upper}_WAY: {atomic}::AtomicI8 = {atomic}::AtomicI8::new(0);\n\
         static {upper}_DRIVEN: {atomic}::AtomicBool = {atomic}::AtomicBool::new(false);\n\
         static {upper}_COUNTS: {atomic}::AtomicBool = {atomic}::AtomicBool::new(false);\n\
         static {upper}_PAUSE_LEFT: {atomic}::{capital} = {atomic}::{capital}::new(0);\n\n\
         /// Sets the level of {of}, in {unit}: {way}. Before it turns the other way it is at rest for the pause or longer,\n\
         /// which [`tick_{name}`] counts from its next call on: the level waits until then. A level set meanwhile takes its place.\n\
         pub fn set_{name}{supplied}(level: {kind}Level) {{\n    \
             {upper}_WANTED.store(level.get(), {relaxed});\n    \
             follow_{name}{with}();\n\
         }}\n\n\
         /// Tells {of} that so many milliseconds have gone by. Not to be interrupted by [`set_{name}`].\n\
         pub fn tick_{name}{supplied}(elapsed_ms: u{pause}) {{\n    \
             let left = {upper}_PAUSE_LEFT.load({relaxed});\n    \
             // What went by before the first call is no part of the pause.\n    \
             if left == 0 || !{upper}_COUNTS.load({relaxed}) {{\n        \
                 {upper}_COUNTS.store(true, {relaxed});\n        return;\n    \
             }}\n    \
             {upper}_PAUSE_LEFT.store(left.saturating_sub(elapsed_ms), {relaxed});\n    \
             if elapsed_ms >= left {{\n        follow_{name}{with}();\n    }}\n\
         }}\n\n\
         fn follow_{name}{supplied}() {{\n    \
             let level = {upper}_WANTED.load({relaxed});\n    \
             let (direction, way) = (level.signum() as i8, {upper}_WAY.load({relaxed}));\n    \
             if {upper}_DRIVEN.load({relaxed}) && direction != way {{\n        \
                 {rest}\n        \
                 {upper}_DRIVEN.store(false, {relaxed});\n        \
                 {upper}_COUNTS.store(false, {relaxed});\n        \
                 {upper}_PAUSE_LEFT.store({upper}_PAUSE_MS, {relaxed});\n    \
             }}\n    \
             if direction == 0 || (direction != way && {upper}_PAUSE_LEFT.load({relaxed}) > 0) {{\n        \
                 return;\n    \
             }}\n    \
             let compare = {compare};\n    \
             {upper}_WAY.store(direction, {relaxed});\n    \
             {upper}_DRIVEN.store(true, {relaxed});\n    \
             {driven}\n\
         }}\n"
    ))
}

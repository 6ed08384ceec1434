//! A sequence as C99.

use kairotic_core::sequence::SequencePlan;

use super::TrackCode;
use super::moves::MoveCode;
use crate::code_text::{c_type, list};

/// All in one file.
pub(super) fn module(
    name: &str,
    plan: &SequencePlan,
    tracks: &[TrackCode<'_>],
    moves: &[MoveCode<'_>],
) -> String {
    format!("{INCLUDES}\n{}{}", declarations(name, plan, tracks, moves), definitions(name, tracks, moves))
}

/// What declarations need.
pub(super) const INCLUDES: &str = "#include <stdbool.h>\n#include <stdint.h>\n";

/// What others call.
pub(super) fn declarations(
    name: &str,
    plan: &SequencePlan,
    tracks: &[TrackCode<'_>],
    moves: &[MoveCode<'_>],
) -> String {
    let moved: String = moves.iter().map(|code| code.c()).map(|[declared, _]| declared).collect();
    let declared: String = tracks
        .iter()
        .map(|track| {
            let (word, signal) = (c_type(track.value), &track.name);
            format!("/* {}. */\n{word} {name}_{signal}_next(void);\n\n", track.told())
        })
        .collect();
    format!(
        "/* {title}: {length}. */\n\n/* Begins the sequence. */\nvoid {name}_begin(void);\n\n\
         /* Whether every signal has its last compare value, and keeps it. */\nbool {name}_is_over(void);\n\n{declared}{moved}",
        title = plan.name,
        length = plan.length.rounded(9),
    )
}

/// What they do.
pub(super) fn definitions(name: &str, tracks: &[TrackCode<'_>], moves: &[MoveCode<'_>]) -> String {
    let moved: String = moves.iter().map(|code| code.c()).map(|[_, defined]| defined).collect();
    let each = |of: &dyn Fn(&TrackCode<'_>) -> String| tracks.iter().map(of).collect::<String>();
    let state = each(&|track| state(name, track));
    let begin = each(&|track| begin(name, track));
    let over: Vec<String> = tracks.iter().map(|track| is_over(name, track)).collect();
    let functions = each(&|track| next(name, track));
    format!(
        "{state}void {name}_begin(void)\n{{\n{begin}}}\n\nbool {name}_is_over(void)\n{{\n    return {over};\n}}\n{functions}{moved}",
        over = if over.is_empty() { "true".to_owned() } else { over.join("\n        && ") },
    )
}

fn state(name: &str, track: &TrackCode<'_>) -> String {
    let (word, values, count) = track.values();
    let own = format!("{name}_{}", track.name);
    let (values_name, value) = if track.is_apart() { ("apart", true) } else { ("values", false) };
    let mut text =
        format!("static const {} {own}_{values_name}[{count}] = {{\n{values}}};\n\n", c_type(word));
    if let Some(count) = track.table.count {
        let periods = list(track.table.periods.iter());
        text.push_str(&format!(
            "static const {} {own}_periods[{}] = {{\n{periods}}};\n\n",
            c_type(count),
            track.table.periods.len()
        ));
    }
    text.push_str(&format!(
        "static {} {own}_at;\nstatic {} {own}_left;\n",
        c_type(track.place),
        c_type(track.counter)
    ));
    if track.table.passes > 1 {
        text.push_str(&format!("static {} {own}_passes;\n", c_type(track.pass)));
    }
    if value {
        text.push_str(&format!("static {} {own}_value;\n", c_type(track.value)));
    }
    text + "\n"
}

fn begin(name: &str, track: &TrackCode<'_>) -> String {
    let own = format!("{name}_{}", track.name);
    let mut text = format!("    {own}_at = 0u;\n    {own}_left = {};\n", periods(&own, track, "0"));
    if track.table.passes > 1 {
        text.push_str(&format!("    {own}_passes = {}u;\n", track.table.passes));
    }
    if track.is_apart() {
        text.push_str(&format!("    {own}_value = {};\n", track.first()));
    }
    text
}

/// The periods of an entry.
fn periods(own: &str, track: &TrackCode<'_>, at: &str) -> String {
    match track.table.count {
        Some(_) => format!("{own}_periods[{at}]"),
        None => format!("{}u", track.table.periods.first().copied().unwrap_or(0)),
    }
}

fn is_over(name: &str, track: &TrackCode<'_>) -> String {
    let own = format!("{name}_{}", track.name);
    let passes = if track.table.passes > 1 { format!(" && {own}_passes == 1u") } else { String::new() };
    format!("{own}_left == 0u && {own}_at == {}u{passes}", track.last())
}

fn next(name: &str, track: &TrackCode<'_>) -> String {
    let (own, word, last) = (format!("{name}_{}", track.name), c_type(track.value), track.last());
    let (value, advance, again) = match track.is_apart() {
        true => (
            format!("{own}_value"),
            format!("            {own}_value = ({word})({own}_value + {own}_apart[{own}_at]);\n"),
            format!("            {own}_value = {};\n", track.first()),
        ),
        false => (format!("{own}_values[{own}_at]"), String::new(), String::new()),
    };
    let anew = match track.table.passes {
        1 => String::new(),
        _ => format!(
            " else if ({own}_passes > 1u) {{\n            {own}_passes--;\n            {own}_at = 0u;\n{again}        }}"
        ),
    };
    format!(
        "\n{word} {own}_next(void)\n{{\n    if ({own}_left == 0u) {{\n        if ({own}_at != {last}u) {{\n{advance}            {own}_at++;\n        }}{anew} else {{\n            return {value};\n        }}\n        {own}_left = {};\n    }}\n    {own}_left--;\n    return {value};\n}}\n",
        periods(&own, track, &format!("{own}_at"))
    )
}

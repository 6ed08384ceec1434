//! A sequence as Rust, without the standard library.

use kairotic_core::sequence::SequencePlan;

use super::TrackCode;
use super::moves::MoveCode;
use crate::code_text::{camel, list, rust_type};

pub(super) fn module(
    name: &str,
    plan: &SequencePlan,
    tracks: &[TrackCode<'_>],
    moves: &[MoveCode<'_>],
) -> String {
    let head = format!("//! {}: {}.\n", plan.name, plan.length.rounded(9));
    let tracks = tracks.iter().map(|track| signal(name, track));
    head + &tracks.chain(moves.iter().map(MoveCode::rust)).collect::<String>()
}

fn signal(name: &str, track: &TrackCode<'_>) -> String {
    let own = format!("{name}_{}", track.name);
    let (kind, shouted) = (camel(&own), own.to_uppercase());
    let (word, values, count) = track.values();
    let table = if track.is_apart() { format!("{shouted}_APART") } else { format!("{shouted}_VALUES") };
    let mut tables = format!("\nconst {table}: [{}; {count}] = [\n{values}];\n", rust_type(word));
    if let Some(count) = track.table.count {
        let periods = list(track.table.periods.iter());
        tables.push_str(&format!(
            "\nconst {shouted}_PERIODS: [{}; {}] = [\n{periods}];\n",
            rust_type(count),
            track.table.periods.len()
        ));
    }
    let periods = |at: &str| match track.table.count {
        Some(_) => format!("{shouted}_PERIODS[{at}]"),
        None => track.table.periods.first().copied().unwrap_or(0).to_string(),
    };
    let value = rust_type(track.value);
    let mut fields =
        format!("    at: {},\n    left: {},\n", rust_type(track.place), rust_type(track.counter));
    let mut begin = format!("at: 0, left: {}", periods("0"));
    let (again, mut over) =
        (track.table.passes > 1, format!("self.left == 0 && self.at == {}", track.last()));
    if again {
        fields.push_str(&format!("    passes: {},\n", rust_type(track.pass)));
        begin.push_str(&format!(", passes: {}", track.table.passes));
        over.push_str(" && self.passes == 1");
    }
    if track.is_apart() {
        fields.push_str(&format!("    value: {value},\n"));
        begin.push_str(&format!(", value: {}", track.first()));
    }
    let sum = if track.value.bits > 16 { "i64" } else { "i32" };
    let (given, advance, reset) = match track.is_apart() {
        true => (
            "self.value".to_owned(),
            format!(
                "                self.value = (self.value as {sum} + {table}[self.at as usize] as {sum}) as {value};\n"
            ),
            format!("                self.value = {};\n", track.first()),
        ),
        false if word == track.value => (format!("{table}[self.at as usize]"), String::new(), String::new()),
        false => (format!("{table}[self.at as usize] as {value}"), String::new(), String::new()),
    };
    let anew = match again {
        true => format!(
            " else if self.passes > 1 {{\n                self.passes -= 1;\n                self.at = 0;\n{reset}            }}"
        ),
        false => String::new(),
    };
    format!(
        "{tables}\n/// {told}.\n#[derive(Debug, Clone)]\npub struct {kind} {{\n{fields}}}\n\n\
         impl {kind} {{\n    /// From the beginning of the sequence.\n    #[allow(clippy::new_without_default)]\n    pub const fn new() -> Self {{\n        Self {{ {begin} }}\n    }}\n\n    \
         /// Whether it has its last compare value, and keeps it.\n    pub const fn is_over(&self) -> bool {{\n        {over}\n    }}\n\n    \
         /// The compare value of the next period; the last one again where the sequence is over.\n    pub fn next_compare(&mut self) -> {value} {{\n        if self.left == 0 {{\n            if self.at != {last} {{\n{advance}                self.at += 1;\n            }}{anew} else {{\n                return {given};\n            }}\n            self.left = {left};\n        }}\n        self.left -= 1;\n        {given}\n    }}\n}}\n",
        told = track.told(),
        last = track.last(),
        left = periods("self.at as usize"),
    )
}

//! What `clock` shows: ways through the clock tree. One file a question; here stands what the answers share.

mod board;
mod buses;
mod joint;
mod reach;
mod state;

use kairotic_core::clock::{Arrangement, Passage};
use kairotic_core::quantity::Deviation;
use kairotic_core::setting::FieldWrite;

pub use self::board::BoardClocksReport;
pub use self::buses::BusReport;
pub use self::joint::JointReport;
pub use self::reach::ReachReport;
pub use self::state::StateReport;
use super::words::{brief, frequency_error};
use crate::format::{Cell, Line};

/// The columns of the block `through`.
pub const THROUGH: &[&str] = &["node", "frequency", "how"];

/// The nodes that a clock passes.
pub fn through<'p>(passages: impl IntoIterator<Item = &'p Passage>) -> Vec<Line> {
    let row = |passage: &Passage| {
        Line::Row(vec![
            Cell::left(passage.title.clone()),
            Cell::point(brief(passage.frequency)),
            Cell::left(passage.how.clone()),
        ])
    };
    passages.into_iter().map(row).collect()
}

/// How far the source of a way may be off.
pub fn source_error(arrangement: &Arrangement) -> Vec<Line> {
    let rows = arrangement.accuracy.iter().enumerate().map(|(place, accuracy)| {
        let what = if place == 0 { "source error" } else { "" };
        let within = format!("{}..{}", accuracy.within.low, accuracy.within.high);
        Line::Row(vec![Cell::left(what), Cell::left(within), Cell::left(format!("at {}", accuracy.over))])
    });
    rows.collect()
}

/// The nodes on a way that the clock tree told, if it was asked.
pub fn way_lines(way: Option<&Arrangement>) -> Vec<Line> {
    way.map(|way| through(&way.passages)).unwrap_or_default()
}

/// What is written for a way in one line, without what is the rest of a field: `PLLM 6 PLLN 96`.
fn short(writes: &[FieldWrite]) -> String {
    let written = writes.iter().filter(|write| !write.note.is_empty());
    let words =
        written.map(|write| format!("{} {}", write.field.as_ref().unwrap_or(&write.register), write.written));
    words.collect::<Vec<_>>().join(" ")
}

fn error_words(error: Deviation) -> String {
    frequency_error(error, true)
}

/// The source of a way, with its frequency.
fn source(arrangement: &Arrangement) -> String {
    arrangement
        .passages
        .first()
        .map(|first| format!("from {}, {}", first.title, first.frequency))
        .unwrap_or_default()
}

fn assignment(write: &FieldWrite) -> String {
    format!("{}={}", write.name(), write.written)
}

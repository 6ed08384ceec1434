//! What `emit` shows: the files that it wrote, the signals in them, and what is left to the firmware.

use kairotic_core::board::{Board, BoardPlan};
use kairotic_formats::emit::Emitted;
use serde::Serialize;

use super::words::counted;
use crate::fault::Result;
use crate::format::{Cell, Line, Page, Report, Table, envelope};

/// What was made of a board.
#[derive(Debug, Serialize)]
pub struct EmitReport {
    part: String,
    files: Vec<SavedFile>,
    signals: Vec<EmittedSignal>,
    supply: Vec<SuppliedFunction>,
    /// Steppers of the board, which this code does not move.
    steppers: Vec<String>,
}

/// A file that was written.
#[derive(Debug, Serialize)]
struct SavedFile {
    file: String,
    lines: usize,
}

/// A signal in the code.
#[derive(Debug, Serialize)]
struct EmittedSignal {
    name: String,
    timer: String,
    channel: String,
    pin: Option<String>,
    compare: Option<u64>,
    limits: [u64; 2],
    settable: bool,
    one_sided: bool,
}

/// A function that the firmware has to supply.
#[derive(Debug, Serialize)]
struct SuppliedFunction {
    function: String,
    why: String,
}

impl EmitReport {
    /// The report on files that were written, each with its number of lines.
    pub fn of(board: &Board, plan: &BoardPlan, emitted: &Emitted, saved: Vec<(String, usize)>) -> Self {
        let signals = plan.signals.iter().filter_map(|signal| {
            let timer = plan.timers.get(signal.timer)?;
            Some(EmittedSignal {
                name: signal.name.clone(),
                timer: timer.timer.name.clone(),
                channel: signal.channel.clone(),
                pin: timer.pins.get(&signal.channel).cloned(),
                compare: signal.compare,
                limits: signal.limits,
                settable: !emitted.fixed.contains(&signal.name),
                one_sided: emitted.one_sided.contains(&signal.name),
            })
        });
        let supply = emitted.supplied.iter().cloned();
        Self {
            part: plan.program.part.clone(),
            files: saved.into_iter().map(|(file, lines)| SavedFile { file, lines }).collect(),
            signals: signals.collect(),
            supply: supply.map(|(function, why)| SuppliedFunction { function, why }).collect(),
            steppers: board.axes.iter().map(|axis| axis.name.clone()).collect(),
        }
    }
}

const MADE: &[&str] = &["file", "lines"];
const SIGNALS: &[&str] = &["signal", "place", "pin", "compare", "from", "to", "note"];
const SUPPLY: &[&str] = &["function", "why"];

impl Report for EmitReport {
    fn page(&self) -> Result<Page> {
        let mut page = Page::headed([self.part.clone(), counted(self.signals.len() as u64, "signal")]);
        let made = |file: &SavedFile| {
            Line::row([Cell::left(file.file.clone()), Cell::right(counted(file.lines as u64, "line"))])
        };
        page.push("made", MADE, self.files.iter().map(made).collect());
        let signal = |signal: &EmittedSignal| {
            let number = |number: Option<u64>| {
                Cell::right(number.map_or_else(String::new, |number| number.to_string()))
            };
            let [low, high] = signal.limits;
            let note = match (signal.settable, signal.one_sided) {
                (false, _) => "no function: it takes more than its register",
                (true, true) => "one line of two: `second-line` names the other",
                (true, false) => "",
            };
            Line::row([
                Cell::left(signal.name.clone()),
                Cell::left(format!("{}/{}", signal.timer, signal.channel)),
                Cell::left(signal.pin.clone().unwrap_or_default()),
                number(signal.compare),
                number(Some(low)),
                number(Some(high)),
                Cell::left(note),
            ])
        };
        page.table("signals", SIGNALS, self.signals.iter().map(signal).collect());
        let supply = |supplied: &SuppliedFunction| {
            Line::row([Cell::left(format!("{}()", supplied.function)), Cell::left(supplied.why.clone())])
        };
        page.push("supply", SUPPLY, self.supply.iter().map(supply).collect());
        let stepper = |name: &String| {
            let why =
                "its timer and its lines are not set up here: `move` shows how; a sequence has its steps";
            Line::row([Cell::left(name.clone()), Cell::left(why)])
        };
        page.push("steppers", &["stepper", "note"], self.steppers.iter().map(stepper).collect());
        Ok(page)
    }

    fn table(&self) -> Result<Table> {
        let rows = self.signals.iter().map(|signal| {
            let compare = signal.compare.map_or_else(String::new, |compare| compare.to_string());
            let [low, high] = signal.limits.map(|limit| limit.to_string());
            let pin = signal.pin.clone().unwrap_or_default();
            vec![signal.name.clone(), signal.timer.clone(), signal.channel.clone(), pin, compare, low, high]
        });
        let columns = &["signal", "timer", "channel", "pin", "compare", "compare_lowest", "compare_highest"];
        Ok(Table::new(columns, rows))
    }

    fn json(&self) -> Result<String> {
        envelope("emit", self, &[])
    }
}

//! One setting of the clock tree for all signals of a board.

use kairotic_core::board::{BoardClocks, ClockedBoard, ClockedSignal, ClockedStepper};
use kairotic_core::clock::Passage;
use kairotic_core::part::Part;
use kairotic_core::quantity::Deviation;
use kairotic_core::target::Aim;
use serde::Serialize;

use super::super::setting::{GIVES, WRITE, write_lines};
use super::super::words::{brief, counted};
use super::{THROUGH, assignment, error_words, short, source, source_error, through};
use crate::fault::Result;
use crate::format::{Cell, Line, Page, Report, Table, decimal, envelope};
use crate::hints::typed;

/// One setting of the clock tree for all signals of a board.
#[derive(Debug, Serialize)]
pub struct BoardClocksReport {
    #[serde(flatten)]
    clocks: BoardClocks,
    /// The lines of the board file that say so, for each setting.
    board_lines: Vec<Vec<String>>,
}

impl BoardClocksReport {
    /// The settings with the lines of the board file that say so.
    pub fn of(clocks: BoardClocks, part: &Part) -> Self {
        let board_lines = clocks.settings.iter().map(|setting| board_lines(setting, part)).collect();
        Self { clocks, board_lines }
    }
}

impl Report for BoardClocksReport {
    fn page(&self) -> Result<Page> {
        let BoardClocks { part, whole_only, settings } = &self.clocks;
        let Some((best, others)) = settings.split_first() else {
            return Ok(Page::headed(vec![part.clone()]));
        };
        let signals = counted(best.signals.len() as u64, "signal");
        let mut heading = vec![part.clone(), format!("one clock setting for {signals}")];
        heading.extend(best.arrangements.first().map(source));
        let mut page = Page::headed(heading);
        page.push("write", WRITE, write_lines(&best.writes));
        page.push("through", THROUGH, through(passages(best)));
        page.table(
            "signals",
            &["name", "at", "clock", "wanted", "made", "error", "steps"],
            best.signals.iter().map(signal_line).collect(),
        );
        page.table(
            "steppers",
            &["stepper", "timer", "clock", "tick"],
            best.steppers.iter().map(stepper_line).collect(),
        );
        page.push("gives", GIVES, best.arrangements.first().map(source_error).unwrap_or_default());
        let mut reasons = vec![Line::Prose(because(best))];
        if *whole_only {
            reasons.push(Line::Prose("fractional parts of the clock tree were left at zero".to_owned()));
        }
        page.push("because", &[], reasons);
        let lines = self.board_lines.first().into_iter().flatten();
        page.push("board", &["line"], lines.map(|line| Line::Row(vec![Cell::left(line.clone())])).collect());
        page.push(
            "or",
            &["exact", "worst", "steps", "clocks", "settings"],
            others.iter().map(alternative).collect(),
        );
        Ok(page)
    }

    fn table(&self) -> Result<Table> {
        let mut rows = Vec::new();
        for (index, found) in self.clocks.settings.iter().enumerate() {
            let registers: Vec<String> = found.writes.iter().map(assignment).collect();
            for signal in &found.signals {
                rows.push(vec![
                    self.clocks.part.clone(),
                    (index + 1).to_string(),
                    signal.name.clone(),
                    signal.place.timer.clone(),
                    signal.place.channel.clone(),
                    decimal(signal.clock.value()),
                    decimal(signal.setting.frequency.value()),
                    decimal(signal.error.value()),
                    signal.within.to_string(),
                    signal.setting.steps.to_string(),
                    registers.join(" "),
                ]);
            }
        }
        let header = [
            "part",
            "rank",
            "signal",
            "timer",
            "channel",
            "clock_hz",
            "frequency_hz",
            "frequency_error",
            "within",
            "steps",
            "registers",
        ];
        Ok(Table::new(&header, rows))
    }

    fn json(&self) -> Result<String> {
        envelope("clock", self, &[])
    }
}

/// The nodes that the clocks pass, each once.
fn passages(setting: &ClockedBoard) -> Vec<&Passage> {
    let mut all: Vec<&Passage> = Vec::new();
    for passage in setting.arrangements.iter().flat_map(|arrangement| &arrangement.passages) {
        if !all.iter().any(|known| known.node == passage.node) {
            all.push(passage);
        }
    }
    all
}

fn signal_line(signal: &ClockedSignal) -> Line {
    let missed = if signal.within { "" } else { ", more than it may be" };
    Line::Row(vec![
        Cell::left(signal.name.clone()),
        Cell::left(signal.place.told()),
        Cell::point(brief(signal.clock)),
        Cell::left(wanted(signal.aim)),
        Cell::point(made(signal)),
        Cell::left(format!("{}{missed}", inside(signal))),
        Cell::right(signal.setting.steps.to_string()),
    ])
}

fn stepper_line(stepper: &ClockedStepper) -> Line {
    Line::row([
        Cell::left(stepper.name.clone()),
        Cell::left(stepper.timer.clone()),
        Cell::point(brief(stepper.clock)),
        Cell::point(stepper.tick.rounded(4)),
    ])
}

/// What is made, in what is wanted.
fn made(signal: &ClockedSignal) -> String {
    match signal.aim {
        Aim::Period(_) => brief(signal.setting.period),
        Aim::Frequency(_) | Aim::Window(_) => brief(signal.setting.frequency),
    }
}

fn inside(signal: &ClockedSignal) -> String {
    match signal.aim {
        Aim::Window(_) if signal.error == Deviation::ZERO => "inside".to_owned(),
        _ => error_words(signal.error),
    }
}

fn wanted(aim: Aim) -> String {
    match aim {
        Aim::Frequency(frequency) => brief(frequency),
        Aim::Period(period) => brief(period),
        Aim::Window(window) => window.to_string(),
    }
}

fn because(best: &ClockedBoard) -> String {
    let exactness = match (best.exact, best.signals.len()) {
        (exact, all) if exact == all => "every frequency is met".to_owned(),
        (0, _) => "no frequency can be met, and the largest error is the smallest there is".to_owned(),
        (exact, all) => format!(
            "{exact} of {all} frequencies are met, no setting meets more, and the largest error is the smallest there is then"
        ),
    };
    format!(
        "{exactness}; of those settings the one with the most steps, for the signal with the fewest first; among all legal settings of the clock tree"
    )
}

fn alternative(found: &ClockedBoard) -> Line {
    let mut clocks: Vec<String> = Vec::new();
    for arrangement in &found.arrangements {
        let clock = brief(arrangement.frequency);
        if !clocks.contains(&clock) {
            clocks.push(clock);
        }
    }
    // Whatever its sign.
    let worst = Some(error_words(found.worst)).filter(|_| found.worst > Deviation::ZERO).unwrap_or_default();
    let worst = worst.trim_start_matches('+').to_owned();
    Line::Row(vec![
        Cell::left(format!("{} exact", found.exact)),
        Cell::left(worst),
        Cell::right(counted(found.fewest_steps, "step")),
        Cell::left(clocks.join(", ")),
        Cell::left(short(&found.writes)),
    ])
}

/// What to write under `[clock]`: the system clock with what stands behind it, or the registers where that does not say all.
fn board_lines(setting: &ClockedBoard, part: &Part) -> Vec<String> {
    let listed = |name: &str, items: Vec<String>| {
        let items: Vec<String> = items.iter().map(|item| format!("\"{item}\"")).collect();
        (!items.is_empty()).then(|| format!("{name} = [{}]", items.join(", ")))
    };
    match setting.system_and_buses(part) {
        Some((system, behind)) => {
            let behind = behind.iter().map(|bus| format!("{}={}", bus.name, bus.value)).collect();
            let system = format!("sysclk = \"{}\"", typed(&system.told()));
            std::iter::once(system).chain(listed("bus", behind)).collect()
        }
        None => {
            let registers = setting.writes.iter().map(assignment).collect();
            listed("registers", registers).into_iter().collect()
        }
    }
}

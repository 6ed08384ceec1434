//! What the bus dividers make of a system clock.

use kairotic_core::clock::{Arrangement, BusTable};

use super::super::words::{brief, counted};
use super::assignment;
use crate::fault::Result;
use crate::format::{Cell, Line, Page, Report, Table, decimal, envelope};

/// What the bus dividers make of a system clock.
#[derive(Debug)]
pub struct BusReport {
    /// Every legal setting.
    pub table: BusTable,
    /// Whether all of them are shown.
    pub all: bool,
}

impl Report for BusReport {
    fn page(&self) -> Result<Page> {
        let BusTable { timer, system, legal, illegal, why, .. } = &self.table;
        let mut page = Page::headed([timer.path(), format!("system clock {system}")]);
        let row = |arrangement: &Arrangement| {
            let rule = arrangement.passages.last().map(|last| last.how.clone()).unwrap_or_default();
            Line::Row(vec![
                Cell::point(brief(arrangement.frequency)),
                Cell::left(settled(arrangement)),
                Cell::left(rule),
            ])
        };
        let shown: Vec<&Arrangement> =
            if self.all { legal.iter().collect() } else { self.table.leading().collect() };
        let mut lines: Vec<Line> = shown.iter().map(|arrangement| row(arrangement)).collect();
        if legal.len() > shown.len() {
            let more = counted((legal.len() - shown.len()) as u64, "more setting");
            lines.push(Line::Prose(format!("and {more} with other divisions further up; --all shows them")));
        }
        page.table("reaches", &["clock", "settings", "rule"], lines);
        if let (Some(why), true) = (why, *illegal > 0) {
            let others = counted(*illegal as u64, "other setting");
            let verb = if *illegal == 1 { "breaks" } else { "break" };
            page.push("findings", &[], vec![Line::Prose(format!("{others} {verb} a limit: {why}"))]);
        }
        Ok(page)
    }

    fn table(&self) -> Result<Table> {
        let BusTable { timer, system, legal, .. } = &self.table;
        let rows = legal.iter().map(|arrangement| {
            let registers: Vec<String> = arrangement.writes.iter().map(assignment).collect();
            vec![
                timer.part.clone(),
                timer.name.clone(),
                decimal(system.value()),
                decimal(arrangement.frequency.value()),
                registers.join(" "),
            ]
        });
        Ok(Table::new(&["part", "timer", "system_hz", "clock_hz", "registers"], rows))
    }

    fn json(&self) -> Result<String> {
        envelope("clock", &self.table, &[])
    }
}

/// What is set on the way, as `--bus` takes it.
fn settled(arrangement: &Arrangement) -> String {
    let words = arrangement.settled.iter().map(|(name, value)| format!("{name}={value}"));
    words.collect::<Vec<_>>().join(" ")
}

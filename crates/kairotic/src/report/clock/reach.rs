//! The ways for a frequency to reach a timer.

use kairotic_core::clock::{Arrangement, Reached, ReachedClock};
use kairotic_core::quantity::Deviation;

use super::super::setting::{GIVES, WRITE, write_lines};
use super::super::words::{brief, counted};
use super::{THROUGH, assignment, error_words, short, source, source_error, through};
use crate::fault::Result;
use crate::format::{Cell, Line, Page, Report, Table, decimal, decimal_or_none, envelope};

/// So many other settings are shown unless all are asked for.
const OTHERS: usize = 5;

/// The ways for a frequency to reach a timer.
#[derive(Debug)]
pub struct ReachReport {
    /// The ways.
    pub reached: Reached,
    /// Whether all of them are shown.
    pub all: bool,
}

impl Report for ReachReport {
    fn page(&self) -> Result<Page> {
        let Reached { timer, reach, ways } = &self.reached;
        let mut heading = vec![timer.path(), format!("{reach} at the timer")];
        let Some((best, others)) = ways.split_first() else { return Ok(Page::headed(heading)) };
        heading.push(source(&best.arrangement));
        let mut page = Page::headed(heading);
        page.push("write", WRITE, write_lines(&best.arrangement.writes));
        page.push("through", THROUGH, through(&best.arrangement.passages));
        let clock = Line::Row(vec![
            Cell::left("clock"),
            Cell::point(brief(best.arrangement.frequency)),
            Cell::left(error_words(best.error)),
        ]);
        let mut figures = vec![clock];
        figures.extend(source_error(&best.arrangement));
        page.push("gives", GIVES, figures);
        page.push("because", &[], vec![Line::Prose(because(best, ways.len()))]);
        let shown = if self.all { others.len() } else { OTHERS };
        let mut lines: Vec<Line> = others.iter().take(shown).map(other).collect();
        if others.len() > shown {
            lines.push(Line::Prose(format!(
                "and {}; --all shows them",
                counted((others.len() - shown) as u64, "more way")
            )));
        }
        page.push("or", &["clock", "error", "VCO", "settings"], lines);
        Ok(page)
    }

    fn table(&self) -> Result<Table> {
        let rows = self.reached.ways.iter().enumerate().map(|(index, way)| {
            let registers: Vec<String> = way.arrangement.writes.iter().map(assignment).collect();
            let vco = way.arrangement.vco.map(|vco| vco.value());
            vec![
                self.reached.timer.part.clone(),
                self.reached.timer.name.clone(),
                (index + 1).to_string(),
                way.arrangement.passages.first().map(|first| first.node.clone()).unwrap_or_default(),
                decimal(way.arrangement.frequency.value()),
                decimal(way.error.value()),
                decimal_or_none(vco),
                registers.join(" "),
            ]
        });
        let header = ["part", "timer", "rank", "source", "clock_hz", "clock_error", "vco_hz", "registers"];
        Ok(Table::new(&header, rows))
    }

    fn json(&self) -> Result<String> {
        envelope("clock", &self.reached, &[])
    }
}

fn because(best: &ReachedClock, ways: usize) -> String {
    let Arrangement { vco, fractional, .. } = &best.arrangement;
    let exactness = if best.error == Deviation::ZERO { "exact" } else { "the nearest that is legal" };
    let fraction = if *fractional { "" } else { ", without a fractional part" };
    let vco = vco.map(|vco| format!(", with the slowest oscillator, {}", brief(vco))).unwrap_or_default();
    format!("{exactness}{fraction}{vco}; {} in all", counted(ways as u64, "way"))
}

fn other(way: &ReachedClock) -> Line {
    let vco = way.arrangement.vco.map(|vco| format!("VCO {}", brief(vco))).unwrap_or_default();
    Line::Row(vec![
        Cell::point(brief(way.arrangement.frequency)),
        Cell::left(error_words(way.error)),
        Cell::left(vco),
        Cell::left(short(&way.arrangement.writes)),
    ])
}

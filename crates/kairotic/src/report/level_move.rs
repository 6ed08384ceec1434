//! What `move` shows of a servo's move.

use kairotic_core::quantity::Time;
use kairotic_core::sequence::LevelMove;
use serde::Serialize;

use super::sequence::SequenceReport;
use super::setting;
use super::words::brief;
use crate::fault::Result;
use crate::format::{Cell, Line, Page, Report, Table, envelope};

/// A servo's move.
#[derive(Debug, Serialize)]
pub struct LevelMoveReport {
    /// The move.
    #[serde(flatten)]
    pub made: LevelMove,
    /// Its compare values as a sequence.
    #[serde(skip)]
    pub sequence: SequenceReport,
}

const FACTS: &[&str] = &["figure", "value", "note"];

impl Report for LevelMoveReport {
    fn page(&self) -> Result<Page> {
        let LevelMove { from, to, plan, .. } = &self.made;
        let on = plan.tracks.first().map(|track| track.on.clone()).unwrap_or_default();
        let mut page = Page::headed([on, plan.name.clone(), format!("{from} to {to}")]);
        page.push("gives", FACTS, self.facts());
        page.push("findings", &[], setting::findings(&plan.findings));
        Ok(page)
    }

    fn table(&self) -> Result<Table> {
        self.sequence.table()
    }

    fn json(&self) -> Result<String> {
        envelope("move", self, &self.made.plan.findings)
    }
}

impl LevelMoveReport {
    fn facts(&self) -> Vec<Line> {
        let LevelMove { to, compare, pulse, level, over, frame, turns, arrives, dead_band, plan, .. } =
            &self.made;
        let row = |figure: &str, value: String, note: String| {
            Line::Row(vec![Cell::left(figure), Cell::point(value), Cell::left(note)])
        };
        let mut rows = vec![
            row("compare", compare.to_string(), "the last that is written".to_owned()),
            row("pulse", brief(*pulse), String::new()),
            row("ends at", level.rounded(6), format!("{to} is asked for")),
        ];
        rows.extend(dead_band.map(|band| {
            let note = format!("either way, within its dead band of {}", brief(band.pulse));
            row("may stand off", band.level.rounded(4), note)
        }));
        let values = plan.tracks.first().map_or(0, |track| track.holds.len());
        if *over > Time::ZERO {
            let note = format!("{values} compare values, one a frame or fewer");
            rows.push(row("way", over.rounded(6), note));
        }
        rows.push(row("frame", brief(*frame), "a value waits for the next one".to_owned()));
        match (turns, arrives) {
            (Some(turns), Some(arrives)) => {
                rows.push(row("turns", turns.rounded(4), "at its slew".to_owned()));
                rows.push(row(
                    "arrives",
                    arrives.rounded(4),
                    "after the first write, at the latest".to_owned(),
                ));
            }
            _ => rows.push(row("arrives", "unknown".to_owned(), "the load has no `slew`".to_owned())),
        }
        rows
    }
}

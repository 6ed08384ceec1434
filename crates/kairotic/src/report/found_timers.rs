//! Timers that were looked for: by a pin, by what they have, by a word.

use kairotic_core::part::{FoundTimer, WantedTimer};
use serde::Serialize;

use super::words::counted;
use crate::fault::Result;
use crate::format::{Cell, Line, Page, Report, Table, envelope};

/// What was looked for, and what was found.
#[derive(Debug, Serialize)]
pub struct FoundTimers {
    /// What was looked for.
    #[serde(flatten)]
    pub wanted: WantedTimer,
    /// The timers.
    pub found: Vec<FoundTimer>,
}

const COLUMNS: &[&str] = &["part", "timer", "chosen by", "what it is"];

fn cells(found: &FoundTimer) -> [String; 4] {
    let channel = found.channel.as_ref().map(|channel| format!("/{channel}")).unwrap_or_default();
    let output = format!("{}{channel}", found.timer);
    [found.part.clone(), output, found.chosen_by.clone().unwrap_or_default(), found.title.clone()]
}

impl Report for FoundTimers {
    fn page(&self) -> Result<Page> {
        let mut parts: Vec<&str> = self.found.iter().map(|found| found.part.as_str()).collect();
        parts.dedup();
        let heading = [self.wanted.told(), counted(parts.len() as u64, "part")];
        let mut page = Page::headed(heading);
        let rows = self.found.iter().map(|found| Line::row(cells(found).map(Cell::left)));
        page.table("found", COLUMNS, rows.collect());
        Ok(page)
    }

    fn table(&self) -> Result<Table> {
        let rows = self.found.iter().map(|found| cells(found).to_vec());
        Ok(Table::new(&["part", "timer", "chosen_by", "title"], rows))
    }

    fn json(&self) -> Result<String> {
        envelope("parts", self, &[])
    }
}

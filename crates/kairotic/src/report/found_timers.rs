//! Timers that were looked for: by a pin, by what they have, by a word.

use kairotic_core::part::Ability;
use serde::Serialize;

use super::words::counted;
use crate::fault::Result;
use crate::format::{Cell, Line, Page, Report, Table, envelope};

/// What was looked for, and what was found.
#[derive(Debug, Serialize)]
pub struct FoundTimers {
    /// The pin, where one was named.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub pin: Option<String>,
    /// What the timers have to have.
    pub can: Vec<Ability>,
    /// The word, where one was named.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub word: Option<String>,
    /// The timers.
    pub found: Vec<FoundTimer>,
}

/// A timer that was found.
#[derive(Debug, PartialEq, Eq, Serialize)]
pub struct FoundTimer {
    /// The part.
    pub part: String,
    /// The timer.
    pub timer: String,
    /// The channel that comes out of the pin.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub channel: Option<String>,
    /// What brings it there.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub chosen_by: Option<String>,
    /// What it is.
    pub title: String,
}

const COLUMNS: &[&str] = &["part", "timer", "chosen by", "what it is"];

impl FoundTimer {
    fn output(&self) -> String {
        let channel = self.channel.as_ref().map(|channel| format!("/{channel}")).unwrap_or_default();
        format!("{}{channel}", self.timer)
    }

    fn cells(&self) -> [String; 4] {
        [self.part.clone(), self.output(), self.chosen_by.clone().unwrap_or_default(), self.title.clone()]
    }
}

impl Report for FoundTimers {
    fn page(&self) -> Result<Page> {
        let mut parts: Vec<&str> = self.found.iter().map(|found| found.part.as_str()).collect();
        parts.dedup();
        let asked =
            self.pin.iter().cloned().chain(self.can.iter().map(ToString::to_string)).chain(self.word.clone());
        let heading = [asked.collect::<Vec<_>>().join(", "), counted(parts.len() as u64, "part")];
        let mut page = Page::headed(heading);
        let rows = self.found.iter().map(|found| Line::row(found.cells().map(Cell::left)));
        page.table("found", COLUMNS, rows.collect());
        Ok(page)
    }

    fn table(&self) -> Result<Table> {
        let rows = self.found.iter().map(|found| found.cells().to_vec());
        Ok(Table::new(&["part", "timer", "chosen_by", "title"], rows))
    }

    fn json(&self) -> Result<String> {
        envelope("parts", self, &[])
    }
}

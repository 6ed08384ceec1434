//! What `derive --tick` shows: a counter tick, and the counter that makes it.

use kairotic_core::explain::ArithmeticLine;
use kairotic_core::search::{TickSetting, TimeBase};
use serde::Serialize;

use super::clock::{THROUGH, way_lines};
use super::pins::{PIN, pin_lines};
use super::setting::{self, GIVES, WRITE};
use super::words;
use crate::arguments::routing::Routing;
use crate::fault::Result;
use crate::format::{Cell, Line, Page, Report, Table, envelope};

/// The settings for a time base, and the arithmetic where it is wanted.
#[derive(Debug, Serialize)]
pub struct TimeBaseReport {
    /// The settings.
    #[serde(flatten)]
    pub time_base: TimeBase,
    /// What lies around the timer, as far as it was asked.
    #[serde(flatten)]
    pub around: Routing,
    /// The arithmetic, where it is wanted.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub explanation: Vec<ArithmeticLine>,
}

impl Report for TimeBaseReport {
    fn page(&self) -> Result<Page> {
        let TimeBase { timer, clock, default_clock, tick, settings, findings, clock_error } = &self.time_base;
        let heading = [timer.path(), format!("a tick of {tick}"), words::clock(*clock, *default_clock)];
        let mut page = Page::headed(heading);
        let Some(TickSetting { setting: best, registers, error }) = settings.first() else { return Ok(page) };
        page.push("write", WRITE, setting::write_lines(registers));
        let row = |figure: &str, value: String, note: String| {
            Line::Row(vec![Cell::left(figure), Cell::point(value), Cell::left(note)])
        };
        let exact = words::frequency_error(*error, best.divider.is_whole());
        let mut gives = vec![
            row("tick", words::brief(best.tick), exact),
            row("wraps after", words::brief(best.period), words::counted(best.ticks, "tick")),
        ];
        if let Some(error) = clock_error {
            let note = "of every time that is measured, either way".to_owned();
            gives.push(row("clock error", error.deviation.told(), note));
        }
        page.push("gives", GIVES, gives);
        let mut reasons = vec![Line::Prose(if settings.len() == 1 {
            "the one division that makes this tick".to_owned()
        } else {
            "the nearest tick that a division makes".to_owned()
        })];
        reasons.extend(words::working(&self.explanation));
        page.push("pin", PIN, pin_lines(self.around.pin.as_ref()));
        page.push("through", THROUGH, way_lines(self.around.way.as_ref()));
        page.push("because", &["figure", "arithmetic"], reasons);
        page.push("findings", &[], setting::findings(findings));
        let others = settings.iter().skip(1).map(|TickSetting { setting: other, error, .. }| {
            Line::Row(vec![
                Cell::left(format!("divide by {}", words::division(other.divider))),
                Cell::point(words::brief(other.tick)),
                Cell::left(words::frequency_error(*error, other.divider.is_whole())),
            ])
        });
        page.push("or", &["divider", "tick", "error"], others.collect());
        Ok(page)
    }

    fn table(&self) -> Result<Table> {
        let TimeBase { timer, settings, findings, .. } = &self.time_base;
        let mut rows = Vec::new();
        for (index, TickSetting { setting, .. }) in settings.iter().enumerate() {
            let findings = if index == 0 { findings.as_slice() } else { &[] };
            rows.extend(setting::csv_rows(timer, index + 1, setting, None, findings)?);
        }
        Ok(Table::new(setting::CSV, rows))
    }

    fn json(&self) -> Result<String> {
        envelope("derive", self, &self.time_base.findings)
    }
}

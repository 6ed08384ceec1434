//! What `budget --measured` shows: the clock that a measurement tells of, and registers for it.

use kairotic_core::accuracy::{BenchMeasurement, MeasuredClock, MeasuredQuantity};
use serde::Serialize;

use super::setting::{self, GIVES, WRITE};
use super::words::brief;
use crate::fault::Result;
use crate::format::{Cell, Line, Page, Report, Table, envelope};

/// A clock that was measured at a pin.
#[derive(Debug, Serialize)]
pub struct MeasuredReport {
    /// The clock.
    #[serde(flatten)]
    pub clock: MeasuredClock,
    /// What was measured.
    #[serde(skip)]
    pub measurement: BenchMeasurement,
    /// The signal's name, where it is one of a board.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub signal: Option<String>,
}

impl MeasuredReport {
    fn text(&self) -> String {
        match self.measurement.measured {
            MeasuredQuantity::Frequency(frequency) => brief(frequency),
            MeasuredQuantity::Pulse(pulse) => format!("a pulse of {}", brief(pulse)),
        }
    }
}

impl Report for MeasuredReport {
    fn page(&self) -> Result<Page> {
        let MeasuredClock { before, clock, error, uncertainty, after } = &self.clock;
        let mut heading: Vec<String> = self.signal.iter().cloned().collect();
        heading.extend([before.timer.path(), format!("{} measured", self.text())]);
        let mut page = Page::headed(heading);
        let row = |figure: &str, value: String, note: String| {
            Line::Row(vec![Cell::left(figure), Cell::point(value), Cell::left(note)])
        };
        let sign = if error.value().is_positive() { "+" } else { "" };
        let off = format!("{sign}{}, known to {}", error.rounded(4), uncertainty.rounded(2));
        let of = |derivation: &kairotic_core::search::Derivation| brief(derivation.best.setting.frequency);
        let rows = vec![
            row("taken for", brief(before.clock.nominal), format!("its registers would make {}", of(before))),
            row("really", clock.rounded(6), off),
        ];
        page.push("clock", &["figure", "frequency", "note"], rows);
        page.push("write", WRITE, setting::write_lines(&after.best.registers));
        let gives = setting::gives(&after.best.setting, Some(&after.best.fit), after.clock_error.as_ref());
        page.push("gives", GIVES, gives);
        page.push("findings", &[], setting::findings(&after.findings));
        Ok(page)
    }

    fn table(&self) -> Result<Table> {
        let after = &self.clock.after;
        let rows =
            setting::csv_rows(&after.timer, 1, &after.best.setting, Some(&after.best.fit), &after.findings)?;
        Ok(Table::new(setting::CSV, rows))
    }

    fn json(&self) -> Result<String> {
        envelope("budget", self, &self.clock.after.findings)
    }
}

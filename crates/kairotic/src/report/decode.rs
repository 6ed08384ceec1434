//! What `decode` shows of register values.

use kairotic_core::decode::Reading;
use kairotic_core::explain::ArithmeticLine;
use serde::Serialize;

use super::clock::{THROUGH, way_lines};
use super::pins::{PIN, pin_lines};
use super::setting::{self, GIVES};
use super::words;
use crate::arguments::routing::Routing;
use crate::fault::Result;
use crate::format::{Line, Page, Report, Table, envelope};

/// What register values make, and the arithmetic where it is wanted.
#[derive(Debug, Serialize)]
pub struct DecodeReport {
    /// What they make.
    #[serde(flatten)]
    pub reading: Reading,
    /// What lies around the timer, as far as it was asked.
    #[serde(flatten)]
    pub around: Routing,
    /// The arithmetic, where it is wanted.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub explanation: Vec<ArithmeticLine>,
    /// Addresses of a dump at which the timer has nothing.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub elsewhere: Vec<u64>,
}

impl Report for DecodeReport {
    fn page(&self) -> Result<Page> {
        let Reading {
            timer, clock, default_clock, setting, expectation, assumed, findings, clock_error, ..
        } = &self.reading;
        let mut heading = vec![timer.path(), words::clock(*clock, *default_clock)];
        if let Some(expectation) = expectation {
            let error = words::frequency_error(expectation.error, true);
            heading.push(format!("{} was meant: {error}", expectation.frequency));
        }
        let mut page = Page::headed(heading);
        page.push("gives", GIVES, setting::gives(setting, None, clock_error.as_ref()));
        let mut reasons = vec![Line::Prose(format!(
            "mode {}: {}; divided by {}",
            setting.plan.mode,
            setting.mode_title,
            words::division(setting.divider)
        ))];
        if !assumed.is_empty() {
            reasons.push(Line::Prose(format!("assumed: {}", assumed.join(", "))));
        }
        if !self.elsewhere.is_empty() {
            let told = words::counted(self.elsewhere.len() as u64, "word");
            reasons
                .push(Line::Prose(format!("{told} of the dump lie elsewhere than this timer's registers")));
        }
        reasons.extend(words::working(&self.explanation));
        page.push("pin", PIN, pin_lines(self.around.pin.as_ref()));
        page.push("through", THROUGH, way_lines(self.around.way.as_ref()));
        page.push("because", &["figure", "arithmetic"], reasons);
        page.push("findings", &[], setting::findings(findings));
        Ok(page)
    }

    fn table(&self) -> Result<Table> {
        let Reading { timer, setting, findings, .. } = &self.reading;
        Ok(Table::new(setting::CSV, setting::csv_rows(timer, 1, setting, None, findings)?))
    }

    fn json(&self) -> Result<String> {
        envelope("decode", self, &self.reading.findings)
    }
}

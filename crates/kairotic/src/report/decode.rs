//! What `decode` shows of register values.

use kairotic_core::decode::Reading;
use kairotic_core::explain::Line as Sum;
use serde::Serialize;

use super::clock::{THROUGH, way_lines};
use super::json::{Answer, SettingView};
use super::pins::{PIN, pin_lines};
use super::setting::{self, GIVES};
use super::words;
use crate::arguments::routing::Routing;
use crate::fault::Result;
use crate::format::{Line, Page, Report, Table, exact};

/// What register values make, and the arithmetic where it is wanted.
#[derive(Debug)]
pub struct DecodeReport {
    /// What they make.
    pub reading: Reading,
    /// What lies around the timer, as far as it was asked.
    pub around: Routing,
    /// The arithmetic, where it is wanted.
    pub working: Vec<Sum>,
}

impl Report for DecodeReport {
    fn page(&self) -> Result<Page> {
        let Reading { timer, clock, default_clock, setting, expectation, assumed, findings, clock_error } =
            &self.reading;
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
            reasons.push(Line::Prose(format!("taken for granted: {}", assumed.join(", "))));
        }
        reasons.extend(words::working(&self.working));
        page.push("pin", PIN, pin_lines(self.around.pin.as_ref()));
        page.push("through", THROUGH, way_lines(self.around.way.as_ref()));
        page.push("because", &["figure", "arithmetic"], reasons);
        page.push("watch", &[], setting::findings(findings));
        Ok(page)
    }

    fn table(&self) -> Result<Table> {
        let Reading { timer, setting, findings, .. } = &self.reading;
        Ok(Table {
            header: setting::CSV.to_vec(),
            rows: setting::csv_rows(timer, 1, setting, None, findings)?,
        })
    }

    fn json(&self) -> Result<String> {
        let reading = &self.reading;
        Answer {
            command: "decode",
            timer: &reading.timer,
            clock: reading.clock,
            default_clock: reading.default_clock,
            working: &self.working,
            around: &self.around,
            clock_error: reading.clock_error.as_ref(),
            findings: &reading.findings,
        }
        .with(View {
            settings: [SettingView::of(&reading.timer, &reading.setting)?],
            expected: reading.expectation.as_ref().map(|expectation| ExpectationView {
                frequency_hz: exact(expectation.frequency.value()),
                frequency_error: exact(expectation.error.value()),
                frequency_error_ppm_approx: expectation.error.value().approx() * 1e6,
            }),
            assumed: &reading.assumed,
        })
    }
}

#[derive(Serialize)]
struct View<'r> {
    settings: [SettingView; 1],
    expected: Option<ExpectationView>,
    assumed: &'r [String],
}

#[derive(Serialize)]
struct ExpectationView {
    frequency_hz: String,
    frequency_error: String,
    frequency_error_ppm_approx: f64,
}

//! What `decode` shows of register values.

use kairotic_core::setting::{Line as Sum, Reading};
use serde::Serialize;

use super::json::{self, ClockErrorView, ClockView, FindingView, SettingView, SumView};
use super::setting::{self, GIVES};
use super::words;
use crate::fault::Result;
use crate::render::{Head, Line, Page, Report, Table, exact};

/// What register values make, and the arithmetic where it is wanted.
#[derive(Debug)]
pub struct DecodeReport {
    /// What they make.
    pub reading: Reading,
    /// The arithmetic, where it is wanted.
    pub working: Vec<Sum>,
}

impl Report for DecodeReport {
    fn page(&self) -> Page {
        let Reading { timer, clock, setting, expectation, assumed, findings, clock_error } = &self.reading;
        let mut heading = vec![timer.path(), format!("from {}", words::clock(*clock))];
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
        page.push("because", &["figure", "arithmetic"], reasons);
        page.push("watch", &[], setting::findings(findings));
        page
    }

    fn table(&self) -> Table {
        let Reading { timer, setting, findings, .. } = &self.reading;
        let place = (timer.part.as_str(), timer.name.as_str());
        Table { header: setting::CSV.to_vec(), rows: setting::csv_rows(place, 1, setting, None, findings) }
    }

    fn json(&self) -> Result<String> {
        let Reading { timer, clock, setting, expectation, assumed, findings, clock_error } = &self.reading;
        Ok(serde_json::to_string_pretty(&View {
            head: Head::of("decode"),
            part: &timer.part,
            timer: &timer.name,
            clock: ClockView::of(*clock),
            settings: [SettingView::of(setting)],
            expected: expectation.as_ref().map(|expectation| ExpectationView {
                frequency_hz: exact(expectation.frequency.value()),
                frequency_error: exact(expectation.error.value()),
                frequency_error_ppm_approx: expectation.error.value().approx() * 1e6,
            }),
            assumed,
            working: json::working(&self.working),
            clock_error: clock_error.as_ref().map(ClockErrorView::of),
            findings: json::findings(findings),
        })?)
    }
}

#[derive(Serialize)]
struct View<'r> {
    #[serde(flatten)]
    head: Head,
    part: &'r str,
    timer: &'r str,
    clock: ClockView,
    settings: [SettingView; 1],
    expected: Option<ExpectationView>,
    assumed: &'r [String],
    #[serde(skip_serializing_if = "Option::is_none")]
    working: Option<Vec<SumView>>,
    clock_error: Option<ClockErrorView>,
    findings: Vec<FindingView>,
}

#[derive(Serialize)]
struct ExpectationView {
    frequency_hz: String,
    frequency_error: String,
    frequency_error_ppm_approx: f64,
}

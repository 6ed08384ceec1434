//! What `derive --tick` shows: a counter tick, and the counter that makes it.

use kairotic_core::explain::Line as Sum;
use kairotic_core::quantity::Deviation;
use kairotic_core::search::TimeBase;
use kairotic_core::setting::Setting;
use serde::Serialize;

use super::clock::{THROUGH, way_lines};
use super::json::{Answer, SettingView};
use super::pins::{PIN, pin_lines};
use super::setting::{self, GIVES, WRITE};
use super::words;
use crate::arguments::routing::Routing;
use crate::fault::Result;
use crate::format::{Cell, Line, Page, Report, Table, exact};

/// The settings for a time base, and the arithmetic where it is wanted.
#[derive(Debug)]
pub struct TimeBaseReport {
    /// The settings.
    pub time_base: TimeBase,
    /// What lies around the timer, as far as it was asked.
    pub around: Routing,
    /// The arithmetic, where it is wanted.
    pub working: Vec<Sum>,
}

impl Report for TimeBaseReport {
    fn page(&self) -> Result<Page> {
        let TimeBase { timer, clock, default_clock, tick, settings, findings, clock_error } = &self.time_base;
        let heading = [timer.path(), format!("a tick of {tick}"), words::clock(*clock, *default_clock)];
        let mut page = Page::headed(heading);
        let Some((best, error)) = settings.first() else { return Ok(page) };
        page.push("write", WRITE, setting::writes(timer, best)?);
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
        reasons.extend(words::working(&self.working));
        page.push("pin", PIN, pin_lines(self.around.pin.as_ref()));
        page.push("through", THROUGH, way_lines(self.around.way.as_ref()));
        page.push("because", &["figure", "arithmetic"], reasons);
        page.push("watch", &[], setting::findings(findings));
        let others = settings.iter().skip(1).map(|(other, error)| {
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
        for (index, (setting, _)) in settings.iter().enumerate() {
            let findings = if index == 0 { findings.as_slice() } else { &[] };
            rows.extend(setting::csv_rows(timer, index + 1, setting, None, findings)?);
        }
        Ok(Table { header: setting::CSV.to_vec(), rows })
    }

    fn json(&self) -> Result<String> {
        let time_base = &self.time_base;
        let view = |(setting, error): &(Setting, Deviation)| -> Result<TickView> {
            Ok(TickView {
                tick_error: exact(error.value()),
                tick_error_ppm_approx: error.value().approx() * 1e6,
                setting: SettingView::of(&time_base.timer, setting)?,
            })
        };
        Answer {
            command: "derive",
            timer: &time_base.timer,
            clock: time_base.clock,
            default_clock: time_base.default_clock,
            working: &self.working,
            around: &self.around,
            clock_error: time_base.clock_error.as_ref(),
            findings: &time_base.findings,
        }
        .with(View {
            target: TargetView { tick_s: exact(time_base.tick.value()) },
            settings: time_base.settings.iter().map(view).collect::<Result<_>>()?,
        })
    }
}

#[derive(Serialize)]
struct View {
    target: TargetView,
    settings: Vec<TickView>,
}

#[derive(Serialize)]
struct TargetView {
    tick_s: String,
}

#[derive(Serialize)]
struct TickView {
    tick_error: String,
    tick_error_ppm_approx: f64,
    #[serde(flatten)]
    setting: SettingView,
}

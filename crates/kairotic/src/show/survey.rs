//! What `survey` shows: one row a kind of timer.

use kairotic_core::quantity::{Deviation, Range, show};
use kairotic_core::setting::{Aim, Target};
use kairotic_core::survey::{Survey, SurveyRow, reaches};
use serde::Serialize;

use super::words::{brief, counted, division, frequency_error};
use crate::fault::Result;
use crate::render::{Cell, Head, Line, Page, Report, Table, exact};

/// One target on many timers.
#[derive(Debug)]
pub struct SurveyReport {
    /// What came out.
    pub survey: Survey,
    /// What was wanted.
    pub target: Target,
}

/// What the rows mean, where it is not seen at once.
const LEGEND: &str = "a row: timer and how many like it, clock, divider and top, frequency error, steps, step, score; then \
                      which of 0 % and 100 % are reached, how far the internal oscillator may be off, jitter";
const COLUMNS: &[&str] = &["timer", "clock", "registers", "frequency", "steps", "step", "score", "notes"];

impl Report for SurveyReport {
    fn page(&self) -> Result<Page> {
        let mut heading = vec![match self.target.aim {
            Aim::Frequency(frequency) => frequency.exact(),
            Aim::Period(period) => format!("a period of {period}"),
            Aim::Window(window) => window.to_string(),
        }];
        heading.extend(self.target.span.map(|span| format!("span {}", span.exact())));
        heading.push(counted(self.survey.rows.len() as u64, "kind") + " of timers");
        let mut page = Page::headed(heading);
        let mut lines: Vec<Line> = self.survey.rows.iter().map(row).collect();
        if !lines.is_empty() {
            lines.push(Line::Prose(LEGEND.to_owned()));
        }
        page.push("timers", COLUMNS, lines);
        let unable = &self.survey.unable;
        if !unable.is_empty() {
            let text = format!("out of reach, or of another kind: {}", unable.join(" "));
            page.push("watch", &[], vec![Line::Prose(text)]);
        }
        Ok(page)
    }

    fn table(&self) -> Result<Table> {
        let mut rows = Vec::new();
        for row in &self.survey.rows {
            let setting = &row.choice.setting;
            let registers: Vec<String> = setting
                .writes(&row.timer)?
                .iter()
                .map(|write| format!("{}={}", write.name(), write.written))
                .collect();
            let (zero, full) = reaches(row);
            rows.push(vec![
                row.timer.part.clone(),
                row.timers.join(" "),
                exact(row.clock.nominal.value()),
                setting.plan.mode.clone(),
                exact(setting.divider),
                setting.plan.top.to_string(),
                exact(setting.frequency.value()),
                exact(row.choice.fit.frequency_error.value()),
                row.choice.fit.within.to_string(),
                row.choice.steps().to_string(),
                exact(setting.step.value()),
                zero.to_string(),
                full.to_string(),
                row.oscillator.map(|range| range.to_string()).unwrap_or_default(),
                exact(row.jitter().value()),
                row.choice.fit.score.to_string(),
                registers.join(" "),
            ]);
        }
        let header = vec![
            "part",
            "timers",
            "clock_hz",
            "mode",
            "divider",
            "top",
            "frequency_hz",
            "frequency_error",
            "within",
            "steps",
            "step_s",
            "reaches_zero",
            "reaches_full",
            "oscillator",
            "jitter_peak_to_peak_s",
            "score_approx",
            "registers",
        ];
        Ok(Table { header, rows })
    }

    fn json(&self) -> Result<String> {
        let mut rows = Vec::new();
        for row in &self.survey.rows {
            let (reaches_zero, reaches_full) = reaches(row);
            rows.push(RowView {
                part: &row.timer.part,
                timers: &row.timers,
                clock_hz: exact(row.clock.nominal.value()),
                setting: super::json::SettingView::chosen(&row.timer, &row.choice)?,
                reaches_zero,
                reaches_full,
                oscillator: row.oscillator.map(|range| [range.low, range.high].map(|end| exact(end.value()))),
            });
        }
        let view = View { head: Head::of("survey"), rows, unable: &self.survey.unable };
        Ok(serde_json::to_string_pretty(&view)?)
    }
}

fn row(row: &SurveyRow) -> Line {
    let setting = &row.choice.setting;
    let top =
        setting.top_register.as_ref().map_or(String::new(), |name| format!(" {name} {}", setting.plan.top));
    let fit = &row.choice.fit;
    let others = match row.timers.len() {
        0 | 1 => String::new(),
        count => format!(" +{}", count - 1),
    };
    let jitter = row.jitter();
    let mut notes = vec![ends(row)];
    notes.extend(row.oscillator.map(oscillator));
    if !jitter.value().is_zero() {
        notes.push(format!("jitter {}", jitter.rounded(3)));
    }
    Line::Row(vec![
        Cell::left(format!("{}{others}", row.timer.path())),
        Cell::point(brief(row.clock.nominal)),
        Cell::left(format!("÷{}{top}", division(setting.divider))),
        Cell::left(frequency_error(fit.frequency_error, fit.frequency_exact)),
        Cell::right(row.choice.steps().to_string()),
        Cell::point(setting.step.rounded(3)),
        Cell::right(show::significant(fit.score, 3)),
        Cell::left(notes.join(", ")),
    ])
}

/// Which ends a row's outputs reach.
fn ends(row: &SurveyRow) -> String {
    match reaches(row) {
        (true, true) => "0..100 %",
        (true, false) => "0..",
        (false, true) => "..100 %",
        (false, false) => "..",
    }
    .to_owned()
}

fn oscillator(range: Range<Deviation>) -> String {
    let percent = |deviation: Deviation| show::significant(deviation.value().approx() * 100.0, 3);
    format!("RC {}/+{}%", percent(range.low), percent(range.high))
}

#[derive(Serialize)]
struct View<'r> {
    #[serde(flatten)]
    head: Head,
    rows: Vec<RowView<'r>>,
    unable: &'r [String],
}

#[derive(Serialize)]
struct RowView<'r> {
    part: &'r str,
    timers: &'r [String],
    clock_hz: String,
    setting: super::json::SettingView,
    reaches_zero: bool,
    reaches_full: bool,
    oscillator: Option<[String; 2]>,
}

//! What `survey` shows: one row a kind of timer.

use kairotic_core::survey::{Survey, SurveyRow, reaches};
use kairotic_core::target::{Aim, Target};
use serde::Serialize;

use super::words::{brief, counted, division, frequency_error};
use crate::fault::Result;
use crate::format::{Cell, Line, Page, Report, Table, decimal, decimal_or_none, envelope};

/// One target on many timers.
#[derive(Debug, Serialize)]
pub struct SurveyReport {
    /// What came out.
    #[serde(flatten)]
    pub survey: Survey,
    /// What was wanted.
    pub target: Target,
}

const COLUMNS: &[&str] = &["timer", "count", "clock", "divider top", "error", "steps", "step", "limits"];

impl Report for SurveyReport {
    fn page(&self) -> Result<Page> {
        let mut heading = vec![match self.target.aim {
            Aim::Frequency(frequency) => frequency.told(),
            Aim::Period(period) => format!("a period of {period}"),
            Aim::Window(window) => window.to_string(),
        }];
        heading.extend(self.target.span.map(|span| format!("span {}", span.told())));
        heading.push(counted(self.survey.rows.len() as u64, "timer type"));
        let mut page = Page::headed(heading);
        let lines: Vec<Line> = self.survey.rows.iter().map(row).collect();
        page.table("timers", COLUMNS, lines);
        page.table("sources", &[], oscillators(&self.survey.rows));
        let unable = &self.survey.unable;
        let mut watch = Vec::new();
        if self.survey.rows.is_empty() {
            let text = "no timer makes it as it was asked: try --clock max, fewer steps, or more parts";
            watch.push(Line::Prose(text.to_owned()));
        }
        if !unable.is_empty() {
            watch.push(Line::Prose(format!("cannot produce this signal: {}", unable.join(" "))));
        }
        page.push("findings", &[], watch);
        Ok(page)
    }

    fn table(&self) -> Result<Table> {
        let mut rows = Vec::new();
        for row in &self.survey.rows {
            let setting = &row.choice.setting;
            let registers: Vec<String> = row
                .choice
                .registers
                .iter()
                .map(|write| format!("{}={}", write.name(), write.written))
                .collect();
            let (zero, full) = reaches(row);
            rows.push(vec![
                row.timer.part.clone(),
                row.timers.join(" "),
                decimal(row.clock.nominal.value()),
                setting.plan.mode.clone(),
                decimal(setting.divider),
                setting.plan.top.to_string(),
                decimal(setting.frequency.value()),
                decimal(row.choice.fit.frequency_error.value()),
                row.choice.fit.within.to_string(),
                row.choice.steps().to_string(),
                decimal(setting.step.value()),
                zero.to_string(),
                full.to_string(),
                decimal_or_none(row.oscillator.map(|range| range.low.value())),
                decimal_or_none(row.oscillator.map(|range| range.high.value())),
                decimal(row.jitter().value()),
                row.choice.fit.score.to_string(),
                registers.join(" "),
                row.off.is_some().to_string(),
            ]);
        }
        let header = [
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
            "oscillator_low",
            "oscillator_high",
            "jitter_peak_to_peak_s",
            "score",
            "registers",
            "clock_off_after_reset",
        ];
        Ok(Table::new(&header, rows))
    }

    fn json(&self) -> Result<String> {
        envelope("survey", self, &[])
    }
}

fn row(row: &SurveyRow) -> Line {
    let setting = &row.choice.setting;
    let fit = &row.choice.fit;
    let jitter = row.jitter();
    let mut notes = Vec::new();
    if row.off.is_some() {
        notes.push("clock off after reset".to_owned());
    }
    if !jitter.value().is_zero() {
        notes.push(format!("jitter {}", jitter.rounded(2)));
    }
    notes.extend(match reaches(row) {
        (true, true) => None,
        (true, false) => Some("cannot reach 100 %".to_owned()),
        (false, true) => Some("cannot reach 0 %".to_owned()),
        (false, false) => Some("cannot reach 0 % or 100 %".to_owned()),
    });
    Line::Row(vec![
        Cell::left(row.timer.path()),
        Cell::right(row.timers.len().to_string()),
        Cell::point(brief(row.clock.nominal)),
        Cell::left(format!("÷{} {}", division(setting.divider), setting.plan.top)),
        Cell::left(frequency_error(fit.frequency_error, fit.frequency_exact)),
        Cell::right(row.choice.steps().to_string()),
        Cell::point(setting.step.rounded(3)),
        Cell::left(notes.join(", ")),
    ])
}

/// How far the internal oscillators of the parts may be off, each part once.
fn oscillators(rows: &[SurveyRow]) -> Vec<Line> {
    let mut words: Vec<String> = Vec::new();
    for row in rows {
        let told = row.oscillator.map(|range| format!("{} {}..{}", row.timer.part, range.low, range.high));
        words.extend(told.filter(|told| !words.contains(told)));
    }
    if words.is_empty() { Vec::new() } else { vec![Line::Prose(words.join(", "))] }
}

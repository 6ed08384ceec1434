//! What `scale --observed` shows: the line through what was observed, and the span to paste.

use kairotic_core::load::Load;
use kairotic_core::scale::Calibration;
use serde::Serialize;

use super::json::FindingView;
use super::setting;
use super::words::counted;
use crate::fault::Result;
use crate::render::{Cell, Head, Line, Page, Report, Table, exact};

/// A calibration of a load.
#[derive(Debug)]
pub struct CalibrationReport {
    /// The load as the board has it.
    pub load: Load,
    /// What was found.
    pub calibration: Calibration,
}

impl CalibrationReport {
    /// The span as a board file has it, to a nanosecond.
    fn span(&self) -> String {
        let span = self.calibration.span;
        format!("{}..{}", span.low.rounded(7), span.high.rounded(7)).replace(' ', "")
    }
}

impl Report for CalibrationReport {
    fn page(&self) -> Result<Page> {
        let Calibration { points, findings, .. } = &self.calibration;
        let mut page = Page::headed([self.load.name.clone(), counted(points.len() as u64, "observation")]);
        let line = Line::Row(vec![Cell::left(format!("span = \"{}\"", self.span()))]);
        page.push("write", &["board file"], vec![line]);
        let row =
            |(one, line, out): &(kairotic_core::scale::Observation, kairotic_core::load::LoadLevel, bool)| {
                let miss = one.level.less(*line)?;
                Ok(Line::Row(vec![
                    Cell::point(one.pulse.rounded(6)),
                    Cell::point(one.level.rounded(5)),
                    Cell::point(line.rounded(5)),
                    Cell::point(miss.rounded(3)),
                    Cell::left(if *out { "far from the others, left out" } else { "" }),
                ]))
            };
        let rows = points.iter().map(row).collect::<Result<Vec<Line>>>()?;
        page.push("line", &["pulse", "observed", "line", "off", "remark"], rows);
        page.push("watch", &[], setting::findings(findings));
        Ok(page)
    }

    fn table(&self) -> Result<Table> {
        let rows = self.calibration.points.iter().map(|(one, line, out)| {
            vec![exact(one.pulse.value()), one.level.exact(), line.exact(), out.to_string()]
        });
        Ok(Table { header: vec!["pulse_s", "observed", "line", "left_out"], rows: rows.collect() })
    }

    fn json(&self) -> Result<String> {
        let Calibration { points, span, findings, .. } = &self.calibration;
        let points = points.iter().map(|(one, line, out)| ObservedView {
            pulse_s: exact(one.pulse.value()),
            observed: one.level.exact(),
            line: line.exact(),
            left_out: *out,
        });
        let view = View {
            head: Head::of("scale"),
            load: &self.load.name,
            span: self.span(),
            span_s: [exact(span.low.value()), exact(span.high.value())],
            observations: points.collect(),
            findings: findings.iter().map(FindingView::of).collect(),
        };
        Ok(serde_json::to_string_pretty(&view)?)
    }
}

#[derive(Serialize)]
struct View<'r> {
    #[serde(flatten)]
    head: Head,
    load: &'r str,
    span: String,
    span_s: [String; 2],
    observations: Vec<ObservedView>,
    findings: Vec<FindingView>,
}

#[derive(Serialize)]
struct ObservedView {
    pulse_s: String,
    observed: String,
    line: String,
    left_out: bool,
}

//! What `scale --observed` shows: the numbers to paste into the board file, and how each observation lies to the line.

use kairotic_core::load::{Calibration, CalibrationPoint, KeyFigure, LoadKind, ObservedValue, Taken};
use kairotic_core::quantity::Figure;
use kairotic_core::target::Span;
use serde::Serialize;

use super::setting;
use super::words::counted;
use crate::fault::Result;
use crate::format::{Cell, Line, Page, Report, Table, column, decimal, decimal_or_none, envelope};

/// A calibration of a load.
#[derive(Debug, Serialize)]
pub struct CalibrationReport {
    /// The load's name on the board.
    #[serde(rename = "load")]
    pub name: String,
    /// What was found.
    #[serde(flatten)]
    pub calibration: Calibration,
}

/// A key of a load in a board file, its value there, and exactly, in base units.
#[derive(Debug, Serialize)]
struct Key {
    key: &'static str,
    value: String,
    exact: String,
}

/// So many digits are a nanosecond of a servo's pulse, and far less than anybody can observe.
const DIGITS: usize = 7;

impl Key {
    fn of(key: &'static str, value: KeyFigure) -> Self {
        let one = |figure: Figure| (figure.rounded(DIGITS).replace(' ', ""), figure.value().to_string());
        let (value, exact) = match value {
            KeyFigure::One(figure) => one(figure),
            KeyFigure::Range(low, high) => {
                let (low, high) = (one(low), one(high));
                (format!("{}..{}", low.0, high.0), format!("{}..{}", low.1, high.1))
            }
        };
        Self { key, value, exact }
    }
}

impl CalibrationReport {
    /// What the board file should say of the load.
    fn keys(&self) -> Vec<Key> {
        let found = self.calibration.load.calibrated_keys().into_iter();
        found.map(|(key, value)| Key::of(key, value)).collect()
    }

    /// What a load was given, in what counts for it.
    fn given(&self, point: &CalibrationPoint) -> String {
        match self.calibration.load.span() {
            Ok(Span::Pulse(_)) => point.observation.given.pulse.rounded(6),
            _ => point.observation.given.duty.rounded(6),
        }
    }
}

impl Report for CalibrationReport {
    fn page(&self) -> Result<Page> {
        let Calibration { points, findings, dead_zone, .. } = &self.calibration;
        let mut page = Page::headed([self.name.clone(), counted(points.len() as u64, "observation")]);
        let keys = self.keys();
        let line = |key: &Key| Line::Row(vec![Cell::left(format!("{} = \"{}\"", key.key, key.value))]);
        page.push("write", &["board file"], keys.iter().map(line).collect());
        let rows = points.iter().map(|point| {
            let reading = point.observation.reading;
            let text = |reading: ObservedValue| reading.rounded(5);
            let off = point.line.and_then(|line| reading.value().minus(line.value()));
            let remark = match point.taken {
                Taken::Fitted => "",
                Taken::Far => "far from the others, left out",
                Taken::Standing => "stopped, left out",
            };
            Line::Row(vec![
                Cell::point(self.given(point)),
                Cell::point(text(reading)),
                Cell::point(point.line.map(text).unwrap_or_default()),
                Cell::point(off.map(|off| reading.with(off.magnitude()).rounded(3)).unwrap_or_default()),
                Cell::left(remark),
            ])
        });
        page.table("line", &["given", "seen", "line", "off", "remark"], rows.collect());
        if let Some(zone) = dead_zone {
            let text = format!("between {} and {}", zone.low.rounded(6), zone.high.rounded(6));
            page.push("stands", &["dead zone"], vec![Line::Row(vec![Cell::left(text)])]);
        }
        page.push("findings", &[], setting::findings(findings));
        Ok(page)
    }

    fn table(&self) -> Result<Table> {
        let rows = self.calibration.points.iter().map(|point| {
            let given = point.observation.given;
            vec![
                decimal(given.pulse.value()),
                decimal(given.duty.value()),
                decimal(point.observation.reading.reported().0),
                decimal_or_none(point.line.map(|line| line.reported().0)),
                match point.taken {
                    Taken::Fitted => String::new(),
                    Taken::Far => "far".to_owned(),
                    Taken::Standing => "standing".to_owned(),
                },
            ]
        });
        let unit = self.calibration.points.first().and_then(|point| point.observation.reading.reported().1);
        let [seen, line] = ["seen", "line"].map(|name| column(name, unit));
        Ok(Table::new(&["pulse_s", "duty", &seen, &line, "left_out"], rows))
    }

    fn json(&self) -> Result<String> {
        #[derive(Serialize)]
        struct WithKeys<'r> {
            write: Vec<Key>,
            #[serde(flatten)]
            report: &'r CalibrationReport,
        }
        let written = WithKeys { write: self.keys(), report: self };
        envelope("scale", written, &self.calibration.findings)
    }
}

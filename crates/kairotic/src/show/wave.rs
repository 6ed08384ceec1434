//! What `wave` shows: each signal's first edges, and where the capture was saved.

use std::path::PathBuf;

use kairotic_core::capture::Logic;
use kairotic_core::quantity::{Rational, Time};
use serde::Serialize;

use super::words::counted;
use crate::fault::Result;
use crate::render::{Cell, Head, Line, Page, Report, Table, exact};

/// One signal of a waveform.
#[derive(Debug)]
pub struct WaveSignal {
    /// Its name.
    pub name: String,
    /// Where it comes from.
    pub timer: String,
    /// One period as planned.
    pub period: Time,
    /// How often its level is set, the start included.
    pub count: u64,
    /// The first of these, in ticks.
    pub first: Vec<(u64, Logic)>,
}

/// A waveform.
#[derive(Debug)]
pub struct WaveReport {
    /// Its signals.
    pub signals: Vec<WaveSignal>,
    /// How long it is.
    pub length: Time,
    /// The recorder's tick.
    pub tick: Time,
    /// Where it was saved.
    pub saved: Option<PathBuf>,
}

/// The word for a level.
const fn word(level: Logic) -> &'static str {
    match level {
        Logic::Low => "low",
        Logic::High => "high",
        Logic::Unknown => "unknown",
    }
}

impl WaveReport {
    fn time(&self, ticks: u64) -> Option<Time> {
        Rational::from(ticks).times(self.tick.value()).map(Time::new)
    }
}

impl Report for WaveReport {
    fn page(&self) -> Result<Page> {
        let count = counted(self.signals.len() as u64, "signal");
        let mut page = Page::headed([
            "waveform".to_owned(),
            format!("{count} for {}", self.length.rounded(6)),
            format!("in ticks of {}", self.tick.exact()),
        ]);
        let mut rows = Vec::new();
        for signal in &self.signals {
            for (place, (at, level)) in signal.first.iter().enumerate() {
                let name = if place == 0 { signal.name.clone() } else { String::new() };
                let at = self.time(*at).map(|time| time.rounded(9)).unwrap_or_default();
                rows.push(Line::Row(vec![Cell::left(name), Cell::point(at), Cell::left(word(*level))]));
            }
            let more = signal.count.saturating_sub(signal.first.len() as u64);
            if more > 0 {
                let more = format!("and {more} more");
                rows.push(Line::Row(vec![Cell::left(""), Cell::left(""), Cell::left(more)]));
            }
        }
        page.push("edges", &["signal", "time", "level"], rows);
        let saved = self.saved.iter().map(|path| Line::Prose(path.display().to_string()));
        page.push("saved", &["file"], saved.collect());
        Ok(page)
    }

    fn table(&self) -> Result<Table> {
        let rows = self.signals.iter().flat_map(|signal| {
            signal.first.iter().map(|(at, level)| {
                let at = self.time(*at).map(|time| exact(time.value())).unwrap_or_default();
                vec![signal.name.clone(), at, word(*level).to_owned()]
            })
        });
        Ok(Table { header: vec!["signal", "time_s", "level"], rows: rows.collect() })
    }

    fn json(&self) -> Result<String> {
        let signals = self.signals.iter().map(|signal| SignalView {
            signal: &signal.name,
            timer: &signal.timer,
            period_s: exact(signal.period.value()),
            edges: signal.count.saturating_sub(1),
            first: signal
                .first
                .iter()
                .map(|(at, level)| EdgeView {
                    time_s: self.time(*at).map(|time| exact(time.value())).unwrap_or_default(),
                    level: word(*level),
                })
                .collect(),
        });
        let view = View {
            head: Head::of("wave"),
            length_s: exact(self.length.value()),
            tick_s: exact(self.tick.value()),
            signals: signals.collect(),
            saved: self.saved.as_ref().map(|path| path.display().to_string()),
        };
        Ok(serde_json::to_string_pretty(&view)?)
    }
}

#[derive(Serialize)]
struct View<'r> {
    #[serde(flatten)]
    head: Head,
    length_s: String,
    tick_s: String,
    signals: Vec<SignalView<'r>>,
    saved: Option<String>,
}

#[derive(Serialize)]
struct SignalView<'r> {
    signal: &'r str,
    timer: &'r str,
    period_s: String,
    edges: u64,
    first: Vec<EdgeView>,
}

#[derive(Serialize)]
struct EdgeView {
    time_s: String,
    level: &'static str,
}

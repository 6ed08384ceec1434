//! What `wave` shows: each signal's first edges, and where the capture was saved.

use std::path::PathBuf;

use kairotic_core::quantity::{Rational, Time, TimeDimension};
use kairotic_core::simulation::{CounterInTicks, Logic};
use serde::Serialize;

use super::floats::{shown, unit};
use super::words::counted;
use crate::chart::{CounterPlot, PinPlot, WavePlot};
use crate::fault::Result;
use crate::format::{Cell, Line, Page, Report, Table, envelope, exact};

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
    /// Those that a picture shows, where one is drawn.
    pub drawn: Vec<(u64, Logic)>,
    /// The counter behind it, for the picture.
    pub counter: Option<CounterInTicks>,
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

/// With more counters than this in a picture there is no room for any.
const COUNTERS: usize = 3;
/// A pin with more edges than this would be a block of colour.
const EDGES: usize = 500;

impl WaveReport {
    /// The waveform up to a tick, as a picture.
    pub fn figure(&self, end: u64) -> WavePlot {
        let seconds = |ticks: f64| ticks * self.tick.value().approx();
        let (time_unit, worth) = unit(seconds(end as f64));
        let time = |ticks: f64| seconds(ticks) / worth;
        // Outputs of one counter are drawn under it: what follows with the same one has none of its own.
        let mut last = None;
        let mut counters: Vec<Option<&CounterInTicks>> = Vec::new();
        for signal in &self.signals {
            let own = signal.counter.as_ref().filter(|counter| last != Some(*counter));
            last = signal.counter.as_ref();
            counters.push(own);
        }
        let room = counters.iter().flatten().count() <= COUNTERS;
        let pins = self.signals.iter().zip(counters).map(|(signal, counter)| {
            let edges: Vec<(f64, bool)> =
                signal.drawn.iter().map(|(at, level)| (time(*at as f64), *level == Logic::High)).collect();
            let lengths = lengths(&signal.drawn);
            let length = |(from, to): Ends, what: &str| {
                let words = shown::<TimeDimension>(seconds((to - from) as f64), 6);
                (time(from as f64), time(to as f64), format!("{what}{words}"))
            };
            PinPlot {
                name: signal.name.clone(),
                timer: signal.timer.clone(),
                dense: edges.len() > EDGES,
                period: lengths.0.map(|ends| length(ends, "period ")),
                high: lengths.1.map(|ends| length(ends, "high ")),
                edges,
                counter: counter.filter(|_| room).map(|counter| CounterPlot {
                    points: counter.points.iter().map(|(at, value)| (time(*at), *value)).collect(),
                    top: counter.top.clone(),
                    marks: counter.marks.clone(),
                }),
            }
        });
        let first = self.signals.first().map(|signal| signal.timer.clone()).unwrap_or_default();
        let count = counted(self.signals.len() as u64, "pin");
        let length = shown::<TimeDimension>(seconds(end as f64), 4);
        WavePlot {
            title: match self.signals.len() {
                1 => format!("{first}, {length}"),
                _ => format!("{count}, {length}"),
            },
            time_unit: time_unit.to_owned(),
            end: time(end as f64),
            pins: pins.collect(),
        }
    }

    fn time(&self, ticks: u64) -> Option<Time> {
        Rational::from(ticks).times(self.tick.value()).map(Time::new)
    }
}

/// From one tick to another.
type Ends = (u64, u64);

/// The ends of a whole period and of the high time in it: the second one where there is one, since the first may begin
/// anywhere.
fn lengths(edges: &[(u64, Logic)]) -> (Option<Ends>, Option<Ends>) {
    let rises = edges.iter().filter(|(_, level)| *level == Logic::High).map(|(at, _)| *at);
    let (rise, next) = match rises.take(3).collect::<Vec<u64>>().as_slice() {
        [_, rise, next] | [rise, next] => (*rise, Some(*next)),
        [rise] => (*rise, None),
        _ => return (None, None),
    };
    let fall = edges.iter().find(|(at, level)| *at > rise && *level == Logic::Low).map(|(at, _)| *at);
    (next.map(|next| (rise, next)), fall.map(|fall| (rise, fall)))
}

impl Report for WaveReport {
    fn page(&self) -> Result<Page> {
        let count = counted(self.signals.len() as u64, "signal");
        let mut page = Page::headed([
            "waveform".to_owned(),
            format!("{count} for {}", self.length.rounded(6)),
            format!("in ticks of {}", self.tick.told()),
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
        page.table("edges", &["signal", "time", "level"], rows);
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
            period: signal.period,
            edges: signal.count.saturating_sub(1),
            first: signal
                .first
                .iter()
                .map(|(at, level)| EdgeView { time: self.time(*at), level: word(*level) })
                .collect(),
        });
        let view = View {
            length: self.length,
            tick: self.tick,
            signals: signals.collect(),
            saved: self.saved.as_ref().map(|path| path.display().to_string()),
        };
        envelope("wave", view, &[])
    }
}

#[derive(Serialize)]
struct View<'r> {
    length: Time,
    tick: Time,
    signals: Vec<SignalView<'r>>,
    saved: Option<String>,
}

#[derive(Serialize)]
struct SignalView<'r> {
    signal: &'r str,
    timer: &'r str,
    period: Time,
    edges: u64,
    first: Vec<EdgeView>,
}

#[derive(Serialize)]
struct EdgeView {
    time: Option<Time>,
    level: &'static str,
}

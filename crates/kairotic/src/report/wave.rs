//! What `wave` shows: each signal's first edges, and where the capture was saved.

use kairotic_core::quantity::{Time, TimeDimension};
use kairotic_core::simulation::{CounterInTicks, Logic, PinRole, PlayedPin};
use serde::Serialize;

use super::floats::{shown, unit};
use super::words::counted;
use crate::chart::{CounterPlot, PinPlot, WavePlot};
use crate::fault::Result;
use crate::format::{Cell, Line, Page, Report, Table, decimal, envelope};

/// One signal of a waveform.
#[derive(Debug, Serialize)]
pub struct WaveSignal {
    /// Its name.
    #[serde(rename = "signal")]
    pub name: String,
    /// Where it comes from.
    pub timer: String,
    /// One period as planned.
    pub period: Time,
    /// How many edges it has.
    pub edges: u64,
    /// Its first levels, that at the start included.
    pub first: Vec<LevelAt>,
    /// Those that a picture shows, where one is drawn, in ticks.
    #[serde(skip)]
    pub drawn: Vec<(u64, Logic)>,
    /// The counter behind it, for the picture.
    #[serde(skip)]
    pub counter: Option<CounterInTicks>,
}

impl WaveSignal {
    /// A signal of which nothing was seen yet.
    pub fn named(name: &str, timer: String, period: Time) -> Self {
        let (first, drawn) = (Vec::new(), Vec::new());
        Self { name: name.to_owned(), timer, period, edges: 0, first, drawn, counter: None }
    }

    /// The same of a pin that is played; of a stepper its fastest step stands for a period.
    pub fn of(pin: &PlayedPin) -> Self {
        let timer = match pin.role {
            PinRole::Level { .. } => "level",
            PinRole::Step { .. } => "steps",
            PinRole::Direction => "direction",
            PinRole::Wire { .. } => "wire",
        };
        Self::named(&pin.line.name, timer.to_owned(), pin.period)
    }
}

/// A level from a time on.
#[derive(Debug, Clone, Copy, Serialize)]
pub struct LevelAt {
    /// The time.
    pub time: Time,
    /// The level.
    pub level: Logic,
}

/// A waveform.
#[derive(Debug, Serialize)]
pub struct WaveReport {
    /// How long it is.
    pub length: Time,
    /// The recorder's tick.
    pub tick: Time,
    /// Its signals.
    pub signals: Vec<WaveSignal>,
    /// Where it was saved.
    pub saved: Option<String>,
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
            let length = |(from, to): TickSpan, what: &str| {
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
}

/// From one tick to another.
type TickSpan = (u64, u64);

/// The ends of a whole period and of the high time in it: the second one where there is one, since the first may begin
/// anywhere.
fn lengths(edges: &[(u64, Logic)]) -> (Option<TickSpan>, Option<TickSpan>) {
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
            for (place, LevelAt { time, level }) in signal.first.iter().enumerate() {
                let name = if place == 0 { signal.name.clone() } else { String::new() };
                let (time, level) = (Cell::point(time.rounded(9)), Cell::left(level.word()));
                rows.push(Line::Row(vec![Cell::left(name), time, level]));
            }
            // The level at the start is no edge.
            let more = (signal.edges + 1).saturating_sub(signal.first.len() as u64);
            if more > 0 {
                let more = format!("and {more} more");
                rows.push(Line::Row(vec![Cell::left(""), Cell::left(""), Cell::left(more)]));
            }
        }
        page.table("edges", &["signal", "time", "level"], rows);
        let saved = self.saved.iter().cloned().map(Line::Prose);
        page.push("saved", &["file"], saved.collect());
        Ok(page)
    }

    fn table(&self) -> Result<Table> {
        let rows = self.signals.iter().flat_map(|signal| {
            signal.first.iter().map(|LevelAt { time, level }| {
                vec![signal.name.clone(), decimal(time.value()), level.word().to_owned()]
            })
        });
        Ok(Table::new(&["signal", "time_s", "level"], rows))
    }

    fn json(&self) -> Result<String> {
        envelope("wave", self, &[])
    }
}

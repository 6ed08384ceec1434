//! A recorded speed.

use kairotic_core::capture::Recorder;
use kairotic_core::quantity::{DeviationDimension, SpeedDimension, TimeDimension};
use kairotic_core::tach::TurnTiming;
use kairotic_formats::capture::{Header, Trailer};
use serde::Serialize;

use super::super::floats::{shown, unit};
use super::super::words::counted;
use crate::chart::{Band, SpeedPlot};
use crate::fault::Result;
use crate::format::approximate;
use crate::format::{Cell, Line, Page, Report, Table, envelope};

/// The most lines of one kind.
const LINES: usize = 12;

/// A capture, read as a speed.
#[derive(Debug)]
pub struct SpeedReport {
    /// The file.
    pub file: String,
    /// What it says of itself.
    pub header: Header,
    /// What it left at its end.
    pub trailer: Trailer,
    /// What recorded it.
    pub recorder: Recorder,
    /// Pulses a turn.
    pub pulses_per_turn: u32,
    /// Whether it was said when it stands.
    pub stands_said: bool,
    /// The signals.
    pub signals: Vec<SpeedSignal>,
}

/// One signal.
#[derive(Debug)]
pub struct SpeedSignal {
    /// Its name in the capture.
    pub name: String,
    /// What was measured.
    pub turns: TurnTiming,
}

impl SpeedReport {
    /// TurnTiming a second, for turns that take so many ticks.
    fn speed(&self, ticks: f64) -> f64 {
        1.0 / (ticks * self.recorder.tick)
    }

    /// How far one reading may be off, relatively, where a turn takes so many ticks: by whole steps of the capture.
    fn step(&self, ticks: f64) -> f64 {
        self.recorder.interval.max(1) as f64 / ticks
    }

    /// How far all readings may be off, where it was said.
    fn accuracy(&self) -> Option<f64> {
        self.recorder.accuracy.map(|accuracy| accuracy.value().approx())
    }

    /// A speed as text, no finer than a turn's step lets tell.
    fn shown(&self, ticks: f64) -> String {
        let digits = (-self.step(ticks).log10()).floor().clamp(2.0, 6.0) as usize + 1;
        shown::<SpeedDimension>(self.speed(ticks), digits)
    }

    fn time(&self, ticks: u64) -> String {
        shown::<TimeDimension>(ticks as f64 * self.recorder.tick, 5)
    }

    /// The first signal that turns, as a picture.
    pub fn figure(&self) -> Option<SpeedPlot> {
        let signal = self.signals.iter().find(|signal| !signal.turns.trace.is_empty())?;
        let turns = &signal.turns;
        let seconds = |ticks: u64| ticks as f64 * self.recorder.tick;
        let (time_unit, worth) = unit(seconds(self.trailer.end));
        let rpm = |ticks: i64| self.speed(ticks as f64) * 60.0;
        let turning =
            turns.trace.iter().map(|point| (seconds(point.at) / worth, rpm(point.turn.1), rpm(point.turn.0)));
        let stops = turns.stops.first.iter();
        let standing = stops.map(|stop| (seconds(stop.at) / worth, seconds(stop.at + stop.size) / worth));
        let mean = turns.mean_turn.map(|turn| self.shown(turn)).unwrap_or_default();
        let stood = match turns.stops.count {
            0 => String::new(),
            count => {
                format!("; stopped {}", if count == 1 { "once".to_owned() } else { format!("{count} times") })
            }
        };
        Some(SpeedPlot {
            title: format!("{}: {mean} on average while it turned{stood}", signal.name),
            speed: Band {
                unit: "speed, rpm".to_owned(),
                time_unit: time_unit.to_owned(),
                points: turning.collect(),
            },
            standing: standing.collect(),
            end: seconds(self.trailer.end) / worth,
        })
    }

    fn gives(&self, turns: &TurnTiming) -> Vec<Line> {
        let Some(mean) = turns.mean_turn else {
            return vec![Line::Prose("it does not turn: there are fewer than two pulses".to_owned())];
        };
        let accuracy = match self.accuracy() {
            Some(accuracy) => {
                format!(", ± {} by the recorder's clock", shown::<DeviationDimension>(accuracy, 3))
            }
            None => String::new(),
        };
        let row = |name: &str, value: String, note: String| {
            Line::row([Cell::left(name), Cell::point(value), Cell::left(note)])
        };
        let note = format!("on average while it turned{accuracy}");
        let mut lines = vec![row("speed", self.shown(mean), note)];
        if let Some((fastest, slowest)) = turns.turn.ends() {
            // The longest turn is the slowest speed.
            let middle = [0.99, 0.01].map(|share| self.shown(turns.turn.percentile(share)));
            lines.push(row(
                "slowest",
                self.shown(slowest as f64),
                format!("98 % of turns {} to {}", middle[0], middle[1]),
            ));
            lines.push(row("fastest", self.shown(fastest as f64), String::new()));
            let step = shown::<SpeedDimension>(self.speed(mean) * self.step(mean), 2);
            lines.push(row("step", step, "from one reading to the next, by the capture's steps".to_owned()));
        }
        lines
    }

    fn steps(&self, turns: &TurnTiming) -> Vec<Line> {
        if turns.segments.len() < 2 {
            return Vec::new();
        }
        let lines = turns.segments.iter().take(LINES).map(|segment| {
            Line::row([
                Cell::point(self.time(segment.start)),
                Cell::left(counted(segment.cycles, "turn")),
                Cell::point(self.shown(segment.period)),
            ])
        });
        let mut lines: Vec<Line> = lines.collect();
        let more = turns.segments.len().saturating_sub(LINES) as u64 + turns.further_segments;
        if more > 0 {
            lines.push(Line::Prose(format!("and {more} more")));
        }
        lines
    }

    fn stood(&self, turns: &TurnTiming) -> Vec<Line> {
        let lines = turns.stops.first.iter().take(LINES).map(|stop| {
            Line::row([Cell::point(self.time(stop.at)), Cell::left(format!("for {}", self.time(stop.size)))])
        });
        let mut lines: Vec<Line> = lines.collect();
        let more = turns.stops.count.saturating_sub(lines.len() as u64);
        if more > 0 {
            lines.push(Line::Prose(format!("and {more} more times")));
        }
        lines
    }

    fn assumed(&self) -> Vec<Line> {
        let mut notes: Vec<Line> = self.trailer.notes.iter().cloned().map(Line::Prose).collect();
        let any = self.signals.iter().any(|signal| signal.turns.mean_turn.is_some());
        if any && !self.stands_said {
            let text = "it stands when no pulse comes for four times the gap before: --speed-range says what is slowest";
            notes.push(Line::Prose(text.to_owned()));
        }
        notes
    }
}

/// What the gaps after the pulses of a turn are, in shares of it.
fn places(turns: &TurnTiming) -> Vec<Line> {
    let share = |share: &f64| format!("{:.2} %", share * 100.0);
    let shares: Vec<String> = turns.places.iter().map(share).collect();
    if shares.is_empty() { Vec::new() } else { vec![Line::Prose(format!("{} of a turn", shares.join(", ")))] }
}

impl Report for SpeedReport {
    fn page(&self) -> Result<Page> {
        let mut page = Page::headed([
            self.file.clone(),
            format!("{}, {}", self.header.kind, self.time(self.trailer.end)),
            format!("{} a turn", counted(self.pulses_per_turn.into(), "pulse")),
        ]);
        for SpeedSignal { name, turns } in &self.signals {
            let active = turns.active.map_or_else(String::new, |(first, last)| {
                format!("from {} to {}", self.time(first), self.time(last))
            });
            let pulses = counted(turns.pulses, "pulse");
            let heading = Line::row([Cell::left(name.clone()), Cell::left(pulses), Cell::left(active)]);
            page.push("signal", &["name", "pulses", "active"], vec![heading]);
            page.push("gives", &["figure", "value", "note"], self.gives(turns));
            page.push("places", &["gaps"], places(turns));
            page.table("steps", &["from", "turns", "speed"], self.steps(turns));
            page.push("stood", &["from", "how long"], self.stood(turns));
            let glitches = turns.glitches.count;
            let left_out = (glitches > 0)
                .then(|| Line::Prose(format!("{}, too short to be any", counted(glitches, "pulse"))));
            page.push("left out", &["what"], left_out.into_iter().collect());
        }
        page.push("assumed", &["what"], self.assumed());
        Ok(page)
    }

    fn table(&self) -> Result<Table> {
        let header = vec!["signal", "time_s", "slowest_rpm", "fastest_rpm"];
        let rows = self.signals.iter().flat_map(|signal| {
            signal.turns.trace.iter().map(|point| {
                let time = point.at as f64 * self.recorder.tick;
                let rpm = |ticks: i64| (self.speed(ticks as f64) * 60.0).to_string();
                vec![signal.name.clone(), time.to_string(), rpm(point.turn.1), rpm(point.turn.0)]
            })
        });
        Ok(Table { header, rows: rows.collect() })
    }

    fn json(&self) -> Result<String> {
        let view = View {
            file: &self.file,
            kind: self.header.kind,
            step: self.recorder.floor(),
            length: self.trailer.end as f64 * self.recorder.tick,
            pulses_per_turn: self.pulses_per_turn,
            signals: self.signals.iter().map(|signal| SignalView::of(self, signal)).collect(),
            notes: &self.trailer.notes,
        };
        envelope("tach", view, &[])
    }
}

#[derive(Serialize)]
struct View<'r> {
    file: &'r str,
    kind: &'static str,
    #[serde(serialize_with = "approximate::seconds")]
    step: f64,
    #[serde(serialize_with = "approximate::seconds")]
    length: f64,
    pulses_per_turn: u32,
    signals: Vec<SignalView<'r>>,
    notes: &'r [String],
}

#[derive(Serialize)]
struct SignalView<'r> {
    signal: &'r str,
    pulses: u64,
    #[serde(serialize_with = "approximate::rpm")]
    speed: Option<f64>,
    #[serde(serialize_with = "approximate::rpm")]
    slowest: Option<f64>,
    #[serde(serialize_with = "approximate::rpm")]
    fastest: Option<f64>,
    #[serde(serialize_with = "approximate::ratio")]
    step: Option<f64>,
    #[serde(serialize_with = "approximate::ratio")]
    accuracy: Option<f64>,
    #[serde(serialize_with = "approximate::ratios")]
    places: &'r [f64],
    segments: Vec<SegmentView>,
    further_segments: u64,
    stops: u64,
    stood: Vec<StopView>,
    glitches: u64,
    speeds: Vec<PointView>,
}

#[derive(Serialize)]
struct SegmentView {
    #[serde(serialize_with = "approximate::seconds")]
    start: f64,
    #[serde(serialize_with = "approximate::seconds")]
    end: f64,
    turns: u64,
    #[serde(serialize_with = "approximate::rpm")]
    speed: f64,
}

#[derive(Serialize)]
struct StopView {
    #[serde(serialize_with = "approximate::seconds")]
    at: f64,
    #[serde(serialize_with = "approximate::seconds")]
    lasts: f64,
}

#[derive(Serialize)]
struct PointView {
    #[serde(serialize_with = "approximate::seconds")]
    at: f64,
    #[serde(serialize_with = "approximate::rpm")]
    slowest: f64,
    #[serde(serialize_with = "approximate::rpm")]
    fastest: f64,
}

impl<'r> SignalView<'r> {
    fn of(report: &SpeedReport, signal: &'r SpeedSignal) -> Self {
        let turns = &signal.turns;
        let seconds = |ticks: u64| ticks as f64 * report.recorder.tick;
        let rpm = |ticks: f64| report.speed(ticks) * 60.0;
        let ends = turns.turn.ends();
        Self {
            signal: &signal.name,
            pulses: turns.pulses,
            speed: turns.mean_turn.map(rpm),
            slowest: ends.map(|(_, slowest)| rpm(slowest as f64)),
            fastest: ends.map(|(fastest, _)| rpm(fastest as f64)),
            step: turns.mean_turn.map(|turn| report.step(turn)),
            accuracy: report.accuracy(),
            places: &turns.places,
            segments: turns
                .segments
                .iter()
                .map(|segment| SegmentView {
                    start: seconds(segment.start),
                    end: seconds(segment.end),
                    turns: segment.cycles,
                    speed: rpm(segment.period),
                })
                .collect(),
            further_segments: turns.further_segments,
            stops: turns.stops.count,
            stood: turns
                .stops
                .first
                .iter()
                .map(|stop| StopView { at: seconds(stop.at), lasts: seconds(stop.size) })
                .collect(),
            glitches: turns.glitches.count,
            speeds: turns
                .trace
                .iter()
                .map(|point| PointView {
                    at: seconds(point.at),
                    slowest: rpm(point.turn.1 as f64),
                    fastest: rpm(point.turn.0 as f64),
                })
                .collect(),
        }
    }
}

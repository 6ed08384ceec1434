//! A recorded speed.

use kairotic_core::capture::MeasuredTime;
use kairotic_core::tach::{MeasuredSpeed, SpeedResult};
use serde::Serialize;

use super::super::floats::unit;
use super::super::words::counted;
use crate::chart::{Band, SpeedPlot};
use crate::fault::Result;
use crate::format::{Cell, Line, Page, Report, Table, envelope};

/// The most lines of one kind.
const LINES: usize = 12;

/// A capture, read as a speed.
#[derive(Debug, Serialize)]
pub struct SpeedReport {
    /// The file.
    pub file: String,
    /// What kind of file that is.
    pub kind: &'static str,
    /// From one sample to the next.
    pub step: MeasuredTime,
    /// From the capture's start to its end.
    pub length: MeasuredTime,
    /// Pulses a turn.
    pub pulses_per_turn: u32,
    /// The signals.
    pub signals: Vec<SpeedSignal>,
    /// What was assumed.
    pub notes: Vec<String>,
}

/// One signal.
#[derive(Debug, Serialize)]
pub struct SpeedSignal {
    /// Its name in the capture.
    #[serde(rename = "signal")]
    pub name: String,
    /// What was measured.
    #[serde(flatten)]
    pub result: SpeedResult,
}

/// A speed as text, no finer than a turn's step in the capture lets tell.
fn told(speed: MeasuredSpeed, step: MeasuredTime) -> String {
    let step = speed.value() * step.value();
    speed.rounded((-step.log10()).floor().clamp(2.0, 6.0) as usize + 1)
}

impl SpeedReport {
    /// The first signal that turns, as a picture.
    pub fn figure(&self) -> Option<SpeedPlot> {
        let SpeedSignal { name, result } =
            self.signals.iter().find(|signal| !signal.result.speeds.is_empty())?;
        let (time_unit, worth) = unit(self.length.value());
        let time = |time: MeasuredTime| time.value() / worth;
        let rpm = |speed: MeasuredSpeed| speed.value() * 60.0;
        let turning =
            result.speeds.iter().map(|point| (time(point.at), rpm(point.slowest), rpm(point.fastest)));
        let standing =
            result.stood.iter().map(|stop| (time(stop.at), (stop.at.value() + stop.lasts.value()) / worth));
        let mean = result.speed.map(|speed| told(speed, self.step)).unwrap_or_default();
        let stood = match result.stops {
            0 => String::new(),
            1 => "; stopped once".to_owned(),
            count => format!("; stopped {count} times"),
        };
        Some(SpeedPlot {
            title: format!("{name}: {mean} on average while it turned{stood}"),
            speed: Band {
                unit: "speed, rpm".to_owned(),
                time_unit: time_unit.to_owned(),
                points: turning.collect(),
            },
            standing: standing.collect(),
            end: time(self.length),
        })
    }

    fn gives(&self, result: &SpeedResult) -> Vec<Line> {
        let Some(mean) = result.speed else {
            return vec![Line::Prose("it does not turn: there are fewer than two pulses".to_owned())];
        };
        let accuracy = match result.accuracy {
            Some(accuracy) => format!(", ± {} by the recorder's clock", accuracy.rounded(3)),
            None => String::new(),
        };
        let row = |name: &str, value: String, note: String| {
            Line::row([Cell::left(name), Cell::point(value), Cell::left(note)])
        };
        let told = |speed| told(speed, self.step);
        let mut lines = vec![row("speed", told(mean), format!("on average while it turned{accuracy}"))];
        if let (Some(slowest), Some(fastest), Some((low, high)), Some(step)) =
            (result.slowest, result.fastest, result.most_turns, result.step)
        {
            let most = format!("98 % of revolutions {} to {}", told(low), told(high));
            lines.push(row("slowest", told(slowest), most));
            lines.push(row("fastest", told(fastest), String::new()));
            let step = MeasuredSpeed::new(mean.value() * step.value()).rounded(2);
            lines.push(row("step", step, "from one reading to the next, by the capture's steps".to_owned()));
        }
        lines
    }

    fn steps(&self, result: &SpeedResult) -> Vec<Line> {
        if result.segments.len() < 2 {
            return Vec::new();
        }
        let lines = result.segments.iter().take(LINES).map(|segment| {
            Line::row([
                Cell::point(segment.start.rounded(5)),
                Cell::left(counted(segment.turns, "turn")),
                Cell::point(told(segment.speed, self.step)),
            ])
        });
        let mut lines: Vec<Line> = lines.collect();
        let more = result.segments.len().saturating_sub(LINES) as u64 + result.further_segments;
        if more > 0 {
            lines.push(Line::Prose(format!("and {more} more")));
        }
        lines
    }
}

fn stood(result: &SpeedResult) -> Vec<Line> {
    let lines = result.stood.iter().take(LINES).map(|stop| {
        Line::row([Cell::point(stop.at.rounded(5)), Cell::left(format!("for {}", stop.lasts.rounded(5)))])
    });
    let mut lines: Vec<Line> = lines.collect();
    let more = result.stops.saturating_sub(lines.len() as u64);
    if more > 0 {
        lines.push(Line::Prose(format!("and {more} more times")));
    }
    lines
}

/// What the gaps after the pulses of a turn are, in shares of it.
fn places(result: &SpeedResult) -> Vec<Line> {
    let shares: Vec<String> =
        result.places.iter().map(|share| format!("{:.2} %", share.value() * 100.0)).collect();
    if shares.is_empty() {
        Vec::new()
    } else {
        vec![Line::Prose(format!("{} of a revolution", shares.join(", ")))]
    }
}

impl Report for SpeedReport {
    fn page(&self) -> Result<Page> {
        let mut page = Page::headed([
            self.file.clone(),
            format!("{}, {}", self.kind, self.length.rounded(5)),
            format!("{} per revolution", counted(self.pulses_per_turn.into(), "pulse")),
        ]);
        for SpeedSignal { name, result } in &self.signals {
            let active = result.active.map_or_else(String::new, |(first, last)| {
                format!("from {} to {}", first.rounded(5), last.rounded(5))
            });
            let pulses = counted(result.pulses, "pulse");
            let heading = Line::row([Cell::left(name.clone()), Cell::left(pulses), Cell::left(active)]);
            page.push("signal", &["name", "pulses", "active"], vec![heading]);
            page.push("gives", &["figure", "value", "note"], self.gives(result));
            page.push("places", &["gaps"], places(result));
            page.table("steps", &["from", "turns", "speed"], self.steps(result));
            page.push("stopped", &["from", "how long"], stood(result));
            let glitches = result.glitches.count;
            let left_out = (glitches > 0)
                .then(|| Line::Prose(format!("{}, too short to be any", counted(glitches, "pulse"))));
            page.push("left out", &["what"], left_out.into_iter().collect());
        }
        page.push("assumed", &["what"], self.notes.iter().cloned().map(Line::Prose).collect());
        Ok(page)
    }

    fn table(&self) -> Result<Table> {
        let header = ["signal", "time_s", "slowest_rpm", "fastest_rpm"];
        let rows = self.signals.iter().flat_map(|SpeedSignal { name, result }| {
            result.speeds.iter().map(|point| {
                let rpm = |speed: MeasuredSpeed| (speed.value() * 60.0).to_string();
                vec![name.clone(), point.at.value().to_string(), rpm(point.slowest), rpm(point.fastest)]
            })
        });
        Ok(Table::new(&header, rows))
    }

    fn json(&self) -> Result<String> {
        envelope("tach", self, &[])
    }
}

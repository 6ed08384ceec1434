//! What was measured of something that turns, in base units.

use serde::Serialize;

use super::speed_meter::TurnTiming;
use crate::capture::{EventsResult, MeasuredRatio, MeasuredTime, Recorder};
use crate::quantity::{Measured, SpeedDimension};

/// A measured speed.
pub type MeasuredSpeed = Measured<SpeedDimension>;

/// The speed of something, over time.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct SpeedResult {
    /// Pulses that came.
    pub pulses: u64,
    /// When the first and the last of them came.
    pub active: Option<(MeasuredTime, MeasuredTime)>,
    /// The mean while it turned; none where it never turned.
    pub speed: Option<MeasuredSpeed>,
    /// The slowest turn.
    pub slowest: Option<MeasuredSpeed>,
    /// The fastest.
    pub fastest: Option<MeasuredSpeed>,
    /// Between these are 98 of 100 turns.
    pub most_turns: Option<(MeasuredSpeed, MeasuredSpeed)>,
    /// How far one reading may be off, relatively: by whole steps of the capture.
    pub step: Option<MeasuredRatio>,
    /// How far all of them may be off by the recorder's clock, where that is stated.
    pub accuracy: Option<MeasuredRatio>,
    /// The share of a turn after each of its pulses, where there are 2 to 16 of them.
    pub places: Vec<MeasuredRatio>,
    /// Stretches of one speed.
    pub segments: Vec<SpeedSegment>,
    /// How many more of those there were.
    pub further_segments: u64,
    /// How often it stood.
    pub stops: u64,
    /// The first times that it stood.
    pub stood: Vec<Stop>,
    /// Pulses that were too short to be any.
    pub glitches: EventsResult,
    /// Speed over time; at most 1024 points.
    pub speeds: Vec<SpeedReadings>,
}

/// A stretch of one speed.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
pub struct SpeedSegment {
    /// When it begins.
    pub start: MeasuredTime,
    /// When it ends.
    pub end: MeasuredTime,
    /// Its turns.
    pub turns: u64,
    /// Their mean speed.
    pub speed: MeasuredSpeed,
}

/// A time without turning.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
pub struct Stop {
    /// From its last pulse.
    pub at: MeasuredTime,
    /// For so long.
    pub lasts: MeasuredTime,
}

/// The speed around one time.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
pub struct SpeedReadings {
    /// When.
    pub at: MeasuredTime,
    /// The slowest turn.
    pub slowest: MeasuredSpeed,
    /// The fastest.
    pub fastest: MeasuredSpeed,
}

impl SpeedResult {
    /// What a recorder measured.
    pub fn of(turns: &TurnTiming, recorder: &Recorder) -> Self {
        let time = |ticks: u64| recorder.time(ticks as f64);
        // The longest turn is the slowest speed.
        let speed = |ticks: f64| Measured::new(1.0 / recorder.time(ticks).value());
        let ends = turns.turn.ends();
        Self {
            pulses: turns.pulses,
            active: turns.active.map(|(first, last)| (time(first), time(last))),
            speed: turns.mean_turn.map(speed),
            slowest: ends.map(|(_, longest)| speed(longest as f64)),
            fastest: ends.map(|(shortest, _)| speed(shortest as f64)),
            most_turns: ends
                .map(|_| (speed(turns.turn.percentile(0.99)), speed(turns.turn.percentile(0.01)))),
            step: turns.mean_turn.map(|turn| Measured::new(recorder.interval.max(1) as f64 / turn)),
            accuracy: recorder.accuracy.map(|accuracy| Measured::new(accuracy.value().approx())),
            places: turns.places.iter().copied().map(Measured::new).collect(),
            segments: turns
                .segments
                .iter()
                .map(|segment| SpeedSegment {
                    start: time(segment.start),
                    end: time(segment.end),
                    turns: segment.cycles,
                    speed: speed(segment.period),
                })
                .collect(),
            further_segments: turns.further_segments,
            stops: turns.stops.count,
            stood: turns
                .stops
                .first
                .iter()
                .map(|stop| Stop { at: time(stop.at), lasts: time(stop.size) })
                .collect(),
            glitches: recorder.events(&turns.glitches),
            speeds: turns
                .trace
                .iter()
                .map(|point| SpeedReadings {
                    at: time(point.at),
                    slowest: speed(point.turn.1 as f64),
                    fastest: speed(point.turn.0 as f64),
                })
                .collect(),
        }
    }
}

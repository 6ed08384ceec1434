//! Something that turns and gives so many pulses a turn: its speed over time.

use std::collections::VecDeque;

use crate::capture::block::RecordedCycle;
use crate::capture::filter::{Filter, Stood};
use crate::capture::segments::Segments;
use crate::capture::trace::{Join, Thinned};
use crate::capture::{Events, Segment, Spread};
use crate::simulation::{Change, Logic};

/// Where nothing else is said, it stands after so many times the gap before.
const STANDS: u64 = 4;
/// With more pulses a turn, their places are not told one by one.
const PLACES: u64 = 16;

/// Measures the speed of something as the changes of its signal come. A turn is timed at each pulse, from the same pulse of
/// the turn before: pulses that are not evenly spaced do no harm.
#[derive(Debug, Clone)]
pub struct SpeedMeter {
    pulses_per_turn: u64,
    /// It stands when no pulse comes for longer.
    stands: Option<u64>,
    filter: Filter,
    pulses: u64,
    active: Option<(u64, u64)>,
    /// The rising edges of the last turn.
    edges: VecDeque<u64>,
    /// The gap before the last edge.
    gap: Option<u64>,
    /// Pulses since it began to turn.
    place: u64,
    running: (u64, u64),
    turn: Spread,
    /// What the gaps after each pulse of whole turns add up to.
    places: Vec<u64>,
    stops: Events,
    segments: Segments,
    trace: Thinned<SpeedPoint>,
}

/// What was measured of something that turns. Times are in ticks of the recorder.
#[derive(Debug, Clone)]
pub struct TurnTiming {
    /// Pulses that came.
    pub pulses: u64,
    /// The first and the last of them.
    pub active: Option<(u64, u64)>,
    /// The time of a turn, timed at each pulse.
    pub turn: Spread,
    /// The mean time of a turn while it turned; none where it never turned.
    pub mean_turn: Option<f64>,
    /// The share of a turn after each of its pulses, where there are 2 to 16 of them.
    pub places: Vec<f64>,
    /// When it stood, each from its last pulse, and for how long.
    pub stops: Events,
    /// Stretches of one speed; their period is that of a turn.
    pub segments: Vec<Segment>,
    /// How many more of those there were.
    pub further_segments: u64,
    /// Speed over time; at most 1024 points.
    pub trace: Vec<SpeedPoint>,
    /// Pulses that were too short to be any.
    pub glitches: Events,
}

/// Speed over a stretch of time, in ticks.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct SpeedPoint {
    /// When the first of them ends.
    pub at: u64,
    /// The shortest and the longest.
    pub turn: (i64, i64),
}

impl Join for SpeedPoint {
    fn with(self, other: Self) -> Self {
        Self { at: self.at, turn: (self.turn.0.min(other.turn.0), self.turn.1.max(other.turn.1)) }
    }
}

impl SpeedMeter {
    /// Measures pulses of which so many come a turn, at least one. It stands when none comes for longer than so many ticks, or for four
    /// times the gap before where nothing is said. Pulses shorter than so many ticks are none.
    pub fn new(pulses_per_turn: u32, stands: Option<u64>, glitch: u64) -> Self {
        let pulses_per_turn = u64::from(pulses_per_turn.max(1));
        let told = (2..=PLACES).contains(&pulses_per_turn);
        Self {
            pulses_per_turn,
            // Each of the two pulses may be seen up to a tick from where it was.
            stands: stands.map(|ticks| ticks.saturating_add(1)),
            filter: Filter::new(glitch),
            pulses: 0,
            active: None,
            edges: VecDeque::new(),
            gap: None,
            place: 0,
            running: (0, 0),
            turn: Spread::default(),
            places: if told { vec![0; pulses_per_turn as usize] } else { Vec::new() },
            stops: Events::default(),
            segments: Segments::default(),
            trace: Thinned::new(),
        }
    }

    /// The signal has a level from a tick on; ticks do not go back.
    pub fn change(&mut self, at: u64, level: Logic) {
        if let Some(stood) = self.filter.change(at, level) {
            self.take(stood);
        }
    }

    fn take(&mut self, stood: Stood) {
        match (stood.was, stood.level) {
            (Logic::Low, Logic::High) => self.pulse(stood.at),
            // Pulses may have come unseen.
            (_, Logic::Unknown) => self.forget(),
            _ => {}
        }
    }

    fn pulse(&mut self, at: u64) {
        self.pulses += 1;
        self.active = Some((self.active.map_or(at, |(first, _)| first), at));
        if let Some(last) = self.edges.back().copied() {
            let gap = at - last;
            if self.has_stood(gap) {
                self.stops.add(last, gap);
                self.forget();
            } else {
                self.turned(last, at, gap);
            }
        }
        self.edges.push_back(at);
    }

    /// Whether it stood for as long as no pulse came.
    fn has_stood(&self, gap: u64) -> bool {
        let limit = self.stands.or_else(|| Some(self.gap?.saturating_mul(STANDS).max(STANDS)));
        limit.is_some_and(|limit| gap > limit)
    }

    fn turned(&mut self, last: u64, at: u64, gap: u64) {
        self.gap = Some(gap);
        self.running.0 += 1;
        self.running.1 += gap;
        self.place += 1;
        if self.edges.len() as u64 > self.pulses_per_turn {
            self.edges.pop_front();
        }
        let first = self.edges.front().copied().unwrap_or(last);
        if self.edges.len() as u64 == self.pulses_per_turn
            && let Ok(turn) = i64::try_from(at - first)
        {
            self.turn.add(turn);
            self.trace.add(SpeedPoint { at, turn: (turn, turn) });
            if self.place.is_multiple_of(self.pulses_per_turn) {
                let next = self.edges.iter().skip(1).copied().chain([at]);
                for (sum, (from, to)) in self.places.iter_mut().zip(self.edges.iter().zip(next)) {
                    *sum += to - from;
                }
                self.segments.add(RecordedCycle { start: first, period: turn, high: 0 });
            }
        }
    }

    /// What was before has nothing to do with what comes.
    fn forget(&mut self) {
        self.edges.clear();
        (self.gap, self.place) = (None, 0);
        self.segments.close();
    }

    /// What was measured, when the capture ends at a tick.
    pub fn finish(mut self, end: u64) -> TurnTiming {
        if let Some(stood) = self.filter.finish() {
            self.take(stood);
        }
        if let Some(last) = self.edges.back().copied() {
            let gap = end.saturating_sub(last);
            if self.has_stood(gap) {
                self.stops.add(last, gap);
            }
        }
        let (gaps, ticks) = self.running;
        let all: u64 = self.places.iter().sum();
        let share = |sum: &u64| *sum as f64 / all.max(1) as f64;
        let (segments, further_segments) = self.segments.finished();
        TurnTiming {
            pulses: self.pulses,
            active: self.active,
            mean_turn: (gaps > 0).then(|| ticks as f64 / gaps as f64 * self.pulses_per_turn as f64),
            turn: self.turn,
            places: if all > 0 { self.places.iter().map(share).collect() } else { Vec::new() },
            stops: self.stops,
            segments,
            further_segments,
            trace: self.trace.points().to_vec(),
            glitches: self.filter.glitches,
        }
    }
}

/// Several signals of one capture, each of something that turns.
#[derive(Debug, Clone)]
pub struct SpeedMeasurement {
    /// By place in the capture; nothing for those that are not chosen.
    meters: Vec<Option<SpeedMeter>>,
}

impl SpeedMeasurement {
    /// The chosen signals, each measured as the model is.
    pub fn new(chosen: &[bool], model: &SpeedMeter) -> Self {
        Self { meters: chosen.iter().map(|chosen| chosen.then(|| model.clone())).collect() }
    }

    /// Takes changes in the order of their times.
    pub fn take(&mut self, changes: &[Change]) {
        for change in changes {
            if let Some(Some(meter)) = self.meters.get_mut(change.signal as usize) {
                meter.change(change.at, change.level);
            }
        }
    }

    /// What was measured of each chosen signal, by its place, when the capture ends at a tick.
    pub fn finish(self, end: u64) -> Vec<(u32, TurnTiming)> {
        let meters = (0..).zip(self.meters);
        meters.filter_map(|(place, meter)| Some((place, meter?.finish(end)))).collect()
    }
}

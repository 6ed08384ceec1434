//! One signal, measured as its changes come.

use super::change::Logic;
use super::cycles::Cycles;
use super::measurement::{Events, Measurement};

/// Measures one signal.
#[derive(Debug, Clone)]
pub struct Meter {
    /// A pulse that is shorter is none.
    glitch: u64,
    level: Logic,
    /// When the level became unknown.
    lost: Option<u64>,
    /// A change that a glitch may still take back.
    pending: Option<(u64, Logic)>,
    before: Option<Logic>,
    edges: u64,
    active: Option<(u64, u64)>,
    cycles: Cycles,
    glitches: Events,
    unknown: (u64, u64),
}

impl Meter {
    /// A meter that leaves pulses shorter than so many ticks out.
    pub fn new(glitch: u64) -> Self {
        Self {
            glitch,
            level: Logic::Unknown,
            lost: None,
            pending: None,
            before: None,
            edges: 0,
            active: None,
            cycles: Cycles::default(),
            glitches: Events::default(),
            unknown: (0, 0),
        }
    }

    /// The signal has a level from a tick on; ticks do not go back.
    pub fn change(&mut self, at: u64, level: Logic) {
        if let Some((since, pending)) = self.pending {
            if level == pending {
                return;
            }
            if level == self.level && at - since < self.glitch {
                self.glitches.add(since, at - since);
                self.pending = None;
                return;
            }
            self.take(since, pending);
        }
        self.pending = if level == self.level { None } else { Some((at, level)) };
    }

    fn take(&mut self, at: u64, level: Logic) {
        let was = std::mem::replace(&mut self.level, level);
        if level == Logic::Unknown {
            self.cycles.interrupt();
            self.lost = (self.edges > 0).then_some(at);
            self.unknown.0 += u64::from(self.edges > 0);
            return;
        }
        if was == Logic::Unknown {
            // What comes out of the unknown is no edge: when it happened is not known.
            self.unknown.1 += self.lost.take().map_or(0, |lost| at - lost);
            self.before.get_or_insert(level);
            return;
        }
        self.edges += 1;
        self.active = Some((self.active.map_or(at, |(first, _)| first), at));
        match level {
            Logic::High => self.cycles.rise(at),
            _ => self.cycles.fall(at),
        }
    }

    /// What was measured, when the capture ends.
    pub fn finish(mut self) -> Measurement {
        if let Some((at, level)) = self.pending.take() {
            self.take(at, level);
        }
        let timing = self.cycles.finished();
        let Cycles { segments, missing, doubled, irregular, .. } = self.cycles;
        let (segments, further_segments) = segments.finished();
        Measurement {
            before: self.before.unwrap_or(Logic::Unknown),
            edges: self.edges,
            active: self.active,
            timing,
            segments,
            further_segments,
            glitches: self.glitches,
            missing,
            doubled,
            irregular,
            unknown: self.unknown,
        }
    }
}

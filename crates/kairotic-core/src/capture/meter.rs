//! One signal, measured as its changes come.

use super::cycles::CycleMeter;
use super::filter::{Filter, Stood};
use super::measurement::Measurement;
use crate::simulation::Logic;

/// Measures one signal.
#[derive(Debug, Clone)]
pub struct Meter {
    filter: Filter,
    /// When the level became unknown.
    lost: Option<u64>,
    before: Option<Logic>,
    edges: u64,
    active: Option<(u64, u64)>,
    cycles: CycleMeter,
    unknown: (u64, u64),
}

impl Meter {
    /// A meter that leaves pulses shorter than so many ticks out.
    pub fn new(glitch: u64) -> Self {
        Self {
            filter: Filter::new(glitch),
            lost: None,
            before: None,
            edges: 0,
            active: None,
            cycles: CycleMeter::default(),
            unknown: (0, 0),
        }
    }

    /// The signal has a level from a tick on; ticks do not go back.
    pub fn change(&mut self, at: u64, level: Logic) {
        if let Some(stood) = self.filter.change(at, level) {
            self.take(stood);
        }
    }

    fn take(&mut self, Stood { at, was, level }: Stood) {
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
        if let Some(stood) = self.filter.finish() {
            self.take(stood);
        }
        let timing = self.cycles.finished();
        let CycleMeter { segments, missing, doubled, irregular, .. } = self.cycles;
        let (segments, further_segments) = segments.finished();
        Measurement {
            before: self.before.unwrap_or(Logic::Unknown),
            edges: self.edges,
            active: self.active,
            timing,
            segments,
            further_segments,
            glitches: self.filter.glitches,
            missing,
            doubled,
            irregular,
            unknown: self.unknown,
        }
    }
}

//! The pulses of one line, one after the other.

use crate::simulation::Logic;

/// A pulse: when it begins and how long it is, in the ticks of whoever tells it.
#[derive(Debug, Clone, Copy, PartialEq, PartialOrd)]
pub struct TimedPulse {
    /// When it begins.
    pub at: f64,
    /// How long it is.
    pub length: f64,
}

/// The pulses of one line, as its changes come.
#[derive(Debug, Clone, Default)]
pub struct PulseTrain {
    pulses: Vec<TimedPulse>,
    rise: Option<u64>,
    level: Option<bool>,
    /// Every change of the level, with that of the beginning.
    changes: Vec<(u64, bool)>,
}

impl PulseTrain {
    /// The line has a level from a tick on.
    pub fn change(&mut self, at: u64, level: Logic) {
        let high = match level {
            Logic::High => true,
            Logic::Low => false,
            Logic::Unknown => {
                (self.rise, self.level) = (None, None);
                return;
            }
        };
        let before = self.level.replace(high);
        if before == Some(high) {
            return;
        }
        self.changes.push((at, high));
        if high {
            // What was high from the beginning has no beginning of its own.
            self.rise = before.map(|_| at);
        } else if let Some(rise) = self.rise.take() {
            self.pulses.push(TimedPulse { at: rise as f64, length: (at - rise) as f64 });
        }
    }

    /// The pulses that began and ended.
    pub fn pulses(&self) -> &[TimedPulse] {
        &self.pulses
    }

    /// The level at a tick, and since and until when it is so.
    pub fn at(&self, tick: f64) -> Option<(bool, f64, f64)> {
        let next = self.changes.partition_point(|(at, _)| *at as f64 <= tick);
        let (since, level) = *self.changes.get(next.checked_sub(1)?)?;
        // What stands from the beginning of the capture may stand for as long as one likes.
        let since = if next == 1 { f64::NEG_INFINITY } else { since as f64 };
        Some((level, since, self.changes.get(next).map_or(f64::INFINITY, |(at, _)| *at as f64)))
    }
}

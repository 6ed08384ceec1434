//! Two signals against one another: phase, overlap, dead time.

use super::spread::Spread;
use crate::simulation::Logic;

/// What two signals do against one another, in ticks.
#[derive(Debug, Clone, Default)]
pub struct PairMeasurement {
    /// From a rising edge of the first to the next of the second.
    pub delay: Spread,
    /// Periods of the first, from one rising edge to the next.
    pub period: Spread,
    /// How long both are high at a time.
    pub overlap: Spread,
    /// How long both are low between a fall of the first and a rise of the second.
    pub dead_after_first: Spread,
    /// How long both are low between a fall of the second and a rise of the first.
    pub dead_after_second: Spread,
}

/// One of the two.
#[derive(Debug, Clone, Copy, Default)]
struct Side {
    level: Option<bool>,
    rise: Option<u64>,
    fall: Option<u64>,
}

/// Measures two signals against one another, as their changes come in order of time.
#[derive(Debug, Clone, Default)]
pub struct PairMeter {
    first: Side,
    second: Side,
    /// Since when both are high.
    both: Option<u64>,
    found: PairMeasurement,
}

impl PairMeter {
    /// The first of the two, or the second, has a level from a tick on.
    pub fn change(&mut self, is_first: bool, at: u64, level: Logic) {
        let high = match level {
            Logic::High => true,
            Logic::Low => false,
            Logic::Unknown => {
                // Nothing before it says anything of what comes after.
                (self.first, self.second, self.both) = (Side::default(), Side::default(), None);
                return;
            }
        };
        let (own, beside) =
            if is_first { (&mut self.first, &mut self.second) } else { (&mut self.second, &mut self.first) };
        let other = *beside;
        let was = own.level.replace(high);
        match (was, high) {
            (Some(false), true) => {
                let before = own.rise.replace(at);
                own.fall = None;
                if other.level == Some(true) {
                    self.both = Some(at);
                } else if let Some(fall) = beside.fall.take() {
                    let dead = if is_first {
                        &mut self.found.dead_after_second
                    } else {
                        &mut self.found.dead_after_first
                    };
                    dead.add(ticks(at, fall));
                }
                match (is_first, before, other.rise) {
                    (true, Some(before), _) => self.found.period.add(ticks(at, before)),
                    // Only the first rise after one of the first signal.
                    (false, before, Some(rise)) if before.is_none_or(|before| before < rise) => {
                        self.found.delay.add(ticks(at, rise));
                    }
                    _ => {}
                }
            }
            (Some(true), false) => {
                // Of two that are low, the last to fall is the one that a rise comes after.
                (own.fall, beside.fall) = (Some(at), None);
                if let Some(since) = self.both.take() {
                    self.found.overlap.add(ticks(at, since));
                }
            }
            _ => {}
        }
    }

    /// What was measured.
    pub fn finish(self) -> PairMeasurement {
        self.found
    }
}

fn ticks(to: u64, from: u64) -> i64 {
    i64::try_from(to - from).unwrap_or(i64::MAX)
}

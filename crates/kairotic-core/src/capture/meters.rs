//! Several signals of one capture, and pairs of them.

use super::measurement::Measurement;
use super::meter::Meter;
use super::pair::{PairMeasurement, PairMeter};
use crate::simulation::Change;

/// What the meters of a capture say.
#[derive(Debug, Clone, Default)]
pub struct Metered {
    /// Each chosen signal by its place.
    pub signals: Vec<(u32, Measurement)>,
    /// Each pair by its places.
    pub pairs: Vec<((u32, u32), PairMeasurement)>,
}

/// The meter of a signal. It begins with the first change, so that many signals that never move cost nothing.
#[derive(Debug, Clone)]
enum MeterSlot {
    /// The signal is not chosen.
    Left,
    /// It has not changed yet.
    Idle,
    /// It has.
    Busy(Box<Meter>),
}

/// Measures the chosen signals of a capture.
#[derive(Debug, Clone)]
pub struct Meters {
    /// By place in the capture.
    slots: Vec<MeterSlot>,
    glitch: u64,
    pairs: Vec<((u32, u32), PairMeter)>,
}

impl Meters {
    /// Meters for the chosen signals and for pairs of places, which leave pulses shorter than so many ticks out.
    pub fn new(chosen: &[bool], pairs: &[(u32, u32)], glitch: u64) -> Self {
        let slots =
            chosen.iter().map(|chosen| if *chosen { MeterSlot::Idle } else { MeterSlot::Left }).collect();
        Self { slots, glitch, pairs: pairs.iter().map(|pair| (*pair, PairMeter::default())).collect() }
    }

    /// Takes changes in the order of their times.
    pub fn take(&mut self, changes: &[Change]) {
        for change in changes {
            match self.slots.get_mut(change.signal as usize) {
                Some(MeterSlot::Busy(meter)) => meter.change(change.at, change.level),
                Some(slot @ MeterSlot::Idle) => {
                    let mut meter = Box::new(Meter::new(self.glitch));
                    meter.change(change.at, change.level);
                    *slot = MeterSlot::Busy(meter);
                }
                Some(MeterSlot::Left) | None => {}
            }
        }
        for ((first, second), meter) in &mut self.pairs {
            for change in changes.iter().filter(|change| [*first, *second].contains(&change.signal)) {
                meter.change(change.signal == *first, change.at, change.level);
            }
        }
    }

    /// What was measured: of each chosen signal by its place, and of each pair.
    pub fn finish(self) -> Metered {
        let measured = |slot| match slot {
            MeterSlot::Left => None,
            MeterSlot::Idle => Some(Meter::new(self.glitch).finish()),
            MeterSlot::Busy(meter) => Some(meter.finish()),
        };
        let signals = (0..).zip(self.slots).filter_map(|(place, slot)| Some((place, measured(slot)?)));
        let pairs = self.pairs.into_iter().map(|(pair, meter)| (pair, meter.finish()));
        Metered { signals: signals.collect(), pairs: pairs.collect() }
    }
}

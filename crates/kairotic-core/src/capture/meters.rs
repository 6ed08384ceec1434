//! Several signals of one capture, and pairs of them.

use super::change::Change;
use super::measurement::Measurement;
use super::meter::Meter;
use super::pair::{PairMeasurement, PairMeter};

/// What the meters of a capture say.
#[derive(Debug, Clone, Default)]
pub struct Metered {
    /// Each chosen signal by its place.
    pub signals: Vec<(u32, Measurement)>,
    /// Each pair by its places.
    pub pairs: Vec<((u32, u32), PairMeasurement)>,
}

/// Measures the chosen signals of a capture.
#[derive(Debug, Clone)]
pub struct Meters {
    /// By place in the capture; nothing for those that are not chosen.
    meters: Vec<Option<Meter>>,
    pairs: Vec<((u32, u32), PairMeter)>,
}

impl Meters {
    /// Meters for the chosen signals and for pairs of places, which leave pulses shorter than so many ticks out.
    pub fn new(chosen: &[bool], pairs: &[(u32, u32)], glitch: u64) -> Self {
        let meters = chosen.iter().map(|chosen| chosen.then(|| Meter::new(glitch))).collect();
        Self { meters, pairs: pairs.iter().map(|pair| (*pair, PairMeter::default())).collect() }
    }

    /// Takes changes in the order of their times.
    pub fn take(&mut self, changes: &[Change]) {
        for change in changes {
            if let Some(Some(meter)) = self.meters.get_mut(change.signal as usize) {
                meter.change(change.at, change.level);
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
        let signals = (0..).zip(self.meters).filter_map(|(place, meter)| Some((place, meter?.finish())));
        let pairs = self.pairs.into_iter().map(|(pair, meter)| (pair, meter.finish()));
        Metered { signals: signals.collect(), pairs: pairs.collect() }
    }
}

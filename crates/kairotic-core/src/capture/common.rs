//! One clock behind several signals: what they are all off by.

use serde::Serialize;

use super::cause::{Cause, Clues, Shared, UNSTATED};
use super::comparison::Comparison;
use crate::error::OrOverflow;
use crate::error::Result;
use crate::quantity::{Deviation, Frequency, Rational, Tolerance, measured};

/// What several signals are off by together.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
pub struct CommonClock {
    /// The clock over the planned one, less one: the mean, weighted by how well each signal is known.
    #[serde(serialize_with = "measured::ratio")]
    pub error: f64,
    /// How far that may be off, the recorder's clock included.
    #[serde(serialize_with = "measured::ratio")]
    pub uncertainty: f64,
    /// How many signals tell of it.
    pub signals: usize,
    /// Whether they agree, as far as each is known.
    pub agree: bool,
}

/// The clock behind some signals; `None` where none of them tells of it. One that is off by its registers, or by nobody
/// knows what, does not; one that may be off by either does.
pub(super) fn common_clock(comparisons: &[Comparison]) -> Option<CommonClock> {
    let tells = |one: &&Comparison| matches!(one.cause, Cause::AsPlanned | Cause::Clock | Cause::Undecided);
    let told: Vec<(f64, f64)> = comparisons
        .iter()
        .filter(tells)
        .filter_map(|one| Some((1.0 + one.error, one.uncertainty.0.filter(|off| *off > 0.0)?)))
        .collect();
    let Shared { ratio, uncertainty } = mean(&told)?;
    // What the registers make is exact; what is left of a difference is each signal's own uncertainty.
    let agree = told.iter().all(|(one, off)| (one - ratio).abs() <= off + uncertainty);
    let by_recorder = comparisons.iter().map(|one| one.uncertainty.1).fold(0.0, f64::max);
    Some(CommonClock {
        error: ratio - 1.0,
        uncertainty: uncertainty + by_recorder,
        signals: told.len(),
        agree,
    })
}

/// The mean of some ratios, weighted by how well each is known.
fn mean(told: &[(f64, f64)]) -> Option<Shared> {
    let weight = |off: f64| off.powi(-2);
    let weights: f64 = told.iter().map(|(_, off)| weight(*off)).sum();
    let ratio = told.iter().map(|(ratio, off)| ratio * weight(*off)).sum::<f64>() / weights;
    (!told.is_empty()).then(|| Shared { ratio, uncertainty: weights.powf(-0.5) })
}

impl CommonClock {
    /// What a clock of a nominal frequency really has.
    ///
    /// # Errors
    /// [`QuantityError::Overflow`](crate::quantity::QuantityError::Overflow).
    pub fn real(&self, nominal: Frequency) -> Result<Tolerance<Frequency>> {
        let factor = Rational::measured(1.0 + self.error).or_overflow("clock")?;
        let deviation = Rational::measured(self.uncertainty).or_overflow("clock")?;
        Ok(Tolerance { nominal: nominal.times(factor)?, deviation: Deviation::new(deviation) })
    }
}

/// What speaks for a clock, most important first: how many signals it explains, whether it is as good as it is stated
/// to be, and how many signals are as planned with it.
type Evidence = (usize, bool, usize);

/// The clock that explains the most signals of a capture. `None` where it explains fewer than two, and where as much
/// speaks for two different clocks.
pub(super) fn shared(all: &[&Clues]) -> Option<Shared> {
    let known: Vec<(&Clues, f64)> =
        all.iter().filter_map(|clues| Some((*clues, clues.by_capture.filter(|off| *off > 0.0)?))).collect();
    let mut best: Option<(Evidence, Shared)> = None;
    let mut tied = false;
    for (one, off) in &known {
        for ratio in one.clocks().filter(|ratio| (ratio - 1.0).abs() <= UNSTATED) {
            let Some((case, found)) = case(&known, ratio, *off) else { continue };
            match best {
                Some((most, held)) if most >= case => {
                    let apart = (held.ratio - found.ratio).abs() > held.uncertainty + found.uncertainty;
                    tied |= most == case && apart;
                }
                _ => (best, tied) = (Some((case, found)), false),
            }
        }
    }
    best.filter(|((explained, ..), _)| *explained > 1 && !tied).map(|(_, found)| found)
}

/// What speaks for a clock that is about so far off, and how far it is off by all signals that it explains.
fn case(known: &[(&Clues, f64)], about: f64, uncertainty: f64) -> Option<(Evidence, Shared)> {
    let lies = |ratio: f64, own: f64| (ratio / about - 1.0).abs() <= own + uncertainty;
    let mut planned = 0;
    let mut told = Vec::new();
    for (clues, own) in known {
        planned += usize::from(lies(clues.ratio, *own));
        // As planned comes first.
        told.extend(clues.clocks().find(|ratio| lies(*ratio, *own)).map(|ratio| (ratio, *own)));
    }
    let found = mean(&told)?;
    let off = (found.ratio - 1.0).abs();
    let as_stated = known.iter().all(|(clues, own)| clues.allows(off - own - clues.by_recorder));
    Some(((told.len(), as_stated, planned), found))
}

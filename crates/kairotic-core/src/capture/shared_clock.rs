//! The clock that explains what several signals are off by.

use super::cause::{Clues, Shared, UNSTATED};

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

/// The mean of some ratios, weighted by how well each is known.
pub(super) fn mean(told: &[(f64, f64)]) -> Option<Shared> {
    let weight = |off: f64| off.powi(-2);
    let weights: f64 = told.iter().map(|(_, off)| weight(*off)).sum();
    let ratio = told.iter().map(|(ratio, off)| ratio * weight(*off)).sum::<f64>() / weights;
    (!told.is_empty()).then(|| Shared { ratio, uncertainty: weights.powf(-0.5) })
}

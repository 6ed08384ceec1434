//! Maps of more inputs than are looked at for every form: the error of a rounded line lies between those at its ends.

use super::Word;
use super::form::Form;
use super::line::ScaleLine;
use crate::error::{OrOverflow, Result};
use crate::quantity::Rational;

/// Every form of one multiplication that fits the word, with what its largest error, in compare steps, cannot exceed.
///
/// # Errors
/// Numbers that do not fit.
pub(super) fn forms(line: &ScaleLine, word: Word) -> Result<Vec<(Form, Rational)>> {
    let mut found = Vec::new();
    let wholes = [0, line.whole()];
    for whole in if line.whole() == 0 { &wholes[..1] } else { &wholes[..] } {
        shifts(line, word, *whole, &mut found)?;
    }
    Ok(found)
}

fn shifts(line: &ScaleLine, word: Word, whole: u64, found: &mut Vec<(Form, Rational)>) -> Result<()> {
    let rest = line.rest(whole);
    // Dropped bits cost error, and make room in the word for a finer factor: what is better, the errors tell.
    for before in (0..63).take_while(|before| line.run >> before > 0) {
        for shift in 0..word.bits() {
            let Some(scaled) = rest.checked_mul(1 << (before + shift)) else { break };
            let scaled = (scaled / line.span).unsigned_abs();
            // What is larger by far leaves the word.
            if scaled > word.largest() {
                break;
            }
            for factor in [scaled, scaled + 1] {
                let Ok(factor) = u64::try_from(factor) else { continue };
                let farthest = u128::from(line.run >> before) * u128::from(factor);
                if factor == 0 || farthest > word.largest() {
                    continue;
                }
                let product = Product { before, factor, shift };
                let Some((least, most)) = product.bounds(line, rest) else { continue };
                // Errors above and below are made alike, as far as the word has room.
                let even = u128::try_from(-(least + most) / 2).unwrap_or(0).min(word.largest() - farthest);
                let add = u64::try_from(even).unwrap_or(0);
                let part = (least + i128::from(add)).abs().max((most + i128::from(add)).abs());
                let error = Rational::new(part, 1 << shift).or_overflow("error")?;
                found.push((Form::Shift { whole, before, factor, add, shift }, error));
            }
        }
    }
    Ok(())
}

/// A shift without what is added before it.
#[derive(Debug, Clone, Copy)]
pub(super) struct Product {
    pub(super) before: u32,
    pub(super) factor: u64,
    pub(super) shift: u32,
}

impl Product {
    /// Between what errors lie, in parts of a step: `2^shift` of them. A line that is not steep enough, or too steep,
    /// drifts until the far end; dropped bits and the rounding take something away.
    pub(super) fn bounds(self, line: &ScaleLine, rest: i128) -> Option<(i128, i128)> {
        let Self { before, factor, shift } = self;
        let (factor, width) = (i128::from(factor), 1_i128.checked_shl(before)?);
        let one = 1_i128.checked_shl(shift)?;
        // In the finest parts: those of `2^(before + shift)` and of the line.
        let fine = line.span.checked_mul(width)?;
        let start = line.offset.checked_mul(one)?.checked_mul(width)?;
        let made = i128::from(line.run).checked_mul(factor)?.checked_mul(line.span)?;
        let exact = rest.checked_mul(i128::from(line.run))?.checked_mul(one)?.checked_mul(width)?;
        let drift = made.checked_sub(exact)?;
        let dropped = (width - 1).checked_mul(factor)?.checked_mul(line.span)?;
        // Rounded away from zero, so that nothing is missed.
        let least = drift.min(0).checked_sub(dropped)?.checked_sub(start)?.div_euclid(fine) - (one - 1);
        let most = -(drift.max(0).checked_sub(start)?.checked_neg()?.div_euclid(fine));
        Some((least, most))
    }
}

//! Two multiplications, of the input's high and of its low half: finer than one where words are short.

use super::Word;
use super::form::Form;
use super::line::{Floors, ScaleLine};
use super::stairs::Stairs;

/// Two products and a shift: where the input is cut, by how much is shifted, and what its halves are multiplied by, but for
/// what is decided.
#[derive(Debug, Clone, Copy)]
pub(super) struct HalvesCut {
    /// The whole part of the slope that is multiplied apart; zero where it is not.
    whole: u64,
    low_bits: u32,
    /// The whole part of what one more of the high half makes, multiplied apart; zero where it is not.
    step: u64,
    low_factor: u64,
    shift: u32,
}

/// Every cut that is tried: of each number of low bits, the two finest shifts that the word has room for, with the factors
/// of the low half next to the slope.
pub(super) fn cuts(line: &ScaleLine, word: Word, whole: u64, steps: bool) -> Vec<HalvesCut> {
    let rest = line.rest(whole);
    let largest = word.largest() as i128;
    let mut cuts = Vec::new();
    for low_bits in (1..63).take_while(|low_bits| line.run >> low_bits > 0) {
        let whole_step = (rest << low_bits) / line.span;
        // Without a whole step there is nothing to multiply apart: the other kind tries that.
        if steps && whole_step == 0 {
            continue;
        }
        let step = if steps { whole_step } else { 0 };
        let high_rest = (rest << low_bits) - step * line.span;
        let (highest, lowest) = (i128::from(line.run >> low_bits), (1_i128 << low_bits) - 1);
        let fits = |shift: &u32| {
            let factor = |rest: i128| (rest << shift) / line.span;
            highest * factor(high_rest) + lowest * factor(rest) <= largest
        };
        let Some(finest) = (0..word.bits()).take_while(fits).last() else { continue };
        for shift in finest.saturating_sub(1)..=finest {
            let below = (rest << shift) / line.span;
            for factor in below.max(1)..=below + 1 {
                if let (Ok(step), Ok(low_factor)) = (u64::try_from(step), u64::try_from(factor)) {
                    cuts.push(HalvesCut { whole, low_bits, step, low_factor, shift });
                }
            }
        }
    }
    cuts
}

impl HalvesCut {
    /// A form whose error is nowhere larger than so many parts of a step: the factor of the high half and the rounding
    /// constant are decided exactly.
    pub(super) fn within(self, line: &ScaleLine, word: Word, error: i128) -> Option<Form> {
        let chosen = Stairs::of(self.limits(line, word, error))?.chosen(0, word.largest())?;
        let Self { whole, low_bits, step, low_factor, shift } = self;
        let (high_factor, add) = (chosen.factor, chosen.add);
        Some(Form::Halves { whole, low_bits, step, high_factor, low_factor, add, shift })
    }

    /// Between which numbers the product of each high half has to be, before the shift, so that no input of the same high
    /// half leaves its limits.
    fn limits(self, line: &ScaleLine, word: Word, error: i128) -> impl Iterator<Item = (i64, i64)> {
        let Self { whole, low_bits, step, low_factor, shift } = self;
        let (rest, room, largest) = (line.rest(whole), line.room, word.largest() as i64);
        let mut lows = Floors::new(line.offset - error + line.span - 1, rest, line.span);
        let mut highs = Floors::new(line.offset + error, rest, line.span);
        // No product is larger than the word, so that limits beyond it are all the same.
        let most_steps = (largest >> shift) + 2;
        let scaled = move |steps: i64| steps.clamp(0, most_steps) << shift;
        let run = line.run;
        (0..=run >> low_bits).map(move |high| {
            let apart = step.saturating_mul(high);
            let (mut low_limit, mut high_limit, mut product) = (i64::MIN, i64::MAX, 0_i64);
            let first = high << low_bits;
            for x in first..=(first + ((1 << low_bits) - 1)).min(run) {
                let apart = apart.min(i64::MAX as u64) as i64;
                let room = room.saturating_sub_unsigned(whole.saturating_mul(x));
                let (low, most) = (lows.next().unwrap_or(0), highs.next().unwrap_or(0).min(room));
                low_limit = low_limit.max(scaled(low.saturating_sub(apart)) - product);
                // One more whole step is too far.
                let beyond = most.saturating_sub(apart).saturating_add(1);
                high_limit = high_limit.min((scaled(beyond) - 1).min(largest) - product);
                product = product.saturating_add_unsigned(low_factor);
            }
            (low_limit, high_limit)
        })
    }
}

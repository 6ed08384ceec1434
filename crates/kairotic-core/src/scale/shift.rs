//! One multiplication and a shift: the form with the least error, decided exactly over all of them.

use super::Word;
use super::form::Form;
use super::line::{Floors, ScaleLine};
use super::stairs::Stairs;

/// A multiplication and a shift of an input whose lowest bits are dropped, perhaps beside the whole part of the slope.
#[derive(Debug, Clone, Copy)]
pub(super) struct Shifts {
    /// The whole part of the slope that is multiplied apart; zero where it is not.
    pub(super) whole: u64,
    /// Bits of the input that are dropped first: that makes room in the word for a finer factor.
    pub(super) before: u32,
}

impl Shifts {
    /// A form whose error is nowhere larger than so many parts of a step; `None` where there is none that fits the word.
    pub(super) fn within(self, line: &ScaleLine, word: Word, error: i128) -> Option<Form> {
        let Self { whole, before } = self;
        let stairs = Stairs::of(self.limits(line, error))?;
        (0..word.bits()).find_map(|shift| {
            let chosen = stairs.chosen(shift, word.largest())?;
            Some(Form::Shift { whole, before, factor: chosen.factor, add: chosen.add, shift })
        })
    }

    /// Between which whole numbers the product has to be, for every input with dropped bits.
    fn limits(self, line: &ScaleLine, error: i128) -> impl Iterator<Item = (i64, i64)> {
        let Self { whole, before } = self;
        let (rest, width) = (line.rest(whole), 1_i128 << before);
        let last = line.run >> before;
        let ceiling = line.offset - error + line.span - 1;
        // Each stair has to be high enough for its last input, and low enough for its first.
        let ends = Floors::new(ceiling + rest * (width - 1), rest * width, line.span);
        let starts = Floors::new(line.offset + error, rest * width, line.span);
        let highest =
            Floors::new(ceiling + rest * i128::from(line.run), 0, line.span).next().unwrap_or(i64::MAX);
        let (run, room) = (line.run, line.room);
        (0..=last).zip(ends).zip(starts).map(move |((place, end), start)| {
            let to = ((place << before) + ((1 << before) - 1)).min(run);
            let low = if place == last { highest } else { end };
            // The whole part of the farthest input is no farther than the line itself.
            (low, start.min(room.saturating_sub_unsigned(whole.saturating_mul(to))))
        })
    }
}

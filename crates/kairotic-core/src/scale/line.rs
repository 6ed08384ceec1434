//! A map in whole numbers: how far each input's compare value is from the base, as a fraction of one denominator.

use num_traits::ToPrimitive;

use super::Map;
use crate::error::{OrOverflow, Result};
use crate::quantity::Rational;

/// The distance of an input `x` from the lowest is `(offset + rise * x) / span` compare steps.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) struct ScaleLine {
    /// Inputs, less one.
    pub(super) run: u64,
    /// The distance of the lowest input; less than `span`.
    pub(super) offset: i128,
    /// How much further each input is.
    pub(super) rise: i128,
    /// What they are parts of.
    pub(super) span: i128,
    /// The largest distance that is a compare value of the word.
    pub(super) room: i64,
}

/// Room for every sum and product on the way, and for steps through the inputs in 64 bits.
const MOST_PARTS: i128 = 1 << 61;

impl ScaleLine {
    /// The line of a map, for compare values of at most `largest`.
    ///
    /// # Errors
    /// Ends whose denominators are so long that numbers do not fit.
    pub(super) fn of(map: &Map, largest: u128) -> Result<Self> {
        let run = map.run();
        let base = Rational::from(map.base());
        let offset = base.minus(map.first).or_overflow("compare value")?.magnitude();
        let rise = map.last.minus(map.first).or_overflow("compare value")?.magnitude();
        let rise = rise.over(run.into()).or_overflow("compare value")?;
        let common = num_integer::gcd(offset.denominator(), rise.denominator()).max(1);
        let span = (offset.denominator() / common).checked_mul(rise.denominator());
        let span = span.filter(|span| *span < MOST_PARTS).or_overflow("compare value")?;
        let parts = |value: Rational| value.numerator().checked_mul(span / value.denominator());
        let (offset, rise) = parts(offset).zip(parts(rise)).or_overflow("compare value")?;
        let inside = rise.checked_mul(i128::from(run) + 1).and_then(|end| end.checked_add(span));
        inside.filter(|end| *end < i128::MAX >> 4).or_overflow("compare value")?;
        let room = if map.falls() { map.base().into() } else { largest.saturating_sub(map.base().into()) };
        Ok(Self { run, offset, rise, span, room: i64::try_from(room).ok().or_overflow("compare value")? })
    }

    /// The whole part of the slope.
    pub(super) fn whole(&self) -> u64 {
        u64::try_from(self.rise / self.span).unwrap_or(0)
    }

    /// What is left of the slope when a whole part is multiplied apart.
    pub(super) fn rest(&self, whole: u64) -> i128 {
        self.rise - i128::from(whole) * self.span
    }

    /// The largest error of a setting that every input is looked at for, in parts of a step.
    pub(super) fn parts_of(&self, error: Rational) -> Result<i128> {
        let parts = Rational::new(self.span, 1).and_then(|span| span.times(error));
        Ok(parts.or_overflow("error")?.floor())
    }
}

/// Beyond every number of steps.
const FAR: i128 = 1 << 62;

/// Whole parts of `(start + step * place) / span` for places from zero on, without a division each.
#[derive(Debug, Clone)]
pub(super) struct Floors {
    whole: i64,
    part: i64,
    step: (i64, i64),
    span: i64,
}

impl Floors {
    /// The first place, what each further one is more, and what they are parts of. What leaves 64 bits stays at their end:
    /// it is beyond every compare value.
    pub(super) fn new(start: i128, step: i128, span: i128) -> Self {
        let short = |number: i128| number.clamp(-FAR, FAR).to_i64().unwrap_or(0);
        let (whole, part) = (short(start.div_euclid(span)), short(start.rem_euclid(span)));
        let step = (short(step.div_euclid(span)), short(step.rem_euclid(span)));
        Self { whole, part, step, span: short(span) }
    }
}

impl Iterator for Floors {
    type Item = i64;

    fn next(&mut self) -> Option<i64> {
        let here = self.whole;
        self.whole = self.whole.saturating_add(self.step.0);
        self.part += self.step.1;
        if self.part >= self.span {
            self.part -= self.span;
            self.whole += 1;
        }
        Some(here)
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    proptest! {
        #[test]
        fn floors_are_those_of_a_division(start in -1000_i128..1000, step in -300_i128..300, span in 1_i128..70) {
            for (place, floor) in (0..50).zip(Floors::new(start, step, span)) {
                prop_assert_eq!(i128::from(floor), (start + step * place).div_euclid(span), "{}", place);
            }
        }

        #[test]
        fn a_line_is_its_map_in_whole_numbers(
            from in -50_i64..50, run in 1_i64..60, first in 0_i128..900, last in 0_i128..900, parts in 1_i128..13,
        ) {
            let end = |at: i128| Rational::new(at, parts).unwrap();
            let map = Map { from, to: from + run, first: end(first), last: end(last) };
            prop_assume!(map.checked().is_ok());
            let line = ScaleLine::of(&map, 65_535).unwrap();
            for x in 0..=run {
                let distance = Rational::new(line.offset + line.rise * i128::from(x), line.span).unwrap();
                let away = map.exact(from + x).unwrap().minus(map.base().into()).unwrap().magnitude();
                prop_assert_eq!(distance, away);
            }
            prop_assert!(line.offset < line.span);
            // What can be added to, or taken from, the base in words of sixteen bits.
            let room = if map.falls() { map.base() } else { 65_535 - map.base() };
            prop_assert_eq!(line.room, room as i64);
        }
    }
}

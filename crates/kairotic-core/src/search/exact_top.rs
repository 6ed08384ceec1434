//! The tops of a division that make every wanted signal exact: a lattice, and the point of it that is nearest in frequency.
//!
//! A duty `n/d` is met where its share of the ticks is a whole number of compare steps and of source clocks, which makes the
//! ticks a multiple of what `d` leaves; a pulse is met by the division or not at all. Tops that meet all of that are a step
//! apart. What is left of the law, a gain that leaves compare steps out and the largest compare value, is tried.

use num_integer::Integer;

use crate::part::{LinearLaw, PeriodLaw};
use crate::setting::active::{Ruler, Wanted};

/// Tops that may make every signal exact: `first + n · step`.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) struct Lattice {
    first: u128,
    pub(crate) step: u128,
}

impl Lattice {
    /// The lattice for signals on the ruler of a division, whatever its top; `None` where no top makes all of them exact, or
    /// where numbers do not fit.
    pub(crate) fn of<'w>(
        law: &LinearLaw,
        period: PeriodLaw,
        ruler: Ruler,
        signals: impl Iterator<Item = &'w Wanted>,
    ) -> Option<Self> {
        let mut multiple: i128 = 1;
        for wanted in signals {
            multiple = common(multiple, wanted.ticks_multiple(law, ruler)?)?;
            // No top reaches further, and sums of steps stay within 128 bits.
            if multiple > 1 << 64 {
                return None;
            }
        }
        // per_top · top + plus is to be a multiple.
        let (per_top, plus) = (i128::from(period.per_top), i128::from(period.plus));
        let found = per_top.extended_gcd(&multiple);
        if plus % found.gcd != 0 {
            return None;
        }
        let step = multiple / found.gcd;
        let first = (-(plus / found.gcd)).checked_mul(found.x)?.rem_euclid(step);
        Some(Self { first: first.unsigned_abs(), step: step.unsigned_abs() })
    }

    /// The largest point that is not above a top.
    pub(crate) fn at_most(self, top: u128) -> Option<u128> {
        Some(self.first + top.checked_sub(self.first)? / self.step * self.step)
    }

    /// The smallest point that is not below a top.
    pub(crate) fn at_least(self, top: u128) -> u128 {
        self.first + top.saturating_sub(self.first).div_ceil(self.step) * self.step
    }
}

/// What the ticks of every period that makes the signals exact are a multiple of, whatever the division: quick to know, and
/// out of reach for most duties. `None` where it does not fit.
pub(crate) fn least_multiple<'w>(law: &LinearLaw, signals: impl Iterator<Item = &'w Wanted>) -> Option<u128> {
    let mut multiple: i128 = 1;
    for wanted in signals {
        if let Wanted::Share { numerator, denominator } = *wanted {
            let steps = numerator.checked_mul(law.per_tick.into())?;
            multiple = common(multiple, denominator / denominator.gcd(&steps))?;
        }
    }
    u128::try_from(multiple).ok()
}

/// The least common multiple of two numbers greater than zero; `None` where it does not fit.
fn common(left: i128, right: i128) -> Option<i128> {
    (left / left.gcd(&right)).checked_mul(right)
}

impl Wanted {
    /// What the ticks of a period have to be a multiple of for this to be exact; `None` where none is, or where numbers do not
    /// fit. A dithered pulse is exact where it is a whole number of ticks.
    fn ticks_multiple(&self, law: &LinearLaw, ruler: Ruler) -> Option<i128> {
        let per_tick = i128::from(law.per_tick);
        let (scaled, whole) = (i128::from(ruler.scaled), 1_i128 << ruler.fraction_bits);
        let dither = 1_i128 << ruler.dither_bits;
        match *self {
            Self::Clocks { numerator, denominator } => {
                // In compare steps; and the division has to make whole source clocks of them.
                let steps = numerator.checked_mul(per_tick)?.checked_mul(whole)?;
                let scale = denominator.checked_mul(scaled)?;
                let fits = |of: i128| Some(steps % scale.checked_mul(of)? == 0);
                let clocks = numerator % denominator == 0;
                (fits(1)? && clocks && (dither == 1 || fits(per_tick.checked_mul(dither)?)?)).then_some(1)
            }
            Self::Share { numerator, denominator } => {
                let multiple = |of: i128, by: i128| of / of.gcd(&by);
                let steps = multiple(denominator, numerator.checked_mul(per_tick)?);
                let clocks = multiple(denominator.checked_mul(whole)?, numerator.checked_mul(scaled)?);
                let period = common(multiple(whole, scaled), dither)?;
                let dithered =
                    if dither == 1 { 1 } else { multiple(denominator.checked_mul(dither)?, numerator) };
                common(common(steps, clocks)?, common(period, dithered)?)
            }
        }
    }
}

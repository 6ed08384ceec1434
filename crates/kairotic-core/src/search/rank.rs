//! The one rule by which settings are ranked.
//!
//! 1. A setting outside the tolerance loses to any inside it; where none is inside, the smaller error leads.
//! 2. The score leads: log2(steps), + 1 if the frequency is exact, + 1 if every signal is exact, - 1 if the mode is not a
//!    usual one.
//! 3. Equals: the smaller frequency error, then the smaller divider, then the mode that costs no channel, then the
//!    family file's order.

use std::cmp::{Ordering, Reverse};

use super::candidate::Candidate;

/// What leads instead of the score.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Prefer {
    /// The smallest error: of the frequency, then of the signals.
    Exact,
    /// The most steps.
    Fine,
    /// A tick that is a whole number of nanoseconds with the fewest digits.
    RoundTick,
}

impl Prefer {
    /// The word for it on the command line and in outputs.
    pub const fn word(self) -> &'static str {
        match self {
            Self::Exact => "exact",
            Self::Fine => "fine",
            Self::RoundTick => "round-tick",
        }
    }
}

/// Better first.
pub(crate) fn compare(left: &Candidate, right: &Candidate, prefer: Option<Prefer>) -> Ordering {
    right
        .within
        .cmp(&left.within)
        .then_with(|| if left.within { Ordering::Equal } else { compare_deviation(left, right) })
        .then_with(|| match prefer {
            None => score(right).cmp(&score(left)),
            Some(Prefer::Exact) => compare_deviation(left, right)
                .then(right.frequency_exact.cmp(&left.frequency_exact))
                .then_with(|| compare_fractions(left.signal_error, right.signal_error))
                .then(right.signals_exact.cmp(&left.signals_exact)),
            Some(Prefer::Fine) => right.steps.cmp(&left.steps),
            Some(Prefer::RoundTick) => left.tick_digits.cmp(&right.tick_digits),
        })
        .then_with(|| compare_deviation(left, right))
        .then_with(|| tie(left).cmp(&tie(right)))
}

fn tie(candidate: &Candidate) -> (u64, bool, usize, Reverse<u64>) {
    (candidate.scaled, candidate.costs_channel, candidate.mode, Reverse(candidate.top))
}

/// Two to the power of the score, times two, so that it stays whole: `steps * 2^(1 + bonus)`.
pub(crate) fn score(candidate: &Candidate) -> u128 {
    let bonus = u32::from(candidate.frequency_exact) + u32::from(candidate.signals_exact);
    weigh(candidate.steps, bonus, candidate.usual)
}

/// The score that so many steps can reach at best, with so many bits of exactness.
pub(crate) fn best_possible(steps: u64, exactness: u32, usual: bool) -> u128 {
    weigh(steps, exactness, usual)
}

fn weigh(steps: u64, bonus: u32, usual: bool) -> u128 {
    u128::from(steps) << (bonus + u32::from(usual))
}

/// Smaller relative frequency error first.
pub(crate) fn compare_deviation(left: &Candidate, right: &Candidate) -> Ordering {
    compare_fractions((left.deviation, left.period), (right.deviation, right.period))
}

/// Compares `a/b` with `c/d` for positive denominators.
pub(crate) fn compare_fractions((a, b): (u128, u128), (c, d): (u128, u128)) -> Ordering {
    wide(a, d).cmp(&wide(c, b))
}

/// `number · numerator / denominator`, rounded down; the most there is where that does not fit.
pub(crate) fn share(number: u128, numerator: u128, denominator: u128) -> u128 {
    match number.checked_mul(numerator) {
        Some(product) => product / denominator,
        // Of a number that is so large the last digits do not matter.
        None => (number / denominator).saturating_mul(numerator),
    }
}

/// The product, as high and low half: it cannot overflow.
pub(crate) fn wide(left: u128, right: u128) -> (u128, u128) {
    let (low, high) = left.carrying_mul(right, 0);
    (high, low)
}

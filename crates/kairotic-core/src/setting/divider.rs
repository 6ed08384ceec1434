//! Every division that a timer's dividers can make together, in order.

use crate::error::{Error, Result};
use crate::part::{Steps, Timer};
use crate::quantity::Rational;

/// The divisions between the clock and the counter, from smallest to largest, each a multiple of `1 / 2^fraction_bits`.
#[derive(Debug, Clone)]
pub(super) struct Dividers {
    /// Bits after the point of every division.
    pub(super) fraction_bits: u32,
    kind: Kind,
}

#[derive(Debug, Clone)]
enum Kind {
    /// One divider that takes every step of a range, after a fixed division.
    Series { fixed: u64, first: u64, last: u64, written_less: u64 },
    /// Anything else, written out.
    Listed(Vec<Division>),
}

/// One division.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(super) struct Division {
    /// The whole of it, in units of `1 / 2^fraction_bits`.
    pub(super) scaled: u64,
    /// What is written to each divider for it.
    pub(super) written: Vec<u64>,
}

impl Dividers {
    /// The divisions of a timer.
    pub(super) fn of(timer: &Timer) -> Result<Self> {
        let too_large = || Error::Overflow { quantity: "divider" };
        let fixed = u64::from(timer.block.fixed_divider);
        let stages: Vec<&Steps> = timer.block.dividers.iter().map(|stage| &stage.steps).collect();
        let fraction_bits = Self::fraction_bits_of(timer);
        let kind = match stages.as_slice() {
            [steps @ (Steps::Range { min, max, .. } | Steps::Fraction { min, max, .. })] => {
                Kind::Series { fixed, first: *min, last: *max, written_less: steps.written_less() }
            }
            stages => {
                let mut divisions = vec![Division { scaled: fixed, written: Vec::new() }];
                for steps in stages {
                    divisions = products(&divisions, steps).ok_or_else(too_large)?;
                }
                // Among equal products the one from the smaller first dividers stays.
                divisions.sort_by_key(|division| division.scaled);
                divisions.dedup_by_key(|division| division.scaled);
                Kind::Listed(divisions)
            }
        };
        if let Kind::Series { fixed, last, .. } = &kind {
            fixed.checked_mul(*last).ok_or_else(too_large)?;
        }
        Ok(Self { fraction_bits, kind })
    }

    /// Bits after the point of every division of a timer.
    pub(super) fn fraction_bits_of(timer: &Timer) -> u32 {
        timer.block.dividers.iter().map(|stage| stage.steps.fraction_bits()).sum()
    }

    /// How many there are.
    pub(super) fn len(&self) -> usize {
        match &self.kind {
            Kind::Series { first, last, .. } => (last - first + 1) as usize,
            Kind::Listed(divisions) => divisions.len(),
        }
    }

    /// The division at a position, in units of `1 / 2^fraction_bits`.
    pub(super) fn scaled(&self, index: usize) -> u64 {
        match &self.kind {
            Kind::Series { fixed, first, .. } => fixed * (first + index as u64),
            Kind::Listed(divisions) => divisions.get(index).map_or(0, |division| division.scaled),
        }
    }

    /// What is written for the division at a position.
    pub(super) fn written(&self, index: usize) -> Vec<u64> {
        match &self.kind {
            Kind::Series { first, written_less, .. } => vec![first + index as u64 - written_less],
            Kind::Listed(divisions) => {
                divisions.get(index).map(|division| division.written.clone()).unwrap_or_default()
            }
        }
    }

    /// The position of the first division that is at least `scaled`, which may be past the end.
    pub(super) fn at_least(&self, scaled: u128) -> usize {
        match &self.kind {
            Kind::Series { fixed, first, .. } => {
                let step = scaled.div_ceil(u128::from(*fixed)).saturating_sub(u128::from(*first));
                usize::try_from(step).unwrap_or(usize::MAX).min(self.len())
            }
            Kind::Listed(divisions) => {
                divisions.partition_point(|division| u128::from(division.scaled) < scaled)
            }
        }
    }

    /// The smallest and the largest division.
    pub(super) fn ends(&self) -> Option<(Rational, Rational)> {
        let exact = |index| Rational::new(self.scaled(index).into(), 1_i128 << self.fraction_bits);
        exact(0).zip(exact(self.len().checked_sub(1)?))
    }
}

/// Every division of `before` with every step of one more divider; `None` when a product does not fit.
fn products(before: &[Division], steps: &Steps) -> Option<Vec<Division>> {
    let taken = steps.every();
    let mut all = Vec::with_capacity(before.len() * taken.len());
    for division in before {
        for (by, written) in &taken {
            let mut next = division.clone();
            next.scaled = next.scaled.checked_mul(*by)?;
            next.written.push(*written);
            all.push(next);
        }
    }
    Some(all)
}

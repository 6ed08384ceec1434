//! Every division that a timer's dividers can make together, in order.

use crate::error::{Error, Result};
use crate::part::{Steps, Timer};
use crate::quantity::Rational;

/// The divisions between the clock and the counter, from smallest to largest, each a multiple of `1 / 2^fraction_bits`.
#[derive(Debug, Clone)]
pub(crate) struct Dividers {
    /// Bits after the point of every division.
    pub(crate) fraction_bits: u32,
    kind: DividerKind,
}

#[derive(Debug, Clone)]
enum DividerKind {
    /// One divider that takes every step of a range, after a fixed division.
    Series { fixed: u64, first: u64, last: u64, written_less: u64 },
    /// Anything else, written out.
    Listed(ProductList),
}

/// The different products of several dividers' steps, smallest first.
#[derive(Debug, Clone)]
struct ProductList {
    /// What is written for each step of each divider.
    codes: Vec<Vec<u64>>,
    /// Each product in units of `1 / 2^fraction_bits`, with the position of the steps that make it: the last divider's
    /// step counts ones, the one before it as many as the last has, and so on.
    products: Vec<(u64, u32)>,
}

/// Up to here products are sorted by their place in a table, which is many times faster than comparing them.
const LARGEST_TABLE: u64 = 1 << 20;

impl ProductList {
    /// `None` when a product does not fit.
    fn of(fixed: u64, stages: &[&Steps]) -> Option<Self> {
        let stages: Vec<Vec<(u64, u64)>> = stages.iter().map(|steps| steps.every()).collect();
        let mut all = vec![fixed];
        for steps in &stages {
            let mut next = Vec::with_capacity(all.len() * steps.len());
            for product in &all {
                for (by, _) in steps {
                    next.push(product.checked_mul(*by)?);
                }
            }
            all = next;
        }
        let codes = stages.iter().map(|steps| steps.iter().map(|(_, code)| *code).collect()).collect();
        Some(Self { codes, products: distinct(&all)? })
    }

    /// What is written to each divider for the product at a position.
    fn written(&self, index: usize) -> Vec<u64> {
        let mut place = self.products.get(index).map_or(0, |(_, place)| *place as usize);
        let mut written: Vec<u64> = Vec::with_capacity(self.codes.len());
        for codes in self.codes.iter().rev() {
            written.push(codes.get(place % codes.len().max(1)).copied().unwrap_or(0));
            place /= codes.len().max(1);
        }
        written.reverse();
        written
    }
}

/// The different numbers with the position of each, smallest first. Among equals the first stays: the one from the
/// smaller first dividers.
fn distinct(all: &[u64]) -> Option<Vec<(u64, u32)>> {
    let largest = all.iter().copied().max().unwrap_or(0);
    if largest >= LARGEST_TABLE || largest / 64 > all.len() as u64 {
        let mut found = Vec::with_capacity(all.len());
        for (place, product) in all.iter().enumerate() {
            found.push((*product, u32::try_from(place).ok()?));
        }
        found.sort_unstable();
        found.dedup_by_key(|(product, _)| *product);
        return Some(found);
    }
    let mut table = vec![u32::MAX; usize::try_from(largest).ok()? + 1];
    for (place, product) in all.iter().enumerate() {
        let slot = table.get_mut(usize::try_from(*product).ok()?)?;
        if *slot == u32::MAX {
            *slot = u32::try_from(place).ok()?;
        }
    }
    let found = table.into_iter().enumerate().filter(|(_, place)| *place != u32::MAX);
    Some(found.map(|(product, place)| (product as u64, place)).collect())
}

impl Dividers {
    /// The divisions of a timer.
    pub(crate) fn of(timer: &Timer) -> Result<Self> {
        let too_large = || Error::overflow("divider");
        let fixed = u64::from(timer.block.fixed_divider);
        let stages: Vec<&Steps> = timer.block.dividers.iter().map(|stage| &stage.steps).collect();
        let fraction_bits = Self::fraction_bits_of(timer);
        let kind = match stages.as_slice() {
            [steps @ (Steps::Range { min, max, .. } | Steps::Fraction { min, max, .. })] => {
                DividerKind::Series { fixed, first: *min, last: *max, written_less: steps.written_less() }
            }
            stages => DividerKind::Listed(ProductList::of(fixed, stages).ok_or_else(too_large)?),
        };
        if let DividerKind::Series { fixed, last, .. } = &kind {
            fixed.checked_mul(*last).ok_or_else(too_large)?;
        }
        Ok(Self { fraction_bits, kind })
    }

    /// Bits after the point of every division of a timer.
    pub(crate) fn fraction_bits_of(timer: &Timer) -> u32 {
        timer.block.dividers.iter().map(|stage| stage.steps.fraction_bits()).sum()
    }

    /// How many there are.
    pub(crate) fn len(&self) -> usize {
        match &self.kind {
            DividerKind::Series { first, last, .. } => (last - first + 1) as usize,
            DividerKind::Listed(list) => list.products.len(),
        }
    }

    /// The division at a position, in units of `1 / 2^fraction_bits`.
    pub(crate) fn scaled(&self, index: usize) -> u64 {
        match &self.kind {
            DividerKind::Series { fixed, first, .. } => fixed * (first + index as u64),
            DividerKind::Listed(list) => list.products.get(index).map_or(0, |(scaled, _)| *scaled),
        }
    }

    /// What is written for the division at a position.
    pub(crate) fn written(&self, index: usize) -> Vec<u64> {
        match &self.kind {
            DividerKind::Series { first, written_less, .. } => vec![first + index as u64 - written_less],
            DividerKind::Listed(list) => list.written(index),
        }
    }

    /// The position of the first division that is at least `scaled`, which may be past the end.
    pub(crate) fn at_least(&self, scaled: u128) -> usize {
        match &self.kind {
            DividerKind::Series { fixed, first, .. } => {
                let step = scaled.div_ceil(u128::from(*fixed)).saturating_sub(u128::from(*first));
                usize::try_from(step).unwrap_or(usize::MAX).min(self.len())
            }
            DividerKind::Listed(list) => {
                list.products.partition_point(|(product, _)| u128::from(*product) < scaled)
            }
        }
    }

    /// The position of a division.
    pub(crate) fn exactly(&self, scaled: u64) -> Option<usize> {
        let index = self.at_least(scaled.into());
        (index < self.len() && self.scaled(index) == scaled).then_some(index)
    }

    /// The smallest and the largest division.
    pub(crate) fn ends(&self) -> Option<(Rational, Rational)> {
        let exact = |index| Rational::new(self.scaled(index).into(), 1_i128 << self.fraction_bits);
        exact(0).zip(exact(self.len().checked_sub(1)?))
    }
}

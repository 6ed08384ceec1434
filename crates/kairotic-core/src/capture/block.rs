//! Cycles of a signal that are measured together, column by column: sums over a column cost a fraction of what they cost
//! cycle by cycle.

use std::ops::Range;

/// The most cycles in a block: few enough for its columns to stay in the nearest cache.
const MOST: usize = 256;

/// One run of the counter as a recorder saw it, in ticks.
#[derive(Debug, Clone, Copy)]
pub(crate) struct RecordedCycle {
    pub(crate) start: u64,
    pub(crate) period: i64,
    pub(crate) high: i64,
}

/// Cycles that wait until there are enough of them.
#[derive(Debug, Clone, Default)]
pub(super) struct CycleBlock {
    starts: Vec<u64>,
    periods: Vec<i64>,
    highs: Vec<i64>,
}

impl CycleBlock {
    #[inline]
    pub(super) fn push(&mut self, cycle: RecordedCycle) {
        self.starts.push(cycle.start);
        self.periods.push(cycle.period);
        self.highs.push(cycle.high);
    }

    pub(super) const fn is_full(&self) -> bool {
        self.starts.len() >= MOST
    }

    pub(super) fn clear(&mut self) {
        self.starts.clear();
        self.periods.clear();
        self.highs.clear();
    }

    pub(super) fn cycles(&self) -> CycleRow<'_> {
        CycleRow { starts: &self.starts, periods: &self.periods, highs: &self.highs }
    }
}

/// Cycles in a row.
#[derive(Debug, Clone, Copy)]
pub(super) struct CycleRow<'b> {
    /// When each begins.
    pub(super) starts: &'b [u64],
    /// How long each is.
    pub(super) periods: &'b [i64],
    /// How long each is high.
    pub(super) highs: &'b [i64],
}

impl<'b> CycleRow<'b> {
    pub(super) const fn len(self) -> usize {
        self.starts.len()
    }

    /// When each ends.
    pub(super) fn ends(self) -> Vec<u64> {
        self.starts.iter().zip(self.periods).map(|(start, period)| start + period.unsigned_abs()).collect()
    }

    /// How long each is low.
    pub(super) fn lows(self) -> Vec<i64> {
        self.periods.iter().zip(self.highs).map(|(period, high)| period - high).collect()
    }

    /// Those from one to another; none where there are not so many.
    pub(super) fn part(self, range: Range<usize>) -> Self {
        Self {
            starts: self.starts.get(range.clone()).unwrap_or_default(),
            periods: self.periods.get(range.clone()).unwrap_or_default(),
            highs: self.highs.get(range).unwrap_or_default(),
        }
    }

    /// One after the other.
    pub(super) fn each(self) -> impl DoubleEndedIterator<Item = RecordedCycle> + ExactSizeIterator + 'b {
        let columns = self.starts.iter().zip(self.periods).zip(self.highs);
        columns.map(|((start, period), high)| RecordedCycle { start: *start, period: *period, high: *high })
    }
}

#[cfg(test)]
impl CycleBlock {
    pub(super) fn of(cycles: &[RecordedCycle]) -> Self {
        let mut block = Self::default();
        cycles.iter().for_each(|cycle| block.push(*cycle));
        block
    }
}

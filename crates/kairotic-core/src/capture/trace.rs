//! A signal over time, in a number of points that does not grow: what lies between two is kept by its ends.

use std::ops::Range;

use super::block::CycleRow;
use super::column::Extremes;

/// The most points; with more, two become one.
const MOST: usize = 1024;

/// Periods and edges over a stretch of time, in ticks.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct TracePoint {
    /// When it begins.
    pub at: u64,
    /// The shortest and the longest period.
    pub period: (i64, i64),
    /// The earliest and the latest edge against the best line.
    pub error: (f64, f64),
}

/// An edge: its place, and how far it is off the guessed line.
type Edge = (i64, i64);

#[derive(Debug, Clone, Copy)]
struct Bucket {
    at: u64,
    period: (i64, i64),
    early: Edge,
    late: Edge,
}

impl Join for Bucket {
    fn with(self, other: Self) -> Self {
        Self {
            at: self.at,
            period: (self.period.0.min(other.period.0), self.period.1.max(other.period.1)),
            early: if other.early.1 < self.early.1 { other.early } else { self.early },
            late: if other.late.1 > self.late.1 { other.late } else { self.late },
        }
    }
}

/// Something that two neighbours of it can be joined to.
pub(crate) trait Join: Copy {
    /// Both as one, this one first.
    fn with(self, other: Self) -> Self;
}

/// Points as they come, joined where they are too many.
#[derive(Debug, Clone)]
pub(crate) struct Thinned<P> {
    /// Points that were joined to one.
    every: u64,
    points: Vec<P>,
    /// Points in the last one.
    filled: u64,
}

impl<P: Join> Thinned<P> {
    pub(crate) const fn new() -> Self {
        Self { every: 1, points: Vec::new(), filled: 0 }
    }

    #[inline]
    pub(crate) fn add(&mut self, point: P) {
        match self.points.last_mut().filter(|_| self.filled < self.every) {
            Some(last) => *last = last.with(point),
            None => {
                if self.points.len() == MOST {
                    self.halve();
                }
                self.points.push(point);
                self.filled = 0;
            }
        }
        self.filled += 1;
    }

    /// Adds so many points in a row, which `joined` knows: some of them, at least one, as one.
    pub(super) fn add_all(&mut self, count: usize, joined: impl Fn(Range<usize>) -> Option<P>) {
        let mut next = 0;
        while next < count {
            let is_open = !self.points.is_empty() && self.filled < self.every;
            if !is_open && self.points.len() == MOST {
                self.halve();
            }
            let room = if is_open { self.every - self.filled } else { self.every };
            let end = usize::try_from(room).map_or(count, |room| next.saturating_add(room).min(count));
            let Some(point) = joined(next..end) else { return };
            match self.points.last_mut().filter(|_| is_open) {
                Some(last) => *last = last.with(point),
                None => {
                    self.points.push(point);
                    self.filled = 0;
                }
            }
            self.filled += (end - next) as u64;
            next = end;
        }
    }

    fn halve(&mut self) {
        let joined = self.points.chunks(2).filter_map(|pair| pair.iter().copied().reduce(P::with));
        self.points = joined.collect();
        self.every *= 2;
    }

    /// The points, first to last.
    pub(crate) fn points(&self) -> &[P] {
        &self.points
    }
}

/// Cycles over time.
#[derive(Debug, Clone)]
pub(crate) struct Trace(Thinned<Bucket>);

impl Trace {
    pub(crate) const fn new() -> Self {
        Self(Thinned::new())
    }

    /// Adds cycles in a row: the edge at the end of the first has so many periods before it, and each is so far off.
    pub(super) fn add_all(&mut self, cycles: CycleRow<'_>, place: i64, offs: &[i64]) {
        self.0.add_all(cycles.len(), |range| {
            let from = range.start;
            let some = cycles.part(range.clone());
            let periods = Extremes::of(some.periods)?;
            let offs = offs.get(range)?;
            let ends = Extremes::of(offs)?;
            let first = |wanted: i64| {
                let index = offs.iter().position(|off| *off == wanted)?;
                Some((place + (from + index) as i64, wanted))
            };
            Some(Bucket {
                at: *some.starts.first()?,
                period: (periods.least, periods.most),
                early: first(ends.least)?,
                late: first(ends.most)?,
            })
        });
    }

    /// The points, with edges against `start + slope · place`.
    pub(crate) fn points(&self, start: f64, slope: f64) -> Vec<TracePoint> {
        let off = |(place, off): Edge| off as f64 - (start + slope * place as f64);
        let point = |bucket: &Bucket| TracePoint {
            at: bucket.at,
            period: bucket.period,
            error: (off(bucket.early), off(bucket.late)),
        };
        self.0.points().iter().map(point).collect()
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::super::block::CycleBlock;
    use super::super::block::RecordedCycle;
    use super::*;

    proptest! {
        #[test]
        fn cycles_in_a_row_are_as_they_are_one_by_one(
            parts in proptest::collection::vec(proptest::collection::vec((990_i64..1010, -9_i64..9), 1..700), 1..12),
        ) {
            let (mut one_by_one, mut in_rows) = (Trace::new(), Trace::new());
            let (mut start, mut place) = (0_u64, 0);
            for part in &parts {
                let first = place + 1;
                let mut cycles = Vec::new();
                for (period, off) in part {
                    place += 1;
                    let edge = (place, *off);
                    one_by_one.0.add(Bucket { at: start, period: (*period, *period), early: edge, late: edge });
                    cycles.push(RecordedCycle { start, period: *period, high: 1 });
                    start += period.unsigned_abs();
                }
                let offs: Vec<i64> = part.iter().map(|(_, off)| *off).collect();
                in_rows.add_all(CycleBlock::of(&cycles).cycles(), first, &offs);
            }
            prop_assert_eq!(format!("{one_by_one:?}"), format!("{in_rows:?}"));
        }
    }
}

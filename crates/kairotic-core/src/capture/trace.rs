//! A signal over time, in a number of points that does not grow: what lies between two is kept by its ends.

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

impl Bucket {
    fn with(self, other: Self) -> Self {
        Self {
            at: self.at,
            period: (self.period.0.min(other.period.0), self.period.1.max(other.period.1)),
            early: if other.early.1 < self.early.1 { other.early } else { self.early },
            late: if other.late.1 > self.late.1 { other.late } else { self.late },
        }
    }
}

/// Points as cycles come.
#[derive(Debug, Clone)]
pub(super) struct Trace {
    /// Cycles in a point.
    every: u64,
    buckets: Vec<Bucket>,
    /// Cycles in the last point.
    filled: u64,
}

impl Trace {
    pub(super) const fn new() -> Self {
        Self { every: 1, buckets: Vec::new(), filled: 0 }
    }

    /// Adds a cycle: its start, its period, and the edge at its end.
    pub(super) fn add(&mut self, at: u64, period: i64, edge: Edge) {
        let one = Bucket { at, period: (period, period), early: edge, late: edge };
        match self.buckets.last_mut().filter(|_| self.filled < self.every) {
            Some(last) => *last = last.with(one),
            None => {
                if self.buckets.len() == MOST {
                    self.halve();
                }
                self.buckets.push(one);
                self.filled = 0;
            }
        }
        self.filled += 1;
    }

    fn halve(&mut self) {
        let pairs = self.buckets.chunks(2);
        let joined = pairs.filter_map(|pair| pair.iter().copied().reduce(Bucket::with));
        self.buckets = joined.collect();
        self.every *= 2;
    }

    /// The points, with edges against `start + slope · place`.
    pub(super) fn points(&self, start: f64, slope: f64) -> Vec<TracePoint> {
        let off = |(place, off): Edge| off as f64 - (start + slope * place as f64);
        let point = |bucket: &Bucket| TracePoint {
            at: bucket.at,
            period: bucket.period,
            error: (off(bucket.early), off(bucket.late)),
        };
        self.buckets.iter().map(point).collect()
    }
}

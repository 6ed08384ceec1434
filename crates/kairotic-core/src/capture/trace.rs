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

    /// Adds a cycle: its start, its period, and the edge at its end.
    pub(crate) fn add(&mut self, at: u64, period: i64, edge: Edge) {
        self.0.add(Bucket { at, period: (period, period), early: edge, late: edge });
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

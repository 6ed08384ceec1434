//! The best line through the edges of a steady signal: its period, and how far edges are off it.

use std::ops::Range;

use super::column::{DistanceSums, Extremes};
use super::confidence::{self, EdgeBlock};
use super::hull::{Hull, Point};
use super::product::product;
use super::trace::{Join, Thinned};

/// The least-squares line through edges, as they come. Edges are counted from the first; their times are taken as what
/// they are off a first guess of the line, so that sums stay small and exact.
#[derive(Debug, Clone)]
pub(super) struct EdgeLine {
    start: u64,
    guess: i64,
    count: u64,
    places: i128,
    place_squares: i128,
    offs: i128,
    off_squares: i128,
    products: i128,
    last: i64,
    upper: Hull,
    lower: Hull,
    runs: Thinned<Run>,
}

/// Edges in a row: sums of their places and of what they are off the guess.
#[derive(Debug, Clone, Copy)]
struct Run {
    last: i64,
    count: u64,
    places: i128,
    offs: i128,
}

impl Join for Run {
    fn with(self, other: Self) -> Self {
        Self {
            last: other.last,
            count: self.count + other.count,
            places: self.places + other.places,
            offs: self.offs + other.offs,
        }
    }
}

impl Run {
    /// The run against `start + slope · place`.
    fn block(&self, start: f64, slope: f64) -> EdgeBlock {
        let count = self.count as f64;
        let place = self.places as f64 / count;
        EdgeBlock {
            last: self.last as f64,
            count,
            place,
            off: self.offs as f64 / count - (start + slope * place),
        }
    }
}

/// What the line says.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) struct Fitted {
    /// Where the line is at the first edge, and how much longer than the guess its period is, in ticks.
    pub(super) start: f64,
    pub(super) slope: f64,
    /// The period, in ticks.
    pub(super) period: f64,
    /// How far jitter may take that off, at 95 %, in ticks; `None` for a single period.
    pub(super) error: Option<f64>,
    /// What whole ticks may take it off at most.
    pub(super) rounding: f64,
    /// Root mean square of what edges are off the line, in ticks.
    pub(super) rms: f64,
    /// The earliest and the latest edge against the line, in ticks.
    pub(super) ends: (f64, f64),
}

impl EdgeLine {
    pub(super) const fn new(start: u64, guess: i64) -> Self {
        Self {
            start,
            guess,
            count: 0,
            places: 0,
            place_squares: 0,
            offs: 0,
            off_squares: 0,
            products: 0,
            last: 0,
            upper: Hull::upper(),
            lower: Hull::lower(),
            runs: Thinned::new(),
        }
    }

    /// Adds the edge of a period that has so many before it; how far it is off the guess.
    #[inline]
    pub(super) fn add(&mut self, place: i64, at: u64) -> i64 {
        let run = i128::from(at) - i128::from(self.start);
        let Ok(off) = i64::try_from(run - product(place, self.guess)) else { return 0 };
        let (places, offs) = (i128::from(place), i128::from(off));
        self.count += 1;
        self.places += places;
        self.place_squares += product(place, place);
        self.offs += offs;
        self.off_squares = self.off_squares.saturating_add(product(off, off));
        self.products = self.products.saturating_add(product(place, off));
        self.last = place;
        self.upper.add((place, off));
        self.lower.add((place, off));
        self.runs.add(Run { last: place, count: 1, places, offs });
        off
    }

    /// Adds edges in a row, in the order of their times; the first has so many periods before it. How far each is off the
    /// guess.
    pub(super) fn add_all(&mut self, place: i64, edges: &[u64]) -> Vec<i64> {
        self.add_near(place, edges)
            .unwrap_or_else(|| (place..).zip(edges).map(|(place, at)| self.add(place, *at)).collect())
    }

    /// The same for edges so near to the line and to one another that numbers of one word hold their sums; `None`, and nothing
    /// is added, where they are not.
    fn add_near(&mut self, place: i64, edges: &[u64]) -> Option<Vec<i64>> {
        // Neither squares nor sums of as many as there can be leave the numbers of two words.
        let is_near = |number: &i64| number.unsigned_abs() < 1 << 50;
        let (start, end) = (*edges.first()?, *edges.last()?);
        let last = i64::try_from(edges.len()).ok()? - 1;
        let first =
            i64::try_from(i128::from(start) - i128::from(self.start) - product(place, self.guess)).ok()?;
        let run = i64::try_from(end.checked_sub(start)?).ok()?;
        if ![first, place, run, last.checked_mul(self.guess)?].iter().all(is_near) {
            return None;
        }
        let off = |(index, at): (i64, &u64)| first + at.wrapping_sub(start) as i64 - index * self.guess;
        let offs: Vec<i64> = (0..).zip(edges).map(off).collect();
        let sums = DistanceSums::about(first, &offs, Extremes::of(&offs)?)?;
        // What each is off the first, times its place after the first.
        let turned: i64 = (0..).zip(&offs).map(|(index, off)| index * (off - first)).sum();
        // Of whole numbers from zero to the last, and of their squares.
        let (count, last) = (i128::from(last) + 1, i128::from(last));
        let (indices, squares) = (last * count / 2, last * count * (2 * last + 1) / 6);
        let (place, first) = (i128::from(place), i128::from(first));
        self.count += offs.len() as u64;
        self.places += count * place + indices;
        self.place_squares += count * place * place + 2 * place * indices + squares;
        self.offs += count * first + sums.sum;
        let off_squares = count * first * first + 2 * first * sums.sum + sums.squares;
        self.off_squares = self.off_squares.saturating_add(off_squares);
        let products = place * (count * first + sums.sum) + first * indices + i128::from(turned);
        self.products = self.products.saturating_add(products);
        self.last = place as i64 + last as i64;
        let points: Vec<Point> = (place as i64..).zip(offs.iter().copied()).collect();
        self.upper.add_all(&points);
        self.lower.add_all(&points);
        let runs = |range: Range<usize>| {
            let places = (place + range.start as i128, place + range.end as i128 - 1);
            let count = range.len() as u64;
            Some(Run {
                last: places.1 as i64,
                count,
                places: (places.0 + places.1) * i128::from(count) / 2,
                offs: offs.get(range)?.iter().sum::<i64>().into(),
            })
        };
        self.runs.add_all(offs.len(), runs);
        Some(offs)
    }

    /// The line, through at least two edges.
    pub(super) fn fitted(&self) -> Option<Fitted> {
        if self.last == 0 {
            return None;
        }
        let count = self.count as f64;
        let (mean_x, mean_y) = (self.places as f64 / count, self.offs as f64 / count);
        let squares = self.place_squares as f64 - self.places as f64 * mean_x;
        let products = self.products as f64 - self.places as f64 * mean_y;
        let slope = products / squares;
        let start = mean_y - slope * mean_x;
        let off_squares = self.off_squares as f64 - self.offs as f64 * mean_y;
        let left = (off_squares - slope * products).max(0.0);
        let (high, low) = (self.upper.furthest(start, slope)?, self.lower.furthest(start, slope)?);
        let blocks: Vec<EdgeBlock> = self.runs.points().iter().map(|run| run.block(start, slope)).collect();
        Some(Fitted {
            start,
            slope,
            period: self.guess as f64 + slope,
            error: confidence::of_slope(&blocks),
            // Half a tick either way on the two halves of the edges.
            rounding: 1.5 / self.last as f64,
            rms: (left / count).sqrt(),
            ends: (low, high),
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn the_line_is_that_of_least_squares(
            edges in proptest::collection::vec((1_i64..4, -40_i64..40), 2..60), start in 0_u64..1_000_000, guess in 900_i64..1100,
        ) {
            let mut line = EdgeLine::new(start, guess);
            let mut place = 0;
            let mut points = vec![(0.0, 0.0)];
            prop_assert_eq!(line.add(0, start), 0);
            for (by, off) in &edges {
                place += by;
                let at = start + u64::try_from(place * guess + off).unwrap();
                prop_assert_eq!(line.add(place, at), *off);
                points.push((place as f64, *off as f64));
            }
            let found = line.fitted().unwrap();
            // From deviations of the means, where the line itself keeps sums.
            let count = points.len() as f64;
            let mean = |of: fn(&(f64, f64)) -> f64| points.iter().map(of).sum::<f64>() / count;
            let (x, y) = (mean(|point| point.0), mean(|point| point.1));
            let squares: f64 = points.iter().map(|point| (point.0 - x).powi(2)).sum();
            let slope = points.iter().map(|point| (point.0 - x) * (point.1 - y)).sum::<f64>() / squares;
            let off = |point: &(f64, f64)| point.1 - y - slope * (point.0 - x);
            let rms = (points.iter().map(|point| off(point).powi(2)).sum::<f64>() / count).sqrt();
            let ends = points.iter().map(off).fold((f64::INFINITY, f64::NEG_INFINITY), |(low, high), off| {
                (low.min(off), high.max(off))
            });
            let near = |left: f64, right: f64| (left - right).abs() < 1e-6;
            prop_assert!(near(found.slope, slope) && near(found.start, y - slope * x), "{:?}", found);
            prop_assert!(near(found.period, guess as f64 + slope) && near(found.rms, rms), "{:?}", found);
            prop_assert!(near(found.ends.0, ends.0) && near(found.ends.1, ends.1), "{:?} {:?}", found, ends);
            prop_assert!(near(found.rounding * place as f64, 1.5));
            // Each edge is a block by itself.
            let block = |point: &(f64, f64)| EdgeBlock { last: point.0, count: 1.0, place: point.0, off: off(point) };
            let error = confidence::of_slope(&points.iter().map(block).collect::<Vec<_>>());
            let (Some(error), Some(stated)) = (error, found.error) else {
                return Err(TestCaseError::fail("three edges tell"));
            };
            prop_assert!((error - stated).abs() <= 1e-6 * error + 1e-9, "{} {}", error, stated);
        }
    }

    proptest! {
        #[test]
        fn edges_in_a_row_are_as_they_are_one_by_one(
            parts in proptest::collection::vec((proptest::collection::vec(-40_i64..40, 1..300), 0_i64..3), 1..6),
            start in 0_u64..1_000_000, guess in prop_oneof![900_i64..1100, 1_i64 << 40..1 << 61], stretch in 0_u32..30,
        ) {
            let (mut one_by_one, mut in_rows) = (EdgeLine::new(start, guess), EdgeLine::new(start, guess));
            let mut place = 1_i64;
            for (offs, gap) in &parts {
                let at = |index: i64, off: i64| {
                    let at = i128::from(start) + i128::from(place + index) * i128::from(guess) + i128::from(off << stretch);
                    u64::try_from(at).unwrap_or(u64::MAX)
                };
                let mut edges: Vec<u64> = (0..).zip(offs).map(|(index, off)| at(index, *off)).collect();
                edges.sort_unstable();
                let expected: Vec<i64> = (place..).zip(&edges).map(|(place, at)| one_by_one.add(place, *at)).collect();
                prop_assert_eq!(in_rows.add_all(place, &edges), expected);
                prop_assert_eq!(format!("{one_by_one:?}"), format!("{in_rows:?}"));
                place += edges.len() as i64 + gap;
            }
        }
    }

    #[test]
    fn one_edge_is_no_line_and_a_time_beyond_all_numbers_no_edge() {
        let mut line = EdgeLine::new(7, 100);
        assert_eq!(line.fitted(), None);
        line.add(0, 7);
        assert_eq!(line.fitted(), None);
        assert_eq!(line.add(1, u64::MAX), 0);
        assert_eq!(line.fitted(), None);
    }

    #[test]
    fn a_run_of_edges_is_their_means_against_the_line() {
        let edge =
            |place: i64, off: i64| Run { last: place, count: 1, places: place.into(), offs: off.into() };
        let run = edge(3, 10).with(edge(4, 20)).with(edge(8, 60));
        // Places 3, 4, 8 have the mean 5, offs 30; the line there is at 2 + 3 · 5.
        assert_eq!(run.block(2.0, 3.0), EdgeBlock { last: 8.0, count: 3.0, place: 5.0, off: 13.0 });
    }
}

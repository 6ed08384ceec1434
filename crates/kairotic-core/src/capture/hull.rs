//! The points that can be furthest from a line: the rest need not be kept.

use std::cmp::Ordering;

use super::product::product;

/// A place and a height.
pub(super) type Point = (i64, i64);

/// One side of the convex hull of points that come from left to right.
#[derive(Debug, Clone)]
pub(super) struct Hull {
    points: Vec<Point>,
    /// 1 for the upper side, -1 for the lower one.
    side: i8,
}

impl Hull {
    pub(super) const fn upper() -> Self {
        Self { points: Vec::new(), side: 1 }
    }

    pub(super) const fn lower() -> Self {
        Self { points: Vec::new(), side: -1 }
    }

    /// Adds a point to the right of all others.
    #[inline]
    pub(super) fn add(&mut self, point: Point) {
        let turns_away = if self.side > 0 { Ordering::Less } else { Ordering::Greater };
        while let [.., before, last] = self.points.as_slice() {
            let run = |to: Point| to.0.saturating_sub(before.0);
            let rise = |to: Point| to.1.saturating_sub(before.1);
            let turn = product(run(*last), rise(point)).cmp(&product(rise(*last), run(point)));
            if turn == turns_away {
                break;
            }
            self.points.pop();
        }
        self.points.push(point);
    }

    /// Adds points from left to right, to the right of all others. They are near one another: neither the differences of their
    /// places nor those of their heights have products beyond 62 bits.
    pub(super) fn add_all(&mut self, points: &[Point]) {
        let Some((first, rest)) = points.split_first() else { return };
        self.add(*first);
        if let Some((last, between)) = rest.split_last() {
            self.add_between(*first, between, *last);
            self.add(*last);
        }
    }

    /// Adds the corners among points between two: the one that is furthest beyond the line from the one to the other is a
    /// corner, and others can only be beyond the lines from there.
    fn add_between(&mut self, begin: Point, points: &[Point], end: Point) {
        let side = i64::from(self.side);
        let (run, rise) = (side * (end.0 - begin.0), side * (end.1 - begin.1));
        let (mut beyond, mut count) = (vec![begin; points.len()], 0);
        let (mut furthest, mut most) = (None, 0);
        for point in points {
            // Written always and counted where it is beyond: a branch that nobody can predict costs more.
            if let Some(slot) = beyond.get_mut(count) {
                *slot = *point;
            }
            let distance = (point.1 - begin.1) * run - (point.0 - begin.0) * rise;
            count += usize::from(distance > 0);
            if distance > most {
                (furthest, most) = (Some(*point), distance);
            }
        }
        let Some(corner) = furthest else { return };
        beyond.truncate(count);
        let before = beyond.partition_point(|point| point.0 < corner.0);
        let (before, after) = beyond.split_at_checked(before).unwrap_or_default();
        self.add_between(begin, before, corner);
        self.add(corner);
        self.add_between(corner, after.get(1..).unwrap_or_default(), end);
    }

    /// How far the furthest point on this side is from `start + slope · x`.
    pub(super) fn furthest(&self, start: f64, slope: f64) -> Option<f64> {
        let off = |(x, y): &Point| *y as f64 - (start + slope * *x as f64);
        let side = f64::from(self.side);
        let furthest = self.points.iter().map(|point| off(point) * side).fold(f64::NEG_INFINITY, f64::max);
        (!self.points.is_empty()).then_some(furthest * side)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn no_point_is_further_than_those_that_are_kept(
            heights in proptest::collection::vec(-50_i64..50, 1..200), slope in -3.0_f64..3.0,
        ) {
            let (mut upper, mut lower) = (Hull::upper(), Hull::lower());
            for (x, y) in (0..).zip(&heights) {
                upper.add((x, *y));
                lower.add((x, *y));
            }
            let off = |(x, y): (i64, &i64)| *y as f64 - slope * x as f64;
            let all = || (0..).zip(&heights).map(off);
            prop_assert_eq!(upper.furthest(0.0, slope), all().max_by(f64::total_cmp));
            prop_assert_eq!(lower.furthest(0.0, slope), all().min_by(f64::total_cmp));
            prop_assert!(upper.points.len() <= heights.len());
            // Together, with one before them, they keep the same.
            let (mut upper_together, mut lower_together) = (Hull::upper(), Hull::lower());
            for together in [&mut upper_together, &mut lower_together] {
                let (first, others) = heights.split_first().unwrap();
                together.add((0, *first));
                together.add_all(&(1..).zip(others.iter().copied()).collect::<Vec<_>>());
            }
            prop_assert_eq!((upper_together.points, lower_together.points), (upper.points, lower.points));
        }
    }
}

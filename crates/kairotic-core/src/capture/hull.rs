//! The points that can be furthest from a line: the rest need not be kept.

/// One side of the convex hull of points that come from left to right.
#[derive(Debug, Clone)]
pub(super) struct Hull {
    points: Vec<(i64, i64)>,
    /// 1 for the upper side, -1 for the lower one.
    side: i128,
}

impl Hull {
    pub(super) const fn upper() -> Self {
        Self { points: Vec::new(), side: 1 }
    }

    pub(super) const fn lower() -> Self {
        Self { points: Vec::new(), side: -1 }
    }

    /// Adds a point to the right of all others.
    pub(super) fn add(&mut self, point: (i64, i64)) {
        while let [.., before, last] = self.points.as_slice() {
            let run = |to: (i64, i64)| i128::from(to.0.saturating_sub(before.0));
            let rise = |to: (i64, i64)| i128::from(to.1.saturating_sub(before.1));
            let turn = run(*last) * rise(point) - rise(*last) * run(point);
            if turn * self.side < 0 {
                break;
            }
            self.points.pop();
        }
        self.points.push(point);
    }

    /// How far the furthest point on this side is from `start + slope · x`.
    pub(super) fn furthest(&self, start: f64, slope: f64) -> Option<f64> {
        let off = |(x, y): &(i64, i64)| *y as f64 - (start + slope * *x as f64);
        let side = self.side as f64;
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
        }
    }
}

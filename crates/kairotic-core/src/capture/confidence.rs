//! How far a mean and a slope may be off: everything that is stated is stated with 95 % confidence.
//!
//! An edge is moved by jitter of its own, which is gone at the next edge, and by jitter that stays and adds up, as that of
//! an oscillator does. A line through edges is known far better under the one than under the other, and few edges do not
//! tell which it is. So both are assumed in every proportion, each counts as much as the edges make it likely (by the
//! restricted likelihood), and the interval is the one that holds 95 % of all of them together.

use statrs::distribution::{ContinuousCDF, Normal, StudentsT};

/// The share of all measurements whose stated interval holds the true value.
const CONFIDENCE: f64 = 0.95;
/// Before any edge is seen, jitter that only adds up counts ten times as much as jitter that never does, so that a few
/// edges which cannot tell are taken as the worse of the two.
const ONLY_OWN: f64 = 1.0;
const ONLY_ADDED: f64 = 10.0;
/// What each proportion between them counts.
const BETWEEN: f64 = 0.1;
/// Proportions to a factor of ten.
const PER_DECADE: f64 = 2.0;

/// Edges in a row as one: their mean place, and the mean of what they are off.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) struct EdgeBlock {
    /// The place of its last edge, in periods.
    pub(super) last: f64,
    /// How many edges it has.
    pub(super) count: f64,
    /// Their mean place, in periods.
    pub(super) place: f64,
    /// The mean of what they are off a line, in ticks.
    pub(super) off: f64,
}

/// Student's t with so many degrees of freedom; `None` where there are none.
fn student(freedom: f64) -> Option<StudentsT> {
    (freedom >= 1.0).then(|| StudentsT::new(0.0, 1.0, freedom).ok()).flatten()
}

/// How many of its standard errors a mean with so many degrees of freedom may be off, at 95 %.
fn reach(freedom: f64) -> Option<f64> {
    /// From here on the expansion is exact to 1e-12, and the search for the quantile gets worse with every value until it does
    /// not end any more.
    const MANY: f64 = 1000.0;
    let share = f64::midpoint(1.0, CONFIDENCE);
    if freedom < MANY {
        return Some(student(freedom)?.inverse_cdf(share));
    }
    // Abramowitz and Stegun, 26.7.5: Student's quantile from that of the normal distribution.
    let normal = Normal::standard().inverse_cdf(share);
    let square = normal * normal;
    let terms = [
        (square + 1.0) / 4.0,
        ((5.0 * square + 16.0) * square + 3.0) / 96.0,
        (((3.0 * square + 19.0) * square + 17.0) * square - 15.0) / 384.0,
    ];
    Some(normal * (1.0 + terms.iter().rev().fold(0.0, |sum, term| (sum + term) / freedom)))
}

/// How far the mean of so many independent values with such a sum of squares about it may be off, at 95 %. `None` for fewer
/// than two: one value has no scatter.
pub(super) fn of_mean(count: f64, squares: f64) -> Option<f64> {
    let freedom = count - 1.0;
    Some(reach(freedom)? * (squares / freedom / count).sqrt())
}

/// How far the slope of the line that blocks are off by `off` may itself be off, at 95 %, in ticks a period. `None` for fewer
/// than three blocks.
pub(super) fn of_slope(blocks: &[EdgeBlock]) -> Option<f64> {
    let student = student(blocks.len() as f64 - 2.0)?;
    let scale = blocks.iter().map(|block| block.off.abs()).fold(0.0, f64::max);
    if scale == 0.0 {
        return Some(0.0);
    }
    let likely: Vec<LikelySlope> = proportions(blocks).filter_map(|jitter| jitter.slope(blocks)).collect();
    let best = likely.iter().map(|one| one.logarithm).fold(f64::NEG_INFINITY, f64::max);
    let weight = |one: &LikelySlope| (one.logarithm - best).exp();
    let all: f64 = likely.iter().map(weight).sum();
    let within = |reach: f64| {
        let share = |one: &LikelySlope| {
            let below = |end: f64| student.cdf((end - one.slope) / one.error);
            weight(one) * (below(reach) - below(-reach))
        };
        likely.iter().map(share).sum::<f64>() / all
    };
    let mut too_far = likely.iter().map(|one| one.slope.abs() + one.error).fold(0.0, f64::max);
    while within(too_far) < CONFIDENCE && too_far.is_finite() {
        too_far *= 2.0;
    }
    let mut too_near = 0.0;
    while too_far - too_near > too_far * 1e-6 {
        let middle = f64::midpoint(too_near, too_far);
        if within(middle) < CONFIDENCE { too_near = middle } else { too_far = middle }
    }
    Some(too_far)
}

/// Variances of both kinds of jitter, of which only the proportion matters.
#[derive(Debug, Clone, Copy)]
struct JitterParts {
    /// Of an edge by itself.
    own: f64,
    /// What each period adds.
    added: f64,
    /// What it counts before any edge is seen.
    before: f64,
}

/// The proportions that make a difference: from where the added jitter moves the slope by far less than the other does, to
/// where an edge's own is not to be seen any more.
fn proportions(blocks: &[EdgeBlock]) -> impl Iterator<Item = JitterParts> {
    let run = blocks.last().map_or(1.0, |last| last.last.max(1.0));
    let (first, last) = (-2.0 - 2.0 * run.log10(), 2.0);
    let steps = ((last - first) * PER_DECADE) as u32;
    let between = (0..=steps).map(move |step| JitterParts {
        own: 1.0,
        added: 10_f64.powf(first + f64::from(step) / PER_DECADE),
        before: BETWEEN,
    });
    let ends = [
        JitterParts { own: 1.0, added: 0.0, before: ONLY_OWN },
        JitterParts { own: 0.0, added: 1.0, before: ONLY_ADDED },
    ];
    between.chain(ends)
}

/// What the slope is under one proportion: Student's t about `slope`, `error` wide, and how likely that is.
#[derive(Debug, Clone, Copy)]
struct LikelySlope {
    slope: f64,
    error: f64,
    logarithm: f64,
}

impl JitterParts {
    /// The best slope through blocks under this proportion: a level that wanders is followed from block to block (a Kalman
    /// filter with an unknown first level), and what could not be foreseen is put down to the slope.
    fn slope(self, blocks: &[EdgeBlock]) -> Option<LikelySlope> {
        let (first, rest) = blocks.split_first()?;
        let middle = f64::midpoint(first.place, blocks.last()?.place);
        let Wander { mean, both, end } = self.within(first.count);
        let mut known = self.own / first.count + mean + end - 2.0 * both;
        let (mut level, mut place, mut last) = (first.off, first.place - middle, first.last);
        let (mut squares, mut products, mut places, mut logarithms) = (0.0, 0.0, 0.0, 0.0);
        for block in rest {
            let Wander { mean, both, end } = self.within(block.count);
            // What pulses that are missing had added.
            known += (block.last - last - block.count).max(0.0) * self.added;
            let variance = known + mean + self.own / block.count;
            let (off, by) = (block.off - level, block.place - middle - place);
            squares += off * off / variance;
            products += off * by / variance;
            places += by * by / variance;
            logarithms += variance.ln();
            let share = (known + both) / variance;
            level += share * off;
            place += share * by;
            known += end - share * (known + both);
            last = block.last;
        }
        let freedom = rest.len() as f64 - 1.0;
        let slope = products / places;
        let left = (squares - slope * products).max(squares * 1e-12);
        Some(LikelySlope {
            slope,
            error: (left / freedom / places).sqrt(),
            logarithm: self.before.ln() - (logarithms + places.ln() + freedom * left.ln()) / 2.0,
        })
        .filter(|likely| likely.error > 0.0 && likely.logarithm.is_finite())
    }

    /// How far so many edges in a row wander from the level before them.
    fn within(self, count: f64) -> Wander {
        Wander {
            mean: self.added * (count + 1.0) * (2.0 * count + 1.0) / (6.0 * count),
            both: self.added * (count + 1.0) / 2.0,
            end: self.added * count,
        }
    }
}

/// Variances of the mean and of the last of some edges against the level before them, and their covariance.
struct Wander {
    mean: f64,
    both: f64,
    end: f64,
}

#[cfg(test)]
mod tests {
    use super::*;

    fn edges(offs: &[f64]) -> Vec<EdgeBlock> {
        let count = offs.len() as f64;
        let middle = (count - 1.0) / 2.0;
        let place = |n: usize| n as f64 - middle;
        let mean = offs.iter().sum::<f64>() / count;
        let squares: f64 = (0..offs.len()).map(|n| place(n).powi(2)).sum();
        let slope = offs.iter().enumerate().map(|(n, off)| place(n) * off).sum::<f64>() / squares;
        let block = |(n, off): (usize, &f64)| {
            let off = off - mean - slope * place(n);
            EdgeBlock { last: n as f64, count: 1.0, place: n as f64, off }
        };
        offs.iter().enumerate().map(block).collect()
    }

    #[test]
    fn a_mean_takes_student_s_t() {
        // 1, 2, 3: standard deviation 1; t of two degrees of freedom is 4.3027 at 97.5 % (tables).
        assert!((of_mean(3.0, 2.0).unwrap() - 4.3027 / 3_f64.sqrt()).abs() < 1e-4);
        assert!((of_mean(2.0, 2.0).unwrap() - 12.7062).abs() < 1e-4 * 12.0);
        assert_eq!(of_mean(1.0, 0.0), None);
    }

    #[test]
    fn many_values_have_an_interval_as_well() {
        // By integrating the density in steps of a thousandth.
        for (freedom, expected) in [
            (1e3, 1.962339080826337),
            (5e3, 1.9604385517065248),
            (1e5, 1.9599877075346306),
            (1e7, 1.9599642217672135),
            (7e7, 1.9599640184296574),
        ] {
            assert!((reach(freedom).unwrap() / expected - 1.0).abs() < 1e-11, "{freedom}");
        }
        // Both ways meet where one takes over.
        let searched = student(1000.0).unwrap().inverse_cdf(0.975);
        assert!((reach(1000.0).unwrap() / searched - 1.0).abs() < 1e-11);
    }

    #[test]
    fn jitter_that_adds_up_takes_periods_as_independent() {
        // Only added jitter: increments 1, -1, 3, 1 have the mean 1 and a sum of squares of 8 about it, so that three
        // degrees of freedom are left; the slope is that mean, ± √(8 / 3 / 4).
        let blocks = edges(&[0.0, 1.0, 0.0, 3.0, 4.0]);
        let only = JitterParts { own: 0.0, added: 1.0, before: 1.0 }.slope(&blocks).unwrap();
        // By least squares the slope is (-2·0 - 1·1 + 0 + 1·3 + 2·4) / 10 = 1.
        assert!(only.slope.abs() < 1e-12 && (only.error - (8.0_f64 / 12.0).sqrt()).abs() < 1e-12, "{only:?}");
    }

    #[test]
    fn jitter_of_its_own_is_a_line_s_usual_error() {
        let offs = [3.0, -1.0, 0.0, 5.0, 2.0, -4.0];
        let blocks = edges(&offs);
        let only = JitterParts { own: 1.0, added: 0.0, before: 1.0 }.slope(&blocks).unwrap();
        let left: f64 = blocks.iter().map(|block| block.off.powi(2)).sum();
        // Σ(n - 2.5)² = 17.5, and four degrees of freedom.
        assert!(
            only.slope.abs() < 1e-12 && (only.error - (left / 4.0 / 17.5).sqrt()).abs() < 1e-12,
            "{only:?}"
        );
        assert_eq!(of_slope(&edges(&[0.0, 2.0, 4.0])), Some(0.0));
        assert_eq!(of_slope(&edges(&[0.0, 2.0])), None);
    }

    #[test]
    fn pulses_that_are_missing_have_added_their_jitter() {
        // Only added jitter; 4 in one period, -1 in three, 3 in two: the slope is 6 / 6, and what is left of each, 3, -4 and 1,
        // counts by its variance: 9 / 1 + 16 / 3 + 1 / 2, over two degrees of freedom and six periods.
        let edge = |last: f64, off: f64| EdgeBlock { last, count: 1.0, place: last, off };
        let blocks = [edge(0.0, 0.0), edge(1.0, 4.0), edge(4.0, 3.0), edge(6.0, 6.0)];
        let only = JitterParts { own: 0.0, added: 1.0, before: 1.0 }.slope(&blocks).unwrap();
        let left = 9.0 + 16.0 / 3.0 + 0.5;
        assert!((only.slope - 1.0).abs() < 1e-12, "{only:?}");
        assert!((only.error - (left / 2.0 / 6.0_f64).sqrt()).abs() < 1e-12, "{only:?}");
        // Likelihoods: variances of 1, 3 and 2, and what the slope takes.
        let expected = -(6_f64.ln() + 6_f64.ln() + 2.0 * left.ln()) / 2.0;
        assert!((only.logarithm - expected).abs() < 1e-12, "{only:?}");
    }

    #[test]
    fn every_proportion_between_the_two_is_tried() {
        // Ten periods: from a ten-thousandth (10^-2 over 10²) to a hundredfold, two to a factor of ten.
        let blocks = [0.0, 10.0].map(|last| EdgeBlock { last, count: 1.0, place: last, off: 0.0 });
        let all: Vec<JitterParts> = proportions(&blocks).collect();
        let (between, ends) = all.split_at(all.len() - 2);
        assert_eq!(between.len(), 13);
        for (one, wanted) in between.iter().zip((-8..=4).map(|half| 10_f64.powf(f64::from(half) / 2.0))) {
            assert!(
                (one.added / wanted - 1.0).abs() < 1e-12 && (one.own, one.before) == (1.0, 0.1),
                "{one:?}"
            );
        }
        let ends: Vec<(f64, f64, f64)> = ends.iter().map(|one| (one.own, one.added, one.before)).collect();
        assert_eq!(ends, [(1.0, 0.0, 1.0), (0.0, 1.0, 10.0)]);
    }

    #[test]
    fn the_interval_holds_95_percent_of_all_that_is_likely() {
        let blocks = edges(&[0.0, 3.0, -2.0, 5.0, 1.0, -4.0, 2.0, 2.0]);
        let reach = of_slope(&blocks).unwrap();
        let t = StudentsT::new(0.0, 1.0, 6.0).unwrap();
        let likely: Vec<LikelySlope> =
            proportions(&blocks).filter_map(|jitter| jitter.slope(&blocks)).collect();
        let (mut held, mut all) = (0.0, 0.0);
        for one in &likely {
            // By weights that are not normalised, and tails in place of the middle.
            let weight = one.logarithm.exp();
            let tail = t.cdf((-reach - one.slope) / one.error) + t.cdf((one.slope - reach) / one.error);
            held += weight * (1.0 - tail);
            all += weight;
        }
        assert!((held / all - 0.95).abs() < 1e-5, "{}", held / all);
    }

    #[test]
    fn blocks_say_the_same_as_their_edges_in_either_kind() {
        // Four edges to a block. A walk's blocks know its slope nearly as well as its edges do; the gap is told by hand:
        // the variance of a mean of four steps against the level before is (4 + 1)(8 + 1) / 24.
        let within = JitterParts { own: 0.0, added: 1.0, before: 1.0 }.within(4.0);
        // Mean of w1, w1+w2, w1+w2+w3, w1+..+w4: weights 1, 3/4, 1/2, 1/4.
        let weights = [1.0_f64, 0.75, 0.5, 0.25];
        assert_eq!(within.mean, weights.iter().map(|weight| weight * weight).sum::<f64>());
        assert_eq!((within.both, within.end), (weights.iter().sum(), 4.0));
    }
}

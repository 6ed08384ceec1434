//! How some intervals are spread: mean, ends, deviation, and percentiles from a sketch of constant size.

use hdrhistogram::Histogram;

use super::column::{DistanceSums, Extremes};
use super::confidence;
use super::product::product;

/// Significant digits of a percentile's distance from the reference.
const DIGITS: u8 = 2;
/// A distance beyond this, in ticks, counts as this.
const FURTHEST: u64 = 1 << 40;

/// How some intervals are spread. Sums are exact; percentiles are from a sketch that knows each interval's distance from
/// the first one to 1 %.
#[derive(Debug, Clone)]
pub struct Spread {
    reference: i64,
    count: u64,
    sum: i128,
    squares: i128,
    least: i64,
    most: i64,
    sketch: Sketch,
}

/// Counts by distance: the short ones, which are nearly all, each by itself.
#[derive(Debug, Clone)]
struct Sketch {
    /// From the lowest to the highest.
    near: Vec<u64>,
    below: Option<Histogram<u64>>,
    above: Option<Histogram<u64>>,
}

/// Distances below this many ticks, either way, have a count of their own.
const NEAR: i64 = 512;

impl Sketch {
    fn new() -> Self {
        Self { near: vec![0; 2 * NEAR as usize - 1], below: None, above: None }
    }

    #[inline]
    fn record(&mut self, distance: i64) {
        // What is further below becomes a place beyond all others.
        let place = distance.wrapping_add(NEAR - 1) as usize;
        match self.near.get_mut(place) {
            Some(count) => *count += 1,
            None => self.record_far(distance),
        }
    }

    #[cold]
    fn record_far(&mut self, distance: i64) {
        let side = if distance.is_negative() { &mut self.below } else { &mut self.above };
        if side.is_none() {
            *side = Histogram::new_with_bounds(1, FURTHEST, DIGITS).ok();
        }
        if let Some(far) = side {
            far.saturating_record(distance.unsigned_abs());
        }
    }

    /// Every distance that was seen with its count, lowest first.
    fn counts(&self) -> impl Iterator<Item = (i64, u64)> {
        let far = |side: &Option<Histogram<u64>>| {
            let steps = side.iter().flat_map(Histogram::iter_recorded);
            steps.map(|step| (step.value_iterated_to() as i64, step.count_at_value())).collect::<Vec<_>>()
        };
        let below = far(&self.below).into_iter().rev().map(|(distance, count)| (-distance, count));
        let near = (1 - NEAR..).zip(self.near.iter().copied());
        below.chain(near).chain(far(&self.above)).filter(|(_, count)| *count > 0)
    }
}

impl Default for Spread {
    fn default() -> Self {
        Self {
            reference: 0,
            count: 0,
            sum: 0,
            squares: 0,
            least: i64::MAX,
            most: i64::MIN,
            sketch: Sketch::new(),
        }
    }
}

impl Spread {
    /// Adds an interval, in ticks.
    #[inline]
    pub(crate) fn add(&mut self, value: i64) {
        if self.count == 0 {
            self.reference = value;
        }
        let distance = value.saturating_sub(self.reference);
        self.count += 1;
        self.sum += i128::from(distance);
        self.squares = self.squares.saturating_add(product(distance, distance));
        self.least = self.least.min(value);
        self.most = self.most.max(value);
        self.sketch.record(distance);
    }

    /// Adds intervals, in ticks, with sums in numbers of one word where they fit.
    pub(crate) fn add_all(&mut self, values: &[i64]) {
        let Some(ends) = Extremes::of(values) else { return };
        if self.count == 0 {
            self.reference = ends.first;
        }
        let Some(sums) = DistanceSums::about(self.reference, values, ends) else {
            values.iter().for_each(|value| self.add(*value));
            return;
        };
        self.count += values.len() as u64;
        self.sum += sums.sum;
        self.squares = self.squares.saturating_add(sums.squares);
        self.least = self.least.min(ends.least);
        self.most = self.most.max(ends.most);
        values.iter().for_each(|value| self.sketch.record(value - self.reference));
    }

    /// How many there are.
    pub const fn count(&self) -> u64 {
        self.count
    }

    /// Shortest and longest, in ticks; `None` where there are none.
    pub const fn ends(&self) -> Option<(i64, i64)> {
        if self.count == 0 { None } else { Some((self.least, self.most)) }
    }

    /// The sum of all of them, in ticks.
    pub fn total(&self) -> i128 {
        self.sum + i128::from(self.reference) * i128::from(self.count)
    }

    /// The mean, in ticks; zero where there are none.
    pub fn mean(&self) -> f64 {
        self.reference as f64 + self.sum as f64 / self.count.max(1) as f64
    }

    /// The standard deviation, in ticks.
    pub fn deviation(&self) -> f64 {
        let count = self.count.max(1) as f64;
        let mean = self.sum as f64 / count;
        (self.squares as f64 / count - mean * mean).max(0.0).sqrt()
    }

    /// How far the mean may be off with 95 % confidence, in ticks, in a capture with steps of so many ticks: by its standard
    /// error, and by a step where both ends fall to the same side of theirs. `None` for fewer than two.
    pub fn uncertainty(&self, interval: u64) -> Option<f64> {
        let count = self.count as f64;
        let sum = self.sum as f64;
        let squares = (self.squares as f64 - sum * sum / count).max(0.0);
        Some(confidence::of_mean(count, squares)? + interval.max(1) as f64)
    }

    /// The interval that a share of all of them does not exceed, in ticks: exact within 512 ticks of the first interval,
    /// else its distance from that to 1 %.
    pub fn percentile(&self, share: f64) -> f64 {
        let wanted = (share * self.count as f64).ceil().max(1.0) as u64;
        let mut passed = 0;
        for (distance, count) in self.sketch.counts() {
            passed += count;
            if passed >= wanted {
                let value = self.reference.saturating_add(distance);
                return value.clamp(self.least, self.most) as f64;
            }
        }
        self.most as f64
    }

    /// Intervals by length, as (shortest, longest, how many) of equal widths; for a picture. Widths are whole steps of the
    /// capture, so that each holds as many of the lengths that there can be.
    pub fn bins(&self, most: usize, step: u64) -> Vec<(f64, f64, u64)> {
        let Some((least, longest)) = self.ends() else { return Vec::new() };
        let run = longest.abs_diff(least).saturating_add(1);
        let width = run.div_ceil(most.max(1) as u64).next_multiple_of(step.max(1));
        let mut counts = vec![0; run.div_ceil(width) as usize];
        for (distance, count) in self.sketch.counts() {
            let value = self.reference.saturating_add(distance).clamp(least, longest);
            if let Some(bin) = counts.get_mut((value.abs_diff(least) / width) as usize) {
                *bin += count;
            }
        }
        let start = |place: usize| least as f64 - 0.5 + place as f64 * width as f64;
        counts.into_iter().enumerate().map(|(place, count)| (start(place), start(place + 1), count)).collect()
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    proptest! {
        #[test]
        fn intervals_together_are_as_they_are_one_by_one(
            parts in proptest::collection::vec(
                proptest::collection::vec(prop_oneof![9 => -700_i64..700, 1 => any::<i64>()], 0..300), 1..6),
            around in -1_000_000_i64..1_000_000,
        ) {
            let (mut one_by_one, mut together) = (Spread::default(), Spread::default());
            for part in &parts {
                let part: Vec<i64> = part.iter().map(|value| value.saturating_add(around)).collect();
                part.iter().for_each(|value| one_by_one.add(*value));
                together.add_all(&part);
                prop_assert_eq!(format!("{one_by_one:?}"), format!("{together:?}"));
            }
        }

        #[test]
        fn percentiles_are_exact_near_the_first_interval_and_to_a_hundredth_beyond(
            values in proptest::collection::vec(prop_oneof![3 => -511_i64..512, 1 => -9000_i64..9000], 1..200), share in 0.0_f64..=1.0,
        ) {
            let mut spread = Spread::default();
            spread.add(0);
            values.iter().for_each(|value| spread.add(*value));
            let mut sorted: Vec<i64> = values.iter().copied().chain([0]).collect();
            sorted.sort_unstable();
            let wanted = ((share * sorted.len() as f64).ceil() as usize).max(1);
            let (found, exact) = (spread.percentile(share), sorted[wanted - 1]);
            let room = if exact.abs() < NEAR { 0.0 } else { exact.abs() as f64 / 100.0 };
            prop_assert!((found - exact as f64).abs() <= room, "{} instead of {}", found, exact);
        }
    }
}

//! How some intervals are spread: mean, ends, deviation, and percentiles from a sketch of constant size.

use hdrhistogram::Histogram;

use super::confidence;

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
    above: Sketch,
    below: Sketch,
}

/// Counts by distance: the short ones, which are nearly all, each by itself.
#[derive(Debug, Clone)]
struct Sketch {
    near: Vec<u64>,
    far: Option<Histogram<u64>>,
}

/// Distances up to this many ticks have a count of their own.
const NEAR: usize = 512;

impl Sketch {
    fn new() -> Self {
        Self { near: vec![0; NEAR], far: None }
    }

    fn record(&mut self, distance: u64) {
        if let Some(count) = usize::try_from(distance).ok().and_then(|place| self.near.get_mut(place)) {
            *count += 1;
            return;
        }
        if self.far.is_none() {
            self.far = Histogram::new_with_bounds(1, FURTHEST, DIGITS).ok();
        }
        if let Some(far) = &mut self.far {
            far.saturating_record(distance);
        }
    }

    /// Every distance that was seen with its count, shortest first.
    fn counts(&self) -> impl DoubleEndedIterator<Item = (u64, u64)> {
        let near = (0..).zip(self.near.iter().copied()).collect::<Vec<(u64, u64)>>();
        let far = self.far.iter().flat_map(Histogram::iter_recorded);
        let far = far.map(|step| (step.value_iterated_to(), step.count_at_value()));
        near.into_iter().chain(far).filter(|(_, count)| *count > 0).collect::<Vec<_>>().into_iter()
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
            above: Sketch::new(),
            below: Sketch::new(),
        }
    }
}

impl Spread {
    /// Adds an interval, in ticks.
    pub(crate) fn add(&mut self, value: i64) {
        if self.count == 0 {
            self.reference = value;
        }
        let distance = value.saturating_sub(self.reference);
        self.count += 1;
        self.sum += i128::from(distance);
        self.squares = self.squares.saturating_add(i128::from(distance) * i128::from(distance));
        self.least = self.least.min(value);
        self.most = self.most.max(value);
        let side = if distance.is_negative() { &mut self.below } else { &mut self.above };
        side.record(distance.unsigned_abs());
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
        let below = self.below.counts().rev().map(|(distance, count)| (-(distance as i64), count));
        let above = self.above.counts().map(|(distance, count)| (distance as i64, count));
        let mut passed = 0;
        for (distance, count) in below.chain(above) {
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
        let below = self.below.counts().map(|(distance, count)| (-(distance as i64), count));
        let above = self.above.counts().map(|(distance, count)| (distance as i64, count));
        for (distance, count) in below.chain(above) {
            let value = self.reference.saturating_add(distance).clamp(least, longest);
            if let Some(bin) = counts.get_mut((value.abs_diff(least) / width) as usize) {
                *bin += count;
            }
        }
        let start = |place: usize| least as f64 - 0.5 + place as f64 * width as f64;
        counts.into_iter().enumerate().map(|(place, count)| (start(place), start(place + 1), count)).collect()
    }
}

//! Stretches of a signal in which neither period nor high time changes: a sweep is a list of steps.

use super::block::{CycleRow, RecordedCycle};
use super::column::{DistanceSums, Extremes};
use super::measurement::Segment;
use super::product::product;

/// So many cycles in a row have to differ before a new segment begins.
const ROW: usize = 3;
/// With fewer cycles a segment does not know its own noise.
const KNOWN: u64 = 8;
/// The most segments that are kept.
pub(crate) const MOST: usize = 256;

/// Sums about the first value, which keeps them small.
#[derive(Debug, Clone, Copy)]
struct Sums {
    first: i64,
    sum: i128,
    squares: i128,
}

impl Sums {
    const fn of(first: i64) -> Self {
        Self { first, sum: 0, squares: 0 }
    }

    #[inline]
    fn add(&mut self, value: i64) {
        match value.checked_sub(self.first) {
            Some(off) => {
                self.sum += i128::from(off);
                self.squares = self.squares.saturating_add(product(off, off));
            }
            None => {
                let off = i128::from(value) - i128::from(self.first);
                self.sum += off;
                self.squares = self.squares.saturating_add(off.saturating_mul(off));
            }
        }
    }

    fn add_all(&mut self, values: &[i64], ends: Extremes) {
        match DistanceSums::about(self.first, values, ends) {
            Some(sums) => {
                self.sum += sums.sum;
                self.squares = self.squares.saturating_add(sums.squares);
            }
            None => values.iter().for_each(|value| self.add(*value)),
        }
    }

    fn mean(&self, count: u64) -> f64 {
        self.first as f64 + self.sum as f64 / count.max(1) as f64
    }

    fn deviation(&self, count: u64) -> f64 {
        let count = count.max(1) as f64;
        let mean = self.sum as f64 / count;
        (self.squares as f64 / count - mean * mean).max(0.0).sqrt()
    }
}

#[derive(Debug, Clone, Copy)]
struct Spell {
    start: u64,
    end: u64,
    /// Cycles that the sums know, and all.
    known: u64,
    cycles: u64,
    period: Sums,
    high: Sums,
    /// What periods and high times may be to belong to it.
    rooms: ((f64, f64), (f64, f64)),
}

/// With more cycles what belongs to a stretch is worked out anew only now and then.
const OFTEN: u64 = 64;

impl Spell {
    fn of(cycle: RecordedCycle) -> Self {
        let mut stretch = Self {
            start: cycle.start,
            end: cycle.start,
            known: 0,
            cycles: 0,
            period: Sums::of(cycle.period),
            high: Sums::of(cycle.high),
            rooms: ((0.0, 0.0), (0.0, 0.0)),
        };
        stretch.add(cycle);
        stretch
    }

    fn add(&mut self, cycle: RecordedCycle) {
        self.period.add(cycle.period);
        self.high.add(cycle.high);
        self.count(1, cycle);
    }

    /// Counts cycles that the sums know, the last of which is this one.
    fn count(&mut self, cycles: u64, last: RecordedCycle) {
        self.end = last.start.saturating_add(last.period.unsigned_abs());
        self.known += cycles;
        self.cycles += cycles;
        if self.known <= OFTEN || self.known.is_multiple_of(OFTEN) {
            self.rooms = (self.room(&self.period), self.room(&self.high));
        }
    }

    /// From which value to which one belongs to the stretch.
    fn room(&self, sums: &Sums) -> (f64, f64) {
        let mean = sums.mean(self.known);
        // A hundredth tells a step from what is not yet known to be noise.
        let unknown = if self.known < KNOWN { mean.abs() / 100.0 } else { 0.0 };
        let room = (6.0 * sums.deviation(self.known)).max(2.0).max(unknown);
        (mean - room, mean + room)
    }

    /// How a cycle lies to the stretch: below, in or above it, by period and by high time.
    fn side(&self, cycle: RecordedCycle) -> (i8, i8) {
        let side = |(low, high): (f64, f64), value: i64| {
            let value = value as f64;
            i8::from(value > high) - i8::from(value < low)
        };
        (side(self.rooms.0, cycle.period), side(self.rooms.1, cycle.high))
    }

    /// Whether the means of two stretches are the same, as far as their noise lets tell.
    fn same(&self, other: &Self) -> bool {
        // A few cycles do not know their noise: the noisier of the two tells for both.
        let cycles = 1.0 / self.known.max(1) as f64 + 1.0 / other.known.max(1) as f64;
        let same = |left: &Sums, right: &Sums| {
            let noise = left.deviation(self.known).max(right.deviation(other.known));
            let room = 4.0 * noise * cycles.sqrt();
            (left.mean(self.known) - right.mean(other.known)).abs() <= room.max(1.0)
        };
        same(&self.period, &other.period) && same(&self.high, &other.high)
    }

    fn joined(&self, other: &Self) -> Self {
        let sums = |left: &Sums, right: &Sums| {
            let shift = i128::from(right.first) - i128::from(left.first);
            let count = i128::from(other.known);
            Sums {
                first: left.first,
                sum: left.sum + right.sum + shift * count,
                // About the other's first value: what does not fit is so far off that it is another segment.
                squares: [
                    right.squares,
                    (2 * shift).saturating_mul(right.sum),
                    shift.saturating_mul(shift).saturating_mul(count),
                ]
                .into_iter()
                .fold(left.squares, i128::saturating_add),
            }
        };
        Self {
            start: self.start,
            end: other.end,
            known: self.known + other.known,
            cycles: self.cycles + other.cycles,
            period: sums(&self.period, &other.period),
            high: sums(&self.high, &other.high),
            rooms: self.rooms,
        }
    }
}

/// The segments as cycles come.
#[derive(Debug, Clone, Default)]
pub(crate) struct Segments {
    done: Vec<Spell>,
    now: Option<Spell>,
    /// Cycles that differ, and on which side.
    aside: Vec<(RecordedCycle, (i8, i8))>,
    /// Segments that are not kept.
    dropped: u64,
}

impl Segments {
    pub(crate) fn add(&mut self, cycle: RecordedCycle) {
        let Some(now) = &mut self.now else {
            self.now = Some(Spell::of(cycle));
            return;
        };
        let side = now.side(cycle);
        if side == (0, 0) {
            now.cycles += self.aside.len() as u64;
            self.aside.clear();
            now.add(cycle);
            return;
        }
        self.aside.push((cycle, side));
        if self.aside.len() < ROW {
            return;
        }
        let aside = std::mem::take(&mut self.aside);
        let all = |of: fn((i8, i8)) -> i8| {
            let first = aside.first().map_or(0, |(_, side)| of(*side));
            first != 0 && aside.iter().all(|(_, side)| of(*side) == first)
        };
        if all(|side| side.0) || all(|side| side.1) {
            self.close();
            aside.into_iter().for_each(|(cycle, _)| self.add(cycle));
        } else {
            now.cycles += aside.len() as u64;
        }
    }

    /// Adds cycles in a row.
    pub(super) fn add_all(&mut self, cycles: CycleRow<'_>) {
        let mut next = 0;
        while next < cycles.len() {
            let known = self.now.as_ref().map_or(0, |now| now.known);
            // What belongs to the stretch changes with the last of these only.
            let end = cycles.len().min(next + (OFTEN - known % OFTEN) as usize);
            let some = cycles.part(next..end);
            if !self.add_within(some) {
                some.each().for_each(|cycle| self.add(cycle));
            }
            next = end;
        }
    }

    /// Adds cycles if each belongs to the stretch; whether they do.
    fn add_within(&mut self, some: CycleRow<'_>) -> bool {
        let Some(now) = self.now.as_mut().filter(|now| now.known >= OFTEN && self.aside.is_empty()) else {
            return false;
        };
        let (Some(periods), Some(highs)) = (Extremes::of(some.periods), Extremes::of(some.highs)) else {
            return false;
        };
        let within =
            |(low, high): (f64, f64), ends: Extremes| ends.least as f64 >= low && ends.most as f64 <= high;
        let is_within = within(now.rooms.0, periods) && within(now.rooms.1, highs);
        if is_within && let Some(last) = some.each().next_back() {
            now.period.add_all(some.periods, periods);
            now.high.add_all(some.highs, highs);
            now.count(some.len() as u64, last);
        }
        is_within
    }

    /// Ends the segment, as where the signal pauses.
    pub(crate) fn close(&mut self) {
        let Some(mut now) = self.now.take() else { return };
        now.cycles += self.aside.len() as u64;
        self.aside.clear();
        // What a stretch has learnt of its noise may make it one with those before, unless others came between.
        while self.dropped == 0
            && let Some(last) = self.done.pop_if(|last| last.same(&now))
        {
            now = last.joined(&now);
        }
        if self.done.len() < MOST { self.done.push(now) } else { self.dropped += 1 }
    }

    /// The segments, and how many more there were.
    pub(crate) fn finished(mut self) -> (Vec<Segment>, u64) {
        self.close();
        let segment = |stretch: &Spell| Segment {
            start: stretch.start,
            end: stretch.end,
            cycles: stretch.cycles,
            period: stretch.period.mean(stretch.known),
            high: stretch.high.mean(stretch.known),
        };
        (self.done.iter().map(segment).collect(), self.dropped)
    }
}

#[cfg(test)]
mod tests {
    use super::super::block::CycleBlock;
    use super::*;
    use proptest::prelude::*;

    fn cycles(from: u64, all: &[(i64, i64)]) -> Vec<RecordedCycle> {
        let mut start = from;
        let next = |(period, high): &(i64, i64)| {
            let cycle = RecordedCycle { start, period: *period, high: *high };
            start += period.unsigned_abs();
            cycle
        };
        all.iter().map(next).collect()
    }

    fn stretch(cycles: &[RecordedCycle]) -> Spell {
        let mut stretch = Spell::of(cycles[0]);
        cycles[1..].iter().for_each(|cycle| stretch.add(*cycle));
        stretch
    }

    /// Start, cycles, period and high time of each segment.
    fn found(cycles: impl IntoIterator<Item = RecordedCycle>) -> Vec<(u64, u64, f64, f64)> {
        let mut segments = Segments::default();
        cycles.into_iter().for_each(|cycle| segments.add(cycle));
        segments.finished().0.iter().map(|one| (one.start, one.cycles, one.period, one.high)).collect()
    }

    /// Mean and standard deviation, straight from their definitions.
    fn spread(values: &[i64]) -> (f64, f64) {
        let count = values.len() as f64;
        let mean = values.iter().sum::<i64>() as f64 / count;
        (mean, (values.iter().map(|value| (*value as f64 - mean).powi(2)).sum::<f64>() / count).sqrt())
    }

    proptest! {
        #[test]
        fn sums_are_those_of_all_values_joined_or_not(
            left in proptest::collection::vec((900_i64..1100, 0_i64..900), 1..80),
            right in proptest::collection::vec((500_i64..1500, 0_i64..500), 1..80),
        ) {
            let all: Vec<(i64, i64)> = left.iter().chain(&right).copied().collect();
            let cycles = cycles(70, &all);
            let (first, second) = cycles.split_at(left.len());
            let joined = stretch(first).joined(&stretch(second));
            prop_assert_eq!((joined.start, joined.known, joined.cycles), (70, all.len() as u64, all.len() as u64));
            prop_assert_eq!(joined.end, 70 + all.iter().map(|(period, _)| period.unsigned_abs()).sum::<u64>());
            for (sums, values) in [
                (joined.period, all.iter().map(|one| one.0).collect::<Vec<i64>>()),
                (joined.high, all.iter().map(|one| one.1).collect::<Vec<i64>>()),
            ] {
                let (mean, deviation) = spread(&values);
                prop_assert!((sums.mean(joined.known) - mean).abs() < 1e-6);
                prop_assert!((sums.deviation(joined.known) - deviation).abs() < 1e-6);
            }
        }

        #[test]
        fn cycles_in_a_row_are_as_they_are_one_by_one(
            steps in proptest::collection::vec((900_i64..1100, 1_i64..900, 1_usize..400, 0_i64..40), 1..5),
            noise in proptest::collection::vec((any::<u16>(), any::<u16>()), 1600),
            blocks in proptest::collection::vec(1_usize..300, 1..9),
        ) {
            let shake = |value: u16, width: i64| i64::from(value) % (2 * width + 1) - width;
            let levels = steps.iter().flat_map(|(period, high, count, width)| std::iter::repeat_n((period, high, width), *count));
            let all: Vec<(i64, i64)> = levels
                .zip(&noise)
                .map(|((period, high, width), (one, other))| (period + shake(*one, *width), high + shake(*other, *width)))
                .collect();
            let cycles = cycles(3, &all);
            let (mut one_by_one, mut in_rows) = (Segments::default(), Segments::default());
            cycles.iter().for_each(|cycle| one_by_one.add(*cycle));
            let (mut rest, mut lengths) = (cycles.as_slice(), blocks.iter().cycle());
            while !rest.is_empty() {
                let (part, after) = rest.split_at((*lengths.next().unwrap()).min(rest.len()));
                in_rows.add_all(CycleBlock::of(part).cycles());
                rest = after;
            }
            prop_assert_eq!(format!("{one_by_one:?}"), format!("{in_rows:?}"));
        }

        #[test]
        fn what_belongs_to_a_stretch_is_within_six_deviations_two_ticks_and_at_first_a_hundredth(
            values in proptest::collection::vec((950_i64..1050, 100_i64..120), 1..64),
        ) {
            let stretch = stretch(&cycles(0, &values));
            let expected = |values: &[i64]| {
                let (mean, deviation) = spread(values);
                let at_first = if values.len() < 8 { mean / 100.0 } else { 0.0 };
                let room = (6.0 * deviation).max(2.0).max(at_first);
                (mean - room, mean + room)
            };
            let period = expected(&values.iter().map(|one| one.0).collect::<Vec<i64>>());
            let high = expected(&values.iter().map(|one| one.1).collect::<Vec<i64>>());
            let near = |left: (f64, f64), right: (f64, f64)| (left.0 - right.0).abs() + (left.1 - right.1).abs() < 1e-6;
            prop_assert!(near(stretch.rooms.0, period) && near(stretch.rooms.1, high), "{:?}", stretch);
        }
    }

    #[test]
    fn a_cycle_lies_below_in_or_above_by_period_and_by_high_time() {
        let stretch = stretch(&cycles(0, &[(1000, 300); 10]));
        let side = |period, high| stretch.side(RecordedCycle { start: 0, period, high });
        assert_eq!((side(1002, 298), side(998, 302)), ((0, 0), (0, 0)));
        assert_eq!((side(1003, 297), side(997, 303)), ((1, -1), (-1, 1)));
    }

    #[test]
    fn two_stretches_are_the_same_within_four_errors_of_their_means_or_a_tick() {
        // Periods of 990 and 1010 in turn: a deviation of 10; of 16 each the difference of means is known to 10 √(2/16), so
        // that 14.1 is the limit.
        let noisy = |middle: i64| stretch(&cycles(0, &[(middle - 10, 300), (middle + 10, 300)].repeat(8)));
        assert!(noisy(1000).same(&noisy(1014)) && noisy(1014).same(&noisy(1000)));
        assert!(!noisy(1000).same(&noisy(1015)) && !noisy(1015).same(&noisy(1000)));
        // The noisier of the two tells for both: 10 √(1/16 + 1/4) · 4 is 22.4.
        let few = |middle: i64| stretch(&cycles(0, &[(middle, 300); 4]));
        assert!(noisy(1000).same(&few(1022)) && few(1022).same(&noisy(1000)));
        assert!(!noisy(1000).same(&few(1023)) && !few(1023).same(&noisy(1000)));
        // Without noise a tick, in either figure.
        let steady = |period, high| stretch(&cycles(0, &[(period, high); 10]));
        assert!(steady(1000, 300).same(&steady(1001, 299)));
        assert!(!steady(1000, 300).same(&steady(1002, 300)) && !steady(1000, 300).same(&steady(1000, 302)));
    }

    #[test]
    fn three_cycles_in_a_row_on_one_side_begin_a_segment() {
        let steady = [(1000, 300); 10];
        let list =
            |rest: &[(i64, i64)]| found(cycles(50, &steady.iter().chain(rest).copied().collect::<Vec<_>>()));
        // Two are noise: they count, and are in no mean.
        assert_eq!(list(&[(1000, 400), (1000, 400), (1000, 300)]), [(50, 13, 1000.0, 300.0)]);
        assert_eq!(list(&[(1000, 400), (1000, 400)]), [(50, 12, 1000.0, 300.0)]);
        assert_eq!(list(&[(1000, 400); 3]), [(50, 10, 1000.0, 300.0), (10_050, 3, 1000.0, 400.0)]);
        assert_eq!(list(&[(1100, 300); 3]), [(50, 10, 1000.0, 300.0), (10_050, 3, 1100.0, 300.0)]);
        // Three on different sides are noise as well, and the segment goes on.
        assert_eq!(list(&[(1000, 400), (1000, 200), (1000, 400), (1000, 300)]), [(50, 14, 1000.0, 300.0)]);
        // On one side by their periods they are a segment, whatever their high times.
        let three = [(1100, 400), (1100, 200), (1100, 400)];
        assert_eq!(list(&three).len(), 2);
    }

    #[test]
    fn segments_beyond_the_most_are_counted() {
        let mut segments = Segments::default();
        let step = |n: i64| if n % 2 == 0 { 200 } else { 400 };
        let all: Vec<(i64, i64)> = (0..260).flat_map(|n| [(1000, step(n)); 9]).collect();
        cycles(0, &all).into_iter().for_each(|cycle| segments.add(cycle));
        let (kept, dropped) = segments.finished();
        assert_eq!((kept.len(), dropped), (MOST, 4));
        assert_eq!((kept[1].start, kept[1].end), (9_000, 18_000));
    }

    #[test]
    fn what_is_worked_out_now_and_then_is_worked_out_at_every_sixty_fourth() {
        // 64 cycles without noise leave 2 ticks of room; what comes after is seen at the 128th only.
        let mut list = vec![(1000, 300); 64];
        list.extend([(1001, 300), (999, 300)].repeat(31));
        list.push((1001, 300));
        let (before, at) =
            (stretch(&cycles(0, &list)), stretch(&cycles(0, &[list, vec![(999, 300)]].concat())));
        assert_eq!((before.known, before.rooms.0), (127, (998.0, 1002.0)));
        // The deviation of 64 zeroes and 64 of ±1 is √½.
        let room = 6.0 * 0.5_f64.sqrt();
        assert!((at.rooms.0.1 - 1000.0 - room).abs() < 1e-9 && (1000.0 - at.rooms.0.0 - room).abs() < 1e-9);
    }
}

//! Stretches of a signal in which neither period nor high time changes: a sweep is a list of steps.

use super::measurement::Segment;

/// So many cycles in a row have to differ before a new segment begins.
const ROW: usize = 3;
/// With fewer cycles a segment does not know its own noise.
const KNOWN: u64 = 8;
/// The most segments that are kept.
pub(super) const MOST: usize = 256;

/// One run of the counter as a recorder saw it, in ticks.
#[derive(Debug, Clone, Copy)]
pub(super) struct Cycle {
    pub(super) start: u64,
    pub(super) period: i64,
    pub(super) high: i64,
}

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

    fn add(&mut self, value: i64) {
        let off = i128::from(value) - i128::from(self.first);
        self.sum += off;
        self.squares = self.squares.saturating_add(off.saturating_mul(off));
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
struct Stretch {
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

impl Stretch {
    fn of(cycle: Cycle) -> Self {
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

    fn add(&mut self, cycle: Cycle) {
        self.end = cycle.start.saturating_add(cycle.period.unsigned_abs());
        self.known += 1;
        self.cycles += 1;
        self.period.add(cycle.period);
        self.high.add(cycle.high);
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
    fn side(&self, cycle: Cycle) -> (i8, i8) {
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
pub(super) struct Segments {
    done: Vec<Stretch>,
    now: Option<Stretch>,
    /// Cycles that differ, and on which side.
    aside: Vec<(Cycle, (i8, i8))>,
    /// Segments that are not kept.
    dropped: u64,
}

impl Segments {
    pub(super) fn add(&mut self, cycle: Cycle) {
        let Some(now) = &mut self.now else {
            self.now = Some(Stretch::of(cycle));
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

    /// Ends the segment, as where the signal pauses.
    pub(super) fn close(&mut self) {
        let Some(mut now) = self.now.take() else { return };
        now.cycles += self.aside.len() as u64;
        self.aside.clear();
        // What a stretch has learnt of its noise may make it one with those before.
        while let Some(last) = self.done.pop_if(|last| last.same(&now)) {
            now = last.joined(&now);
        }
        if self.done.len() < MOST { self.done.push(now) } else { self.dropped += 1 }
    }

    /// The segments, and how many more there were.
    pub(super) fn finished(mut self) -> (Vec<Segment>, u64) {
        self.close();
        let segment = |stretch: &Stretch| Segment {
            start: stretch.start,
            end: stretch.end,
            cycles: stretch.cycles,
            period: stretch.period.mean(stretch.known),
            high: stretch.high.mean(stretch.known),
        };
        (self.done.iter().map(segment).collect(), self.dropped)
    }
}

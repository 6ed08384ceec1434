//! From edges to cycles: which are of the signal's frequency, which pulses are missing, which are too many.

use super::allan::Octaves;
use super::block::{CycleBlock, CycleRow, RecordedCycle};
use super::line::EdgeLine;
use super::measurement::{Allan, Clocked, Events, Timing};
use super::segments::Segments;
use super::spread::Spread;
use super::trace::Trace;

/// So many cycles are looked at before it is said what the signal's period is.
const LOOK: usize = 8;
/// So many cycles of another period in a row are another frequency.
const ROW: usize = 3;
/// The most cycles that wait for an explanation.
const WAITING: usize = 64;

/// The cycles of one signal.
#[derive(Debug, Clone, Default)]
pub(super) struct CycleMeter {
    rise: Option<u64>,
    fall: Option<u64>,
    /// Cycles before the period is known, or that differ from it.
    waiting: Vec<RecordedCycle>,
    /// Cycles of the stretch that are not in its figures yet.
    block: CycleBlock,
    now: Option<Steady>,
    best: Option<Steady>,
    pub(super) segments: Segments,
    pub(super) missing: Events,
    pub(super) doubled: Events,
    pub(super) irregular: Events,
}

/// A stretch of one frequency.
#[derive(Debug, Clone)]
struct Steady {
    typical: i64,
    /// Periods since the stretch began, missing ones too.
    place: i64,
    cycles: u64,
    line: EdgeLine,
    octaves: Octaves,
    period: Spread,
    high: Spread,
    low: Spread,
    /// The period before, where none was left out.
    before: Option<i64>,
    differences: (u64, u64, f64),
    trace: Trace,
}

impl Steady {
    fn of(start: u64, typical: i64) -> Self {
        let mut steady = Self {
            typical,
            place: 0,
            cycles: 0,
            line: EdgeLine::new(start, typical),
            octaves: Octaves::default(),
            period: Spread::default(),
            high: Spread::default(),
            low: Spread::default(),
            before: None,
            differences: (0, 0, 0.0),
            trace: Trace::new(),
        };
        steady.line.add(0, start);
        steady.octaves.add(0, start);
        steady
    }

    /// Whether a time is about so many periods: to a quarter of one, and to a tick.
    fn is_about(&self, time: i64, periods: i64) -> bool {
        (time - periods.saturating_mul(self.typical)).abs() <= (self.typical / 4).max(1)
    }

    /// The number of periods nearest to a time.
    fn periods(&self, time: i64) -> i64 {
        time.saturating_add(self.typical / 2) / self.typical
    }

    fn add_all(&mut self, cycles: CycleRow<'_>) {
        let (first, ends) = (self.place + 1, cycles.ends());
        self.place += ends.len() as i64;
        self.cycles += ends.len() as u64;
        let offs = self.line.add_all(first, &ends);
        self.trace.add_all(cycles, first, &offs);
        self.octaves.add_all(first.unsigned_abs(), &ends);
        self.period.add_all(cycles.periods);
        self.high.add_all(cycles.highs);
        self.low.add_all(&cycles.lows());
        for period in cycles.periods {
            if let Some(before) = self.before.replace(*period) {
                let difference = before.abs_diff(*period);
                self.differences.0 += 1;
                self.differences.1 = self.differences.1.max(difference);
                self.differences.2 += (difference as f64).powi(2);
            }
        }
    }

    /// Passes over so much time that belongs to no cycle, and goes on with the edge at its end.
    fn pass(&mut self, time: i64, end: u64) {
        self.place = self.place.saturating_add(self.periods(time));
        self.before = None;
        self.octaves.interrupt();
        self.line.add(self.place, end);
        self.octaves.add(self.place.unsigned_abs(), end);
    }

    fn timing(self) -> Option<Timing> {
        let fitted = self.line.fitted()?;
        let (count, most, squares) = self.differences;
        let octaves = self.octaves.deviations(fitted.period).into_iter();
        Some(Timing {
            cycles: self.cycles,
            period: self.period,
            high: self.high,
            low: self.low,
            clock: Clocked {
                period: fitted.period,
                error: fitted.error,
                rounding: fitted.rounding,
                rms: fitted.rms,
                ends: fitted.ends,
            },
            cycle_to_cycle: (count > 0).then(|| (most, (squares / count as f64).sqrt())),
            allan: octaves.map(|(periods, deviation)| Allan { periods, deviation }).collect(),
            trace: self.trace.points(fitted.start, fitted.slope),
        })
    }
}

impl CycleMeter {
    pub(super) fn fall(&mut self, at: u64) {
        self.fall = Some(at);
    }

    pub(super) fn rise(&mut self, at: u64) {
        // What begins and ends in one tick is no cycle that could be measured.
        if let (Some(rise), Some(fall)) = (self.rise, self.fall)
            && at > rise
            && let (Ok(period), Ok(high)) = (i64::try_from(at - rise), i64::try_from(fall - rise))
        {
            self.cycle(RecordedCycle { start: rise, period, high });
        }
        (self.rise, self.fall) = (Some(at), None);
    }

    /// Nothing is known of the signal for a while.
    pub(super) fn interrupt(&mut self) {
        self.settle();
        self.explain(self.waiting.len());
        self.retire();
        self.segments.close();
        (self.rise, self.fall) = (None, None);
    }

    fn cycle(&mut self, cycle: RecordedCycle) {
        let Some(now) = &mut self.now else {
            self.waiting.push(cycle);
            if self.waiting.len() == LOOK {
                self.settle();
            }
            return;
        };
        if now.is_about(cycle.period, 1) {
            if !self.waiting.is_empty() {
                self.explain(self.waiting.len());
            }
            self.regular(cycle);
            return;
        }
        self.waiting.push(cycle);
        if let Some(typical) = self.other_frequency() {
            self.explain(self.waiting.len() - ROW);
            self.retire();
            self.begin(typical);
        } else if self.waiting.len() == WAITING {
            self.explain(WAITING / 2);
        }
    }

    /// The period of the last cycles, where they agree.
    fn other_frequency(&self) -> Option<i64> {
        let last = self.waiting.len().checked_sub(ROW).and_then(|from| self.waiting.get(from..))?;
        let typical = median(last)?;
        let room = (typical / 10).max(1);
        last.iter().all(|cycle| (cycle.period - typical).abs() <= room).then_some(typical)
    }

    #[inline]
    fn regular(&mut self, cycle: RecordedCycle) {
        self.block.push(cycle);
        if self.block.is_full() {
            self.flush();
        }
    }

    /// Brings the figures of the stretch up to date.
    fn flush(&mut self) {
        if let Some(now) = &mut self.now {
            now.add_all(self.block.cycles());
        }
        self.segments.add_all(self.block.cycles());
        self.block.clear();
    }

    /// Says what the signal's period is, from the cycles so far.
    fn settle(&mut self) {
        if self.now.is_none()
            && let Some(typical) = median(&self.waiting)
        {
            self.begin(typical);
        }
    }

    /// Begins a stretch with the cycles that wait.
    fn begin(&mut self, typical: i64) {
        let cycles = std::mem::take(&mut self.waiting);
        if let Some(first) = cycles.first() {
            self.now = Some(Steady::of(first.start, typical.max(1)));
        }
        cycles.into_iter().for_each(|cycle| self.cycle(cycle));
    }

    /// Keeps the stretch if it is the longest.
    fn retire(&mut self) {
        self.flush();
        if let Some(now) = self.now.take()
            && self.best.as_ref().is_none_or(|best| best.cycles < now.cycles)
        {
            self.best = Some(now);
        }
    }

    /// Says what became of the first cycles that differ from the signal's period.
    fn explain(&mut self, count: usize) {
        self.flush();
        let cycles: Vec<RecordedCycle> = self.waiting.drain(..count.min(self.waiting.len())).collect();
        let Some(now) = &mut self.now else { return };
        let mut rest = cycles.as_slice();
        while let [cycle, after @ ..] = rest {
            rest = after;
            let periods = now.periods(cycle.period);
            if periods > 1 && now.is_about(cycle.period, periods) {
                let at = cycle.start.saturating_add(now.typical.unsigned_abs());
                self.missing.add(at, periods.unsigned_abs() - 1);
            } else if let [next, after @ ..] = after
                && now.is_about(cycle.period.saturating_add(next.period), 1)
            {
                self.doubled.add(next.start, next.high.unsigned_abs());
                rest = after;
            } else {
                self.irregular.add(cycle.start, cycle.period.unsigned_abs());
            }
        }
        if let (Some(first), Some(last)) = (cycles.first(), cycles.last()) {
            let end = last.start + last.period.unsigned_abs();
            if let Ok(time) = i64::try_from(end - first.start) {
                now.pass(time, end);
            }
        }
    }

    /// What there is at the end of the capture.
    pub(super) fn finished(&mut self) -> Option<Timing> {
        self.interrupt();
        self.best.take().and_then(Steady::timing)
    }
}

fn median(cycles: &[RecordedCycle]) -> Option<i64> {
    let mut periods: Vec<i64> = cycles.iter().map(|cycle| cycle.period).collect();
    periods.sort_unstable();
    periods.get(periods.len() / 2).copied()
}

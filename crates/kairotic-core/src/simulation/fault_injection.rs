//! A waveform as a recorder would see it: with the clock off, with jitter, with pulses that are missing or too many.

use std::ops::RangeInclusive;

use rand_chacha::ChaCha8Rng;
use rand_chacha::rand_core::SeedableRng;
use rand_distr::{Distribution, Normal};

use super::change::{Change, Logic};
use super::wave::{CounterInTicks, WaveLine};
use crate::error::{OrOverflow, Result};
use crate::quantity::{Deviation, QuantityError, Rational, Time};

/// What keeps a waveform from being as it should.
#[derive(Debug, Clone, PartialEq)]
pub struct FaultInjection {
    /// How far the clock is off.
    pub clock_error: Deviation,
    /// The standard deviation of each edge.
    pub jitter: Time,
    /// What the jitter is drawn from.
    pub seed: u64,
    /// Pulses that do not come, first and last of each run, counted from zero.
    pub missing: Vec<RangeInclusive<u64>>,
    /// Pulses after which another comes, in the same way.
    pub doubled: Vec<RangeInclusive<u64>>,
}

impl FaultInjection {
    /// Nothing is wrong.
    pub const PERFECT: Self = Self {
        clock_error: Deviation::ZERO,
        jitter: Time::ZERO,
        seed: 0,
        missing: Vec::new(),
        doubled: Vec::new(),
    };
}

/// A waveform that is wanted.
#[derive(Debug, Clone)]
pub struct WaveRequest {
    /// The pins.
    pub lines: Vec<WaveLine>,
    /// How long.
    pub length: Time,
    /// The recorder's tick.
    pub tick: Time,
    /// What is wrong with it.
    pub rehearsal: FaultInjection,
}

impl WaveRequest {
    /// The recorder's ticks in a source clock of a pin, which is as far off as the rehearsal says.
    ///
    /// # Errors
    /// A clock or a tick that is not greater than zero, and numbers that do not fit.
    fn ticks_per_clock(&self, line: &WaveLine) -> Result<Rational> {
        let real = Rational::ONE
            .plus(self.rehearsal.clock_error.value())
            .and_then(|factor| line.clock.value().times(factor))
            .filter(|real| real.is_positive())
            .or_overflow("clock")?;
        let seconds = Rational::ONE.over(real).or_overflow("clock")?;
        seconds.over(self.tick.positive()?.value()).or_overflow("tick")
    }

    /// The counter behind a pin until a tick; none where its registers change.
    ///
    /// # Errors
    /// As [`Wave::of`].
    pub fn counter(&self, line: &WaveLine, end: u64) -> Result<Option<CounterInTicks>> {
        let per_clock = self.ticks_per_clock(line)?.approx();
        let mut counter = line.counter(end as f64 / per_clock);
        let points = counter.iter_mut().flat_map(|counter| &mut counter.points);
        points.for_each(|(at, _)| *at *= per_clock);
        Ok(counter)
    }
}

/// The changes of a waveform in the order of their times.
pub struct Wave {
    pins: Vec<Pin>,
}

struct Pin {
    changes: Box<dyn Iterator<Item = (u64, bool)>>,
    next: Option<(u64, bool)>,
}

impl Wave {
    /// Plays a waveform.
    ///
    /// # Errors
    /// A length or a tick that is not greater than zero, and numbers that do not fit.
    pub fn of(request: &WaveRequest) -> Result<Self> {
        let tick = request.tick.positive()?;
        let length = request.length.positive()?;
        let end = length.ratio_to(tick)?.floor();
        let end = u64::try_from(end).ok().or_overflow("length")?;
        let pins = (0..).zip(&request.lines).map(|(place, line)| {
            let mut changes = changes(line, request, place, end)?;
            let next = changes.next();
            Ok(Pin { changes, next })
        });
        Ok(Self { pins: pins.collect::<Result<_>>()? })
    }
}

impl Iterator for Wave {
    type Item = Change;

    fn next(&mut self) -> Option<Change> {
        let pins = (0_u32..).zip(&self.pins);
        let (at, signal) = pins.filter_map(|(signal, pin)| Some((pin.next?.0, signal))).min()?;
        let pin = self.pins.get_mut(signal as usize)?;
        let following = pin.changes.next();
        let (_, level) = std::mem::replace(&mut pin.next, following)?;
        Some(Change { at, signal, level: Logic::of(level) })
    }
}

/// The changes of one pin, in ticks.
fn changes(
    line: &WaveLine,
    request: &WaveRequest,
    place: u64,
    end: u64,
) -> Result<Box<dyn Iterator<Item = (u64, bool)>>> {
    let FaultInjection { jitter, seed, missing, doubled, .. } = request.rehearsal.clone();
    let per_clock = request.ticks_per_clock(line)?;
    let (numerator, denominator) =
        (per_clock.numerator().unsigned_abs(), per_clock.denominator().unsigned_abs());
    let sigma = jitter.ratio_to(request.tick)?.approx();
    let wrong = || QuantityError::NotPositive { quantity: "jitter", value: jitter.told() };
    let normal = Normal::new(0.0, sigma).ok().filter(|_| sigma >= 0.0).ok_or_else(wrong)?;
    let mut random = ChaCha8Rng::seed_from_u64(seed);
    random.set_stream(place);
    let clocks = u128::from(end).checked_mul(denominator).or_overflow("length")? / numerator.max(1);
    let period = line.period.floor().unsigned_abs();
    let edges = Spoiled { edges: line.edges(clocks), missing, doubled, period, pulse: 0, queue: Vec::new() };
    let mut last = 0;
    let timed = edges.map_while(move |(at, level)| {
        let scaled = at.checked_mul(numerator)?;
        // To the nearest tick, jitter and all.
        let part = (scaled % denominator) as f64 / denominator as f64;
        let moved = if at == 0 || sigma == 0.0 { 0.0 } else { normal.sample(&mut random) };
        let exact = i128::try_from(scaled / denominator).ok()? + (part + moved + 0.5).floor() as i128;
        let at = u64::try_from(exact.max(0)).ok()?.max(last);
        last = at;
        (at <= end).then_some((at, level))
    });
    Ok(Box::new(timed))
}

/// Edges without some pulses, and with some more.
struct Spoiled<I> {
    edges: I,
    missing: Vec<RangeInclusive<u64>>,
    doubled: Vec<RangeInclusive<u64>>,
    /// Source clocks in a period.
    period: u128,
    /// Rising edges so far.
    pulse: u64,
    /// Edges that come before the next one, last first.
    queue: Vec<(u128, bool)>,
}

impl<I: Iterator<Item = (u128, bool)>> Iterator for Spoiled<I> {
    type Item = (u128, bool);

    fn next(&mut self) -> Option<(u128, bool)> {
        if let Some(edge) = self.queue.pop() {
            return Some(edge);
        }
        loop {
            let (at, level) = self.edges.next()?;
            if !level {
                return Some((at, level));
            }
            let pulse = self.pulse;
            self.pulse += 1;
            let fall = |edges: &mut I| edges.next().map(|(fall, _)| fall);
            if is_in(&self.missing, pulse) {
                fall(&mut self.edges)?;
                continue;
            }
            if is_in(&self.doubled, pulse)
                && let Some(fall) = fall(&mut self.edges)
            {
                // Another one in the middle of what is left of the period.
                let left = (at + self.period).saturating_sub(fall);
                let (rise, end) = (fall + left * 3 / 8, fall + left * 5 / 8);
                self.queue = vec![(end, false), (rise, true), (fall, false)];
            }
            return Some((at, level));
        }
    }
}

fn is_in(runs: &[RangeInclusive<u64>], pulse: u64) -> bool {
    runs.iter().any(|run| run.contains(&pulse))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn pulses_are_left_out_and_doubled_by_their_numbers() {
        // Pulses of 200 in periods of 1000, counted from zero.
        let edges = (0..4_u128).flat_map(|n| [(n * 1000, true), (n * 1000 + 200, false)]);
        let (missing, doubled) = (vec![1..=1], vec![2..=3]);
        let spoiled = Spoiled { edges, missing, doubled, period: 1000, pulse: 0, queue: Vec::new() };
        // What is left of a period is 800: another pulse from 3/8 to 5/8 of it.
        let expected = [
            [(0, true), (200, false)],
            [(2000, true), (2200, false)],
            [(2500, true), (2700, false)],
            [(3000, true), (3200, false)],
            [(3500, true), (3700, false)],
        ];
        assert_eq!(spoiled.collect::<Vec<_>>(), expected.concat());
    }
}

//! What the usual shortcuts make of a move.

use serde::Serialize;

use super::ideal::Ideal;
use super::roots::quotient;
use crate::error::{OrOverflow, Result};
use crate::load::StepRates;
use crate::quantity::{Measured, Rational, StepRateDimension, Time};

/// A shortcut.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum Shortcut {
    /// The interval of the fastest rate, from the first step on.
    ConstantDelay,
    /// Every interval rounded to a microsecond.
    WholeMicroseconds,
    /// `c -= 2 * c / (4 * n + 1)` in floats, each interval cut off to a tick.
    FloatRecurrence,
}

/// What a shortcut makes of a move.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
pub struct NaiveRamp {
    /// The shortcut.
    pub shortcut: Shortcut,
    /// How much later than it should the last edge comes.
    pub late: Time,
    /// The rate that it asks for at once.
    pub first_rate: Measured<StepRateDimension>,
}

/// Sums up what each shortcut does, edge by edge.
#[derive(Debug)]
pub(super) struct NaiveRamps {
    tick: Time,
    /// A unit of the ideal's grid, in microseconds.
    unit: Rational,
    microseconds: u128,
    floats: FloatRecurrence,
    /// The first interval in whole microseconds.
    first: u128,
    last: u64,
    fineness: u32,
}

impl NaiveRamps {
    pub(super) fn new(ideal: &Ideal, rates: &StepRates, tick: Time) -> Result<Self> {
        let micro = Rational::whole(1_000_000).over(ideal.fineness.into()).or_overflow("tick")?;
        Ok(Self {
            tick,
            unit: tick.value().times(micro).or_overflow("tick")?,
            microseconds: 0,
            floats: FloatRecurrence::of(ideal, rates, tick),
            first: 0,
            last: 0,
            fineness: ideal.fineness,
        })
    }

    /// Takes the next edge of the ideal, by its place on the grid.
    pub(super) fn take(&mut self, edge: u64, floor: u64) -> Result<()> {
        let units = u128::from(floor - self.last);
        self.last = floor;
        let (over, parts) = (self.unit.numerator().unsigned_abs(), self.unit.denominator().unsigned_abs());
        let rounded = units.checked_mul(2 * over).and_then(|double| quotient(double + parts, 2 * parts));
        let rounded = rounded.or_overflow("interval")?;
        self.microseconds += rounded;
        if edge == 1 {
            self.first = rounded;
        }
        self.floats.step(edge);
        Ok(())
    }

    /// What each of them has come to at the last edge.
    pub(super) fn finish(self, rates: &StepRates) -> Result<Vec<NaiveRamp>> {
        let all = self.tick.value().times(self.last.into()).and_then(|time| time.over(self.fineness.into()));
        let all = all.or_overflow("time of a move")?;
        let late = |time: Rational| time.minus(all).or_overflow("time of a move").map(Time::new);
        let seconds = |micros: u128| Rational::new(i128::try_from(micros).ok()?, 1_000_000);
        let constant = Rational::from(self.floats.steps).over(rates.fastest.value());
        let micros = seconds(self.microseconds);
        let mut found = vec![
            NaiveRamp {
                shortcut: Shortcut::ConstantDelay,
                late: late(constant.or_overflow("time of a move")?)?,
                first_rate: Measured::new(rates.fastest.value().approx()),
            },
            NaiveRamp {
                shortcut: Shortcut::WholeMicroseconds,
                late: late(micros.or_overflow("time of a move")?)?,
                first_rate: Measured::new(1e6 / self.first as f64),
            },
        ];
        if rates.jerk.is_none() && rates.start < rates.fastest {
            let time = self.tick.value().times(self.floats.sum.into());
            let per_second = 1.0 / self.tick.value().approx();
            found.push(NaiveRamp {
                shortcut: Shortcut::FloatRecurrence,
                late: late(time.or_overflow("time of a move")?)?,
                first_rate: Measured::new(per_second / f64::from(self.floats.first)),
            });
        }
        Ok(found)
    }
}

/// The recurrence in floats, up and down again.
#[derive(Debug)]
struct FloatRecurrence {
    first: f32,
    interval: f32,
    fastest: f32,
    /// The number of the step in a ramp from rest.
    number: f32,
    /// How many steps it has become faster.
    climbed: u64,
    steps: u64,
    /// Ticks so far.
    sum: u64,
}

impl FloatRecurrence {
    fn of(ideal: &Ideal, rates: &StepRates, tick: Time) -> Self {
        let [start, fastest, acceleration] =
            [rates.start.value(), rates.fastest.value(), rates.acceleration.value()].map(Rational::approx);
        let per_second = 1.0 / tick.value().approx();
        // From rest its first interval is corrected by 0.676; from a start rate it goes on as if it came from rest.
        let first =
            if start > 0.0 { per_second / start } else { 0.676 * per_second * (2.0 / acceleration).sqrt() };
        Self {
            first: first as f32,
            interval: first as f32,
            fastest: (per_second / fastest) as f32,
            number: (start * start / (2.0 * acceleration)) as f32,
            climbed: 0,
            steps: ideal.steps,
            sum: 0,
        }
    }

    /// The next step: faster until the fastest rate or the middle of the way is reached, and as many slower at the end.
    fn step(&mut self, edge: u64) {
        if edge > 1 {
            let left = self.steps - edge;
            if left < self.climbed {
                self.interval += 2.0 * self.interval / (4.0 * self.number - 1.0);
                self.number -= 1.0;
            } else if left > self.climbed && self.interval > self.fastest {
                self.number += 1.0;
                self.interval -= 2.0 * self.interval / (4.0 * self.number + 1.0);
                self.climbed += 1;
            }
        }
        self.sum += self.interval.max(self.fastest) as u64;
    }
}

//! A ramp whose acceleration grows and falls by the same amount each second, an S-curve: every edge, rounded down on a grid of
//! time.
//!
//! The ideal is chosen so that every phase lasts whole units of the grid: each is rounded up, and rate, acceleration and jerk
//! come out as much lower as the way then needs. So position is a polynomial with whole coefficients, and an edge is the last
//! unit at which it is no further than the edge's number: found by a float, decided by whole numbers.

use super::roots::root;
use crate::load::StepRates;
use crate::quantity::{Rational, StepJerk, Time};

/// How finely a peak below the fastest rate is searched, once it is known to within a factor of two.
const PEAK_PARTS: u32 = 1 << 20;

/// What becomes of a way.
#[derive(Debug, Clone, PartialEq)]
pub(super) enum SmoothWay {
    /// A ramp.
    Ramp(Box<SmoothRamp>),
    /// It is too short to leave the start rate.
    Steady,
}

/// An S-shaped ramp up, a run, and the same ramp down.
#[derive(Debug, Clone, PartialEq)]
pub(super) struct SmoothRamp {
    /// Edges in all.
    steps: u64,
    /// Growing acceleration, steady acceleration, falling acceleration, run.
    phases: [RampPhase; 4],
    /// The denominator of all positions.
    scale: i128,
    /// Units of the grid from the start to the last edge.
    end: u128,
    /// The rate of the run, in steps a unit.
    peak: Rational,
}

/// A part of a ramp in which position is one polynomial.
#[derive(Debug, Clone, Copy, PartialEq)]
struct RampPhase {
    /// When it begins, in units of the grid.
    from: u64,
    /// How long it lasts.
    length: u64,
    /// Position, rate, half the acceleration and a sixth of the jerk at its start, times `scale`.
    terms: [i128; 4],
}

/// How long phases last.
#[derive(Debug, Clone, Copy, PartialEq)]
struct Lengths {
    /// That in which acceleration grows, and that in which it falls.
    jerk: u64,
    /// That of steady acceleration.
    steady: u64,
}

impl Lengths {
    /// From the start rate to another, on a grid of `unit`.
    fn of(difference: Rational, rates: &StepRates, jerk: StepJerk, unit: Rational) -> Option<Self> {
        let (acceleration, jerk) = (rates.acceleration.value(), jerk.value());
        let units = |time: Rational| u64::try_from(time.over(unit)?.ceiling()).ok();
        let full = acceleration.over(jerk)?;
        let all = difference.over(acceleration)?;
        if all >= full {
            return Some(Self { jerk: units(full)?, steady: units(all.minus(full)?)? });
        }
        // The acceleration is not reached.
        let square = difference.over(jerk)?.over(unit)?.over(unit)?;
        let least = u128::try_from(square.ceiling()).ok()?;
        let down = root(least);
        let up = down + u128::from(down * down < least);
        Some(Self { jerk: up.try_into().ok()?, steady: 0 })
    }

    const fn all(self) -> u64 {
        2 * self.jerk + self.steady
    }
}

impl SmoothRamp {
    /// The ramp on a grid of `unit`; `None` where a number does not fit.
    pub(super) fn of(steps: u64, rates: &StepRates, jerk: StepJerk, unit: Time) -> Option<SmoothWay> {
        let unit = unit.value();
        let start = rates.start.value().times(unit)?;
        let most = rates.fastest.value().minus(rates.start.value())?;
        let lengths = |difference: Rational| Lengths::of(difference, rates, jerk, unit);
        let way = |difference: Rational| {
            // Up and down again: the mean rate for twice the time.
            let rate = start.plus(start)?.plus(difference.times(unit)?)?;
            rate.times(lengths(difference)?.all().into())
        };
        let all = Rational::from(steps);
        let difference = if way(most)? <= all {
            most
        } else {
            let mut most = most;
            loop {
                let half = most.over(Rational::whole(2))?;
                if way(half)? <= all || lengths(half)?.all() == 0 {
                    break;
                }
                most = half;
            }
            let share = |parts: u32| most.times(Rational::new(parts.into(), PEAK_PARTS.into())?);
            let (mut fits, mut too_far) = (0, PEAK_PARTS);
            while fits + 1 < too_far {
                let middle = u32::midpoint(fits, too_far);
                let reached = way(share(middle)?)? <= all;
                *(if reached { &mut fits } else { &mut too_far }) = middle;
            }
            share(fits)?
        };
        let lengths = lengths(difference)?;
        if lengths.jerk == 0 {
            return Some(SmoothWay::Steady);
        }
        let up = lengths.all();
        let top = start.plus(difference.times(unit)?)?;
        let run = u64::try_from(all.minus(way(difference)?)?.over(top)?.ceiling()).ok()?;
        let end = up.checked_mul(2)?.checked_add(run)?;
        // What is left of the difference once every phase is as long as whole units make it.
        let left = all.minus(start.times(end.into())?)?;
        let gained = left.over((up.checked_add(run)?).into())?;
        if !gained.is_positive() {
            return Some(SmoothWay::Steady);
        }
        let growing = Rational::from(lengths.jerk + lengths.steady);
        let acceleration = gained.over(growing)?;
        let jerk = acceleration.over(lengths.jerk.into())?;
        Self::with(steps, [start, acceleration, jerk], lengths, run, end.into())
            .map(|ramp| SmoothWay::Ramp(Box::new(ramp)))
    }

    fn with(
        steps: u64,
        [start, acceleration, jerk]: [Rational; 3],
        lengths: Lengths,
        run: u64,
        end: u128,
    ) -> Option<Self> {
        let half = |value: Rational| value.over(Rational::whole(2));
        let sixth = jerk.over(Rational::whole(6))?;
        let opposite = sixth.times(Rational::whole(-1))?;
        let mut terms = [[Rational::ZERO, start, Rational::ZERO, sixth]; 4];
        let durations = [lengths.jerk, lengths.steady, lengths.jerk, run];
        for (phase, length) in durations.iter().enumerate().take(3) {
            let [position, rate, ..] = *terms.get(phase)?;
            let (half_acceleration, third) = match phase {
                0 => (Rational::ZERO, sixth),
                1 => (half(acceleration)?, Rational::ZERO),
                _ => (half(acceleration)?, opposite),
            };
            let own = [position, rate, half_acceleration, third];
            *terms.get_mut(phase)? = own;
            let time = Rational::from(*length);
            let after = [value(own, time)?, slope(own, time)?, Rational::ZERO, Rational::ZERO];
            *terms.get_mut(phase + 1)? = after;
        }
        let scale = terms.iter().flatten().try_fold(1_i128, |scale, term| {
            let part = term.denominator();
            scale.checked_mul(part / num_integer::gcd(scale, part))
        })?;
        let whole = |term: Rational| term.numerator().checked_mul(scale / term.denominator());
        let mut phases = Vec::new();
        let mut from = 0;
        for (own, length) in terms.into_iter().zip(durations) {
            let [a, b, c, d] = own;
            phases.push(RampPhase { from, length, terms: [whole(a)?, whole(b)?, whole(c)?, whole(d)?] });
            from += length;
        }
        let peak = terms.last().map(|[_, rate, ..]| *rate)?;
        let ramp = Self { steps, phases: phases.try_into().ok()?, scale, end, peak };
        // The largest numbers come at the ends of phases.
        for phase in &ramp.phases {
            phase.at(phase.length.into())?;
        }
        i128::from(steps).checked_mul(scale)?;
        Some(ramp)
    }

    /// The last edge on the way up.
    pub(super) fn up(&self) -> u64 {
        let [.., run] = &self.phases;
        run.terms.first().map_or(0, |position| u64::try_from(position / self.scale).unwrap_or(0))
    }

    /// The rate of the run, in steps a unit of the grid.
    pub(super) const fn peak(&self) -> Rational {
        self.peak
    }

    /// When an edge comes, rounded down to the grid; edge zero is the start.
    pub(super) fn floor(&self, edge: u64) -> Option<u128> {
        let left = self.steps.checked_sub(edge)?;
        if edge <= left || left > self.up() {
            return self.on_the_way_up(edge).map(|(time, _)| time);
        }
        let (time, is_exact) = self.on_the_way_up(left)?;
        self.end.checked_sub(time)?.checked_sub(u128::from(!is_exact))
    }

    /// The last unit at which the position is no further than an edge of the way up or of the run, and whether it is
    /// right there.
    fn on_the_way_up(&self, edge: u64) -> Option<(u128, bool)> {
        let wanted = i128::from(edge).checked_mul(self.scale)?;
        let phase = self
            .phases
            .iter()
            .rev()
            .find(|phase| phase.terms.first().is_some_and(|start| *start <= wanted))?;
        let near = phase.near(wanted);
        let mut low = near;
        let mut step = 1;
        while low > 0 && phase.at(low)? > wanted {
            low = (low - step).max(0);
            step *= 2;
        }
        let (mut high, mut step) = (near.max(low) + 1, 1);
        while phase.at(high)? <= wanted {
            low = high;
            high += step;
            step *= 2;
        }
        while low + 1 < high {
            let middle = i128::midpoint(low, high);
            *(if phase.at(middle)? <= wanted { &mut low } else { &mut high }) = middle;
        }
        let time = u128::from(phase.from).checked_add(u128::try_from(low).ok()?)?;
        Some((time, phase.at(low)? == wanted))
    }
}

impl RampPhase {
    /// The position after so many units of the phase, times `scale`.
    fn at(&self, time: i128) -> Option<i128> {
        let [position, rate, half, sixth] = self.terms;
        let mut sum = sixth;
        for term in [half, rate, position] {
            sum = sum.checked_mul(time)?.checked_add(term)?;
        }
        Some(sum)
    }

    /// About when a position is reached: a few of Newton's steps in floats, from where each phase leads towards it.
    fn near(&self, wanted: i128) -> i128 {
        let [position, rate, half, sixth] = self.terms.map(|term| term as f64);
        let far = wanted as f64 - position;
        let mut time = if sixth > 0.0 {
            (far / sixth).cbrt()
        } else if half > 0.0 {
            (rate.mul_add(rate, 4.0 * half * far).sqrt() - rate) / (2.0 * half)
        } else {
            far / rate
        };
        for _ in 0..6 {
            let value = sixth.mul_add(time, half).mul_add(time, rate) * time - far;
            let slope = (3.0 * sixth).mul_add(time, 2.0 * half).mul_add(time, rate);
            if slope > 0.0 {
                time -= value / slope;
            }
        }
        (time.max(0.0) as i128).min(self.length.into())
    }
}

/// A polynomial's value.
fn value(terms: [Rational; 4], time: Rational) -> Option<Rational> {
    terms.iter().rev().try_fold(Rational::ZERO, |sum, term| sum.times(time)?.plus(*term))
}

/// A polynomial's slope.
fn slope([_, rate, half, sixth]: [Rational; 4], time: Rational) -> Option<Rational> {
    let terms = [rate, half.times(Rational::whole(2))?, sixth.times(Rational::whole(3))?, Rational::ZERO];
    value(terms, time)
}

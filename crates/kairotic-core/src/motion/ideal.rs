//! The ideal motion: when each edge would come if time had no steps.

use super::linear_ramp::{LinearRamp, climb};
use super::ramp_shape::RampShape;
use super::smooth_ramp::{SmoothRamp, SmoothWay};
use crate::error::{OrOverflow, Result};
use crate::load::StepRates;
use crate::quantity::{Measured, Rational, StepRate, StepRateDimension, Time};

/// Units of the grid in a tick, at most: edges are known this finely, and rounded to ticks from there.
const FINEST: u32 = 1024;

/// The ideal motion on a grid that is finer than a tick.
#[derive(Debug, Clone, PartialEq)]
pub(super) struct Ideal {
    /// Edges in all.
    pub(super) steps: u64,
    /// Units of the grid in a tick: a power of two.
    pub(super) fineness: u32,
    /// The length of a unit.
    unit: Time,
    /// The rates that the ramp has: on a way too short for an S-curve the start rate alone.
    rates: StepRates,
    ramp: Ramp,
}

/// How the rate changes.
#[derive(Debug, Clone, PartialEq)]
enum Ramp {
    Linear(LinearRamp),
    Smooth(Box<SmoothRamp>),
}

impl Ideal {
    /// The motion for ticks of some length, on the finest grid whose numbers fit.
    ///
    /// # Errors
    /// Numbers that do not fit on any grid.
    pub(super) fn of(steps: u64, rates: &StepRates, tick: Time) -> Result<Self> {
        let mut fineness = FINEST;
        loop {
            let unit = tick.times(Rational::new(1, fineness.into()).or_overflow("tick")?)?;
            if let Some((ramp, rates)) = Ramp::of(steps, rates, unit) {
                return Ok(Self { steps, fineness, unit, rates, ramp });
            }
            fineness /= 4;
            if fineness < 4 {
                return Err(crate::quantity::QuantityError::Overflow { quantity: "time of an edge" }.into());
            }
        }
    }

    /// When an edge comes, rounded down to the grid; edge zero is the start.
    ///
    /// # Errors
    /// Numbers that do not fit.
    pub(super) fn floor(&self, edge: u64) -> Result<u64> {
        let time = match &self.ramp {
            Ramp::Linear(ramp) => ramp.floor(edge),
            Ramp::Smooth(ramp) => ramp.floor(edge),
        };
        time.and_then(|time| u64::try_from(time).ok()).or_overflow("time of an edge")
    }

    /// The tick that is nearest to an edge; halves go to the later one.
    pub(super) fn nearest(&self, floor: u64) -> u64 {
        // As many units as the tick has are whole, so that rounding down first loses nothing; they are a power of two.
        (floor + u64::from(self.fineness / 2)) >> self.fineness.trailing_zeros()
    }

    /// The last edge on the way up.
    pub(super) fn up(&self) -> u64 {
        let up = match &self.ramp {
            Ramp::Linear(ramp) => ramp.up(),
            Ramp::Smooth(ramp) => ramp.up(),
        };
        up.min(self.steps / 2)
    }

    /// How many steps of the way up the way down repeats: where both meet, one less, so that the intervals in the middle can
    /// make up for what is rounded twice.
    pub(super) fn climb(&self) -> u64 {
        self.up().min(self.steps.saturating_sub(1) / 2)
    }

    /// The ticks from each of the first so many edges to the next, each edge at the tick that is nearest to it.
    pub(super) fn intervals(&self, edges: u64) -> impl Iterator<Item = Result<u64>> + '_ {
        let mut last = 0;
        (1..=edges).map(move |edge| {
            let tick = self.nearest(self.floor(edge)?);
            Ok(tick - std::mem::replace(&mut last, tick))
        })
    }

    /// How the rate changes.
    ///
    /// # Errors
    /// Numbers that do not fit.
    pub(super) fn shape(&self) -> Result<RampShape> {
        Ok(match self.ramp {
            Ramp::Smooth(_) => RampShape::SCurve,
            Ramp::Linear(_) if self.rates.start == self.rates.fastest => RampShape::Steady,
            Ramp::Linear(_) if self.climbs_whole()? => RampShape::Trapezoid,
            Ramp::Linear(_) => RampShape::Triangle,
        })
    }

    /// Whether the fastest rate is reached.
    fn climbs_whole(&self) -> Result<bool> {
        let climb = climb(&self.rates).or_overflow("steps of a ramp")?;
        Ok(climb.times(Rational::whole(2)).or_overflow("steps of a ramp")? <= self.steps.into())
    }

    /// The rate in the middle of the way.
    ///
    /// # Errors
    /// Numbers that do not fit.
    pub(super) fn top_rate(&self) -> Result<Measured<StepRateDimension>> {
        let rates = &self.rates;
        let rate = match &self.ramp {
            Ramp::Smooth(ramp) => {
                StepRate::new(ramp.peak().over(self.unit.value()).or_overflow("step rate")?)
            }
            Ramp::Linear(_) if self.climbs_whole()? => rates.fastest,
            Ramp::Linear(_) => {
                let start = rates.start.value().approx();
                let gained = rates.acceleration.value().approx() * self.steps as f64;
                return Ok(Measured::new(start.mul_add(start, gained).sqrt()));
            }
        };
        Ok(Measured::new(rate.value().approx()))
    }
}

impl Ramp {
    /// The ramp with the rates that it has.
    fn of(steps: u64, rates: &StepRates, unit: Time) -> Option<(Self, StepRates)> {
        let linear = |rates: StepRates| Some((Self::Linear(LinearRamp::of(steps, &rates, unit)?), rates));
        let Some(jerk) = rates.jerk.filter(|_| rates.start < rates.fastest) else { return linear(*rates) };
        match SmoothRamp::of(steps, rates, jerk, unit)? {
            SmoothWay::Ramp(ramp) => Some((Self::Smooth(ramp), *rates)),
            SmoothWay::Steady => linear(StepRates { fastest: rates.start, jerk: None, ..*rates }),
        }
    }
}

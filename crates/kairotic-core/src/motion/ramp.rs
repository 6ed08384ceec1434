//! A ramp in ticks: the ways for firmware to make it, each run over every edge and held against the ideal.

use serde::Serialize;

use super::climb::Climb;
use super::deviation::{Deviations, EdgeDeviation};
use super::ideal::Ideal;
use super::naive::{NaiveRamp, NaiveRamps};
use super::ramp_shape::RampShape;
use super::walk::Walk;
use crate::error::{Error, OrOverflow, Result};
use crate::load::StepRates;
use crate::quantity::{Measured, Rational, StepRateDimension, Time, TimeDimension};

/// What a root for each step is worth in bytes of a table: the time that it takes, set against the room that the table takes.
const ROOT_IN_BYTES: u64 = 512;

/// What is wanted of a ramp.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct RampRequest {
    /// Steps to make.
    pub steps: u64,
    /// How fast.
    pub rates: StepRates,
    /// A counter tick.
    pub tick: Time,
    /// How far an edge may be off the ideal, in ticks.
    pub most: Rational,
}

/// A ramp up, a run, and a ramp down.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct StepRamp {
    /// Edges.
    pub steps: u64,
    /// How the rate changes over the move.
    pub shape: RampShape,
    /// How long it would take if time had no steps.
    pub ideal_time: Measured<TimeDimension>,
    /// The rate in the middle.
    pub top_rate: Measured<StepRateDimension>,
    /// Steps of the way up, and of the way down.
    pub climb: u64,
    /// A counter tick.
    pub tick: Time,
    /// The longest interval, in ticks.
    pub slowest: u64,
    /// The shortest.
    pub fastest: u64,
    /// The edges at the ticks nearest to the ideal.
    pub nearest: EdgeDeviation,
    /// Ways for firmware to make it, the one to take first.
    pub ways: Vec<RampWay>,
    /// How far an edge may be off, in ticks.
    pub most: Rational,
    /// Whether the first of the ways keeps to that.
    pub met: bool,
    /// What shortcuts make of it.
    pub naive: Vec<NaiveRamp>,
    #[serde(skip)]
    ideal: Ideal,
}

/// A way for firmware to make a move.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct RampWay {
    /// The intervals.
    pub walk: Walk,
    /// Bytes of data.
    pub bytes: u64,
    /// How far its edges are off the ideal: all of them were looked at.
    pub deviation: EdgeDeviation,
    /// How long it takes, in ticks.
    pub ticks: u64,
}

/// A way on its way.
struct Walking<'w> {
    intervals: Box<dyn Iterator<Item = u64> + 'w>,
    at: u64,
    shortest: u64,
    off: Deviations,
}

impl StepRamp {
    /// The ramp with every way to make it, each proved by running it.
    ///
    /// # Errors
    /// As [`StepRates::checked`]; [`Error::NoMove`] for no steps; numbers that do not fit.
    pub fn of(request: &RampRequest) -> Result<Self> {
        let RampRequest { steps, tick, most, .. } = *request;
        let rates = request.rates.checked()?;
        if steps == 0 {
            return Err(Error::NoMove { why: "the way is shorter than half a step".to_owned() });
        }
        tick.positive()?;
        let ideal = Ideal::of(steps, &rates, tick)?;
        let climb = ideal.climb();
        let climbs = [
            Climb::plateaus(&ideal, climb, most)?,
            Climb::table(&ideal, climb)?,
            Climb::root(&rates, climb, tick),
        ];
        let mut walks = Vec::new();
        for climb in climbs.into_iter().flatten() {
            walks.push(Walk::ramped(&ideal, Some(climb))?);
        }
        if climb == 0 {
            walks.push(Walk::ramped(&ideal, None)?);
        }
        walks.extend(Walk::listed(&ideal)?);

        let mut walking: Vec<Walking<'_>> = walks
            .iter()
            .map(|walk| Walking {
                intervals: walk.intervals(),
                at: 0,
                shortest: u64::MAX,
                off: Deviations::on(ideal.fineness),
            })
            .collect();
        let mut naive = NaiveRamps::new(&ideal, &rates, tick)?;
        let mut nearest = Deviations::on(ideal.fineness);
        let (mut last, mut slowest, mut fastest) = (0, 0, u64::MAX);
        for edge in 1..=steps {
            let floor = ideal.floor(edge)?;
            for way in &mut walking {
                let interval = way.intervals.next().unwrap_or(0);
                way.at += interval;
                way.shortest = way.shortest.min(interval);
                way.off.take(edge, way.at, floor);
            }
            naive.take(edge, floor)?;
            let at = ideal.nearest(floor);
            nearest.take(edge, at, floor);
            let interval = at - std::mem::replace(&mut last, at);
            (slowest, fastest) = (slowest.max(interval), fastest.min(interval));
        }
        let held: Vec<_> = walking.iter().map(|way| (way.off.worst(), way.at, way.shortest)).collect();
        drop(walking);
        let mut ways: Vec<RampWay> = walks
            .into_iter()
            .zip(held)
            // Two steps on one tick are none that a counter makes.
            .filter(|(_, (_, _, shortest))| *shortest > 0)
            .map(|(walk, (deviation, ticks, _))| RampWay { bytes: walk.bytes(), walk, deviation, ticks })
            .collect();
        if fastest == 0 || ways.is_empty() {
            let step = Rational::ONE.over(rates.fastest.value());
            let step = Time::new(step.or_overflow("fastest step")?);
            return Err(Error::StepTooShort { step, least: tick });
        }
        ways.sort_by_key(|way| {
            let is_root = matches!(way.walk, Walk::Ramped { climb: Some(Climb::Root(_)), .. });
            match way.deviation.ticks <= most {
                true => (false, Rational::from(way.bytes + if is_root { ROOT_IN_BYTES } else { 0 })),
                false => (true, way.deviation.ticks),
            }
        });
        let met = ways.first().is_some_and(|way| way.deviation.ticks <= most);
        let unit = tick.value().approx() / f64::from(ideal.fineness);
        Ok(Self {
            steps,
            shape: ideal.shape()?,
            ideal_time: Measured::new(ideal.floor(steps)? as f64 * unit),
            top_rate: ideal.top_rate()?,
            climb: ideal.up(),
            tick,
            slowest,
            fastest,
            nearest: nearest.worst(),
            ways,
            most,
            met,
            naive: naive.finish(&rates)?,
            ideal,
        })
    }

    /// So many ticks as a time.
    ///
    /// # Errors
    /// A number that does not fit.
    pub fn time_of(&self, ticks: u64) -> Result<Time> {
        Ok(self.tick.times(ticks.into())?)
    }

    /// The tick of an edge, counted from one on: the one that is nearest to the ideal.
    ///
    /// # Errors
    /// A number that does not fit.
    pub fn tick_of(&self, number: u64) -> Result<u64> {
        Ok(self.ideal.nearest(self.ideal.floor(number)?))
    }

    /// The ticks of every edge, each nearest to the ideal, with how far each is off in ticks.
    pub fn edges(&self) -> impl Iterator<Item = Result<StepEdge>> + '_ {
        let mut last = 0;
        (1..=self.steps).map(move |number| {
            let floor = self.ideal.floor(number)?;
            let tick = self.ideal.nearest(floor);
            let fineness = self.ideal.fineness;
            let off = (i128::from(tick) * i128::from(fineness)) - i128::from(floor);
            let interval = tick - std::mem::replace(&mut last, tick);
            Ok(StepEdge { number, tick, interval, off: off as f64 / f64::from(fineness) })
        })
    }
}

/// An edge of a move.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
pub struct StepEdge {
    /// Its number, from one on.
    pub number: u64,
    /// When it comes, in ticks from the start.
    pub tick: u64,
    /// Ticks since the one before, or since the start.
    pub interval: u64,
    /// How much later than the ideal it is, in ticks.
    pub off: f64,
}

//! The observations of a calibration, on which each kind finds its numbers.

use serde::Serialize;

pub(super) use super::line_fit::Through;
use super::line_fit::{FittedLine, LineFit};
use super::observed::ObservedValue;
use super::{Kind, Realised};
use crate::error::{Error, Result};
use crate::finding::{EndOutsideDuty, Finding, LineDoesNotFit};
use crate::quantity::{Duty, Range, Rational, Time};

/// What a load was given, and what was seen of it.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
pub struct Observation {
    /// What it was given.
    pub given: Realised,
    /// What was seen.
    pub reading: ObservedValue,
}

/// What became of an observation.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum Taken {
    /// It is one of those that the line goes through.
    Fitted,
    /// It is far from the others, and left out.
    Far,
    /// The load stands, which says nothing of how fast it turns.
    Standing,
}

/// An observation next to the line.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
pub struct CalibrationPoint {
    /// The observation.
    pub observation: Observation,
    /// What the line has there; nothing where the load stands.
    pub line: Option<ObservedValue>,
    /// Whether the line heeds it.
    pub taken: Taken,
}

/// What a kind finds.
#[derive(Debug)]
pub struct Calibrated {
    /// The load with the numbers that were found.
    pub(super) load: Kind,
    /// The pulses between which it stands, where it goes both ways.
    pub(super) dead_zone: Option<Range<Time>>,
}

impl<K: Into<Kind>> From<K> for Calibrated {
    fn from(load: K) -> Self {
        Self { load: load.into(), dead_zone: None }
    }
}

pub(super) fn refused(why: &str) -> Error {
    Error::NoCalibration { why: why.to_owned() }
}

/// The observations, with what is found on the way.
#[derive(Debug)]
pub struct Sheet {
    pub(super) points: Vec<CalibrationPoint>,
    pub(super) findings: Vec<Finding>,
}

impl Sheet {
    /// An undirected load says nothing of the direction that it was seen to turn in.
    pub(super) fn of(observations: &[Observation], undirected: bool) -> Result<Self> {
        let mut points = Vec::new();
        for one in observations {
            if !(Rational::ZERO..=Rational::ONE).contains(&one.given.duty.value()) {
                let duty = one.given.duty.rounded(5);
                return Err(refused(&format!("something was given that is {duty} of the signal's period")));
            }
            let unit = std::mem::discriminant(&one.reading);
            if observations.first().is_some_and(|first| std::mem::discriminant(&first.reading) != unit) {
                return Err(refused("what was seen is not all in one unit"));
            }
            // A motor's direction is no part of its duty; without any there is no direction.
            let seen = one.reading.value();
            let directed = undirected && one.given.duty.value().is_positive();
            let seen = if directed { seen.magnitude() } else { seen };
            let observation = Observation { reading: one.reading.with(seen), ..*one };
            points.push(CalibrationPoint { observation, line: None, taken: Taken::Standing });
        }
        Ok(Self { points, findings: Vec::new() })
    }

    /// The line of what was seen against what was given, through those whose readings are of a kind.
    pub(super) fn line(
        &mut self,
        given: impl Fn(Realised) -> Rational,
        of: impl Fn(Rational) -> bool,
        through: Through,
    ) -> Result<FittedLine> {
        let chosen = |point: &&mut CalibrationPoint| of(point.observation.reading.value());
        let mut chosen: Vec<&mut CalibrationPoint> = self.points.iter_mut().filter(chosen).collect();
        let pair =
            |point: &CalibrationPoint| (given(point.observation.given), point.observation.reading.value());
        let pairs: Vec<(Rational, Rational)> = chosen.iter().map(|point| pair(point)).collect();
        let fit = LineFit::of(&pairs, through)?;
        for (point, far) in chosen.iter_mut().zip(&fit.far) {
            let reading = point.observation.reading;
            point.line = Some(reading.with(fit.line.at(given(point.observation.given))?));
            point.taken = if *far { Taken::Far } else { Taken::Fitted };
        }
        let reading = chosen.first().map(|point| point.observation.reading);
        if let Some(reading) = reading.filter(|_| fit.miss > fit.near) {
            let figure = |value: Rational| reading.with(value).figure();
            self.findings.push(LineDoesNotFit { furthest: figure(fit.miss), limit: figure(fit.near) }.into());
        }
        Ok(fit.line)
    }

    /// As [`Sheet::line`], where more always makes more.
    pub(super) fn rising(
        &mut self,
        given: impl Fn(Realised) -> Rational,
        of: impl Fn(Rational) -> bool,
        through: Through,
    ) -> Result<FittedLine> {
        let line = self.line(given, of, through)?;
        if line.slope.is_positive() {
            return Ok(line);
        }
        Err(refused("what was seen falls where the pulse or duty rises"))
    }

    /// What full speed is in the unit of the readings: of those on one side of zero the furthest, unless they are
    /// shares of it already.
    pub(super) fn full(&self, forward: bool) -> Rational {
        let sign = Rational::whole(if forward { 1 } else { -1 });
        let readings = self.points.iter().filter(|point| point.taken == Taken::Fitted);
        let readings = readings.map(|point| point.observation.reading);
        let seen = readings.filter(|reading| reading.value().is_positive() == forward);
        let full = |reading: ObservedValue| match reading {
            ObservedValue::Level(_) => sign,
            _ => reading.value(),
        };
        seen.map(full).max_by_key(|value| value.magnitude()).unwrap_or(sign)
    }

    /// The largest that was given while the load stood.
    pub(super) fn standing(&self, given: impl Fn(Realised) -> Rational) -> Option<Rational> {
        let standing = self.points.iter().filter(|point| point.taken == Taken::Standing);
        standing.map(|point| given(point.observation.given)).max()
    }

    /// The least duty that turned the load.
    pub(super) fn least_turning(&self) -> Option<Duty> {
        let turning = self.points.iter().filter(|point| point.taken == Taken::Fitted);
        turning.map(|point| point.observation.given.duty).min()
    }

    /// Everything that was seen, in base units.
    pub(super) fn readings(&self) -> impl Iterator<Item = Rational> {
        self.points.iter().map(|point| point.observation.reading.value())
    }

    /// Whether everything that was seen is of a kind.
    pub(super) fn all(&self, is: impl Fn(ObservedValue) -> bool) -> bool {
        self.points.iter().all(|point| is(point.observation.reading))
    }

    /// A duty for a key of the board file; where the line leaves what a duty can be, its nearest end.
    pub(super) fn duty(&mut self, key: &'static str, found: Rational) -> Duty {
        let inside = found.max(Rational::ZERO).min(Rational::ONE);
        if inside != found {
            let (found, inside) = (Duty::new(found), Duty::new(inside));
            self.findings.push(EndOutsideDuty { key: key.to_owned(), found, inside }.into());
        }
        Duty::new(inside)
    }
}

pub(super) fn pulse(given: Realised) -> Rational {
    given.pulse.value()
}

pub(super) fn duty(given: Realised) -> Rational {
    given.duty.value()
}

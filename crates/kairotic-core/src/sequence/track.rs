//! The compare values of a signal over its periods: a level that changes, as a timer makes it.

use std::ops::Range;

use serde::Serialize;

use super::compare_line::{CompareLine, ExactCompare};
use super::leg::{Leg, LegCause};
use super::setpoint::Setpoint;
use super::step::LevelShape;
use crate::error::{Error, OrOverflow, Result};
use crate::limits;
use crate::load::{Kind, LoadKind, Realised};
use crate::quantity::{Rational, Time};
use crate::search::DerivedSignal;
use crate::setting::CompareScale;
use crate::target::Active;

/// The compare values of a signal over its periods.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct LevelTrack {
    /// The signal.
    pub signal: String,
    /// The timer and channel.
    pub on: String,
    /// The channel alone.
    pub channel: String,
    /// What the level measures.
    pub measures: &'static str,
    /// A period of the signal.
    pub period: Time,
    /// Its ways, each with its stay at the end.
    pub ways: Vec<TrackWay>,
    /// Its compare values, one after the other: each is another than the one before, but where all steps begin anew.
    pub holds: Vec<LevelHold>,
    /// How many of them all steps make once, where they make the same ones each time.
    pub each_pass: Option<usize>,
    /// How often all steps are made.
    pub passes: u32,
    /// Periods in all.
    pub periods: u64,
    /// The longest time that one compare value stays.
    pub longest: Time,
    /// The shortest time between two writes of the compare register.
    pub shortest: Time,
    /// How far a compare value is off the exact one of its level, at most.
    pub rounding: Rational,
    /// Whether some levels turn the load the other way.
    pub reverses: bool,
}

/// A way of a signal, as a timer makes it.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct TrackWay {
    /// The step that it belongs to, from one on.
    pub step: usize,
    /// Which time all steps are made, from one on.
    pub pass: u32,
    /// Why it is made.
    pub cause: LegCause,
    /// When it should begin, from the beginning of the sequence.
    pub at: Time,
    /// When it begins: a whole number of periods from there.
    pub begins: Time,
    /// Where it begins.
    pub from: Setpoint,
    /// Where it ends.
    pub to: Setpoint,
    /// How long it takes: a whole number of periods.
    pub over: Time,
    /// How long it stays at the end.
    pub hold: Time,
    /// How the level changes.
    pub shape: LevelShape,
    /// Levels of the way that are asked for.
    pub asked: Option<u32>,
    /// Compare values of the way.
    pub levels: usize,
    /// The longest of them on the way.
    pub longest: Time,
    /// Periods of the way and the stay.
    pub periods: u64,
    /// How long the way and the stay should take.
    pub wanted: Time,
    /// Whether nothing comes after it.
    pub is_last: bool,
    /// Whether the load turns the other way.
    pub backward: bool,
}

/// A compare value that stays for some periods.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
pub struct LevelHold {
    /// The way that it belongs to, from zero on.
    pub way: usize,
    /// The period in which it begins.
    pub begins: u64,
    /// For how many periods it stays.
    pub periods: u64,
    /// The compare value.
    pub compare: u64,
    /// Whether the load turns the other way.
    pub backward: bool,
    /// The level that the compare value makes, its sign the direction; the duty without a load.
    pub level: Setpoint,
}

/// What a level that changes is made with.
pub(super) struct TrackMaker<'m> {
    pub(super) load: Option<&'m Kind>,
    pub(super) scale: CompareScale<'m>,
    pub(super) period: Time,
    name: &'m str,
    on: String,
    channel: String,
    holds: Vec<LevelHold>,
    ways: Vec<TrackWay>,
    /// Holds before each time that all steps are made.
    starts: Vec<usize>,
    rounding: Rational,
}

impl<'m> TrackMaker<'m> {
    pub(super) fn of(signal: &'m DerivedSignal<'_>) -> Result<Self> {
        let (spec, derivation) = (&signal.spec, &signal.derivation);
        let setting = &derivation.best.setting;
        let timer = &derivation.timer;
        let named = spec.target.channel.as_deref();
        let used = setting.outputs.first().map(|output| output.channel.as_str());
        let mode = timer.mode(&setting.plan.mode)?;
        let free = || timer.free_channels(mode).next().map(|channel| channel.label.as_str());
        let nothing = || Error::NoPlace { signal: spec.name.clone() };
        let channel = named.or(used).or_else(free).ok_or_else(nothing)?;
        Ok(Self {
            load: spec.load.as_ref().map(|load| &load.kind),
            scale: setting.compare_scale(timer, channel)?,
            period: setting.period,
            name: &spec.name,
            on: format!("{}/{channel}", timer.path()),
            channel: channel.to_owned(),
            holds: Vec::new(),
            ways: Vec::new(),
            starts: Vec::new(),
            rounding: Rational::ZERO,
        })
    }

    /// The track of some legs, from the beginning of a sequence to its end.
    pub(super) fn track(
        mut self,
        start: Option<Setpoint>,
        legs: &[Leg],
        passes: u32,
        length: Time,
    ) -> Result<LevelTrack> {
        let end = self.nearest_period(length)?;
        let first = legs.first().map_or(Ok(end), |leg| self.nearest_period(leg.begins))?;
        if let Some(start) = start.filter(|_| first > 0) {
            // Until its first step it stays where it is.
            let backward = self.load.is_some_and(Kind::is_undirected) && start.value() < Rational::ZERO;
            let compare = self.compare(start)?;
            self.push(0, 0..first, compare, backward, true)?;
        }
        let mut pass = None;
        for (index, leg) in legs.iter().enumerate() {
            let begins = self.nearest_period(leg.begins)?;
            let next = match legs.get(index + 1) {
                Some(next) => self.nearest_period(next.begins)?,
                // Where it ends as soon as it is there, it stays.
                None => end.max(begins + 1),
            };
            if pass.replace(leg.pass) != Some(leg.pass) {
                self.starts.push(if leg.pass == 0 { 0 } else { self.holds.len() });
            }
            self.leg(index, leg, begins, next)?;
            let levels = self.holds.len() as u64;
            if limits::SEQUENCE_LEVELS.is_below(levels) {
                let said = limits::SEQUENCE_LEVELS.refusal(&format!("`{}` has", self.name), levels);
                return Err(Error::TooManySteps { said });
            }
        }
        self.ways.last_mut().into_iter().for_each(|way| way.is_last = true);
        let stays = || self.holds.iter().map(|hold| hold.periods);
        let (longest, shortest) = (stays().max().unwrap_or(0), stays().min().unwrap_or(0));
        Ok(LevelTrack {
            signal: self.name.to_owned(),
            each_pass: self.each_pass(passes),
            passes,
            periods: self.holds.last().map_or(end, |last| last.begins + last.periods),
            longest: self.time_of(longest)?,
            shortest: self.time_of(shortest)?,
            rounding: self.rounding,
            reverses: self.holds.iter().any(|hold| hold.backward),
            measures: self.load.map_or("duty", Kind::measures),
            on: self.on,
            channel: self.channel,
            period: self.period,
            ways: self.ways,
            holds: self.holds,
        })
    }

    fn leg(&mut self, way: usize, leg: &Leg, begins: u64, next: u64) -> Result<()> {
        let arrives = self.nearest_period(leg.arrives()?)?.clamp(begins, next);
        let periods = arrives - begins;
        let before = self.holds.len();
        let new = self.starts.last() == Some(&before);
        let ends = if periods > 0 && self.is_straight(leg)? { Some(self.line_ends(leg)?) } else { None };
        let levels = levels(leg, periods, ends)?;
        let line = ends.and_then(CompareLine::between);
        let (mut distinct, mut last, mut stays, mut longest) = (0, None, 0, 0);
        for index in 0..levels {
            // Evenly: no level is longer than another by more than a period, and no rounding adds up.
            let at = |index: u64| {
                let exact = u128::from(index) * u128::from(periods) / u128::from(levels);
                begins + u64::try_from(exact).unwrap_or(u64::MAX)
            };
            let compare = self.compare_at(leg, line, index, levels)?;
            if last.replace(compare) != Some(compare) {
                (distinct, stays) = (distinct + 1, 0);
            }
            stays += at(index + 1) - at(index);
            longest = longest.max(stays);
            self.push(way, at(index)..at(index + 1), compare, leg.backward, new && index == 0)?;
        }
        let to = self.compare(leg.to)?;
        self.push(way, arrives..next, to, leg.backward, new && levels == 0)?;
        self.ways.push(TrackWay {
            step: leg.step + 1,
            pass: leg.pass + 1,
            cause: leg.cause,
            at: leg.begins,
            begins: self.time_of(begins)?,
            from: leg.from,
            to: leg.to,
            over: self.time_of(periods)?,
            hold: self.time_of(next - arrives)?,
            shape: leg.shape,
            asked: leg.levels,
            levels: if levels == 0 { usize::from(next > begins) } else { distinct },
            longest: self.time_of(longest)?,
            periods: next - begins,
            wanted: leg.over.plus(leg.hold)?,
            is_last: false,
            backward: leg.backward,
        });
        Ok(())
    }

    /// Whether even levels have even compare values.
    fn is_straight(&self, leg: &Leg) -> Result<bool> {
        let Some(load) = self.load else { return Ok(true) };
        let [from, to] = self.line_ends(leg)?;
        for quarter in 1..4 {
            let share = Rational::new(quarter, 4).or_overflow("level")?;
            let exact = self.exact_on_line(load, leg.from.towards(leg.to, share)?)?;
            let run = to.minus(from).and_then(|run| run.times(share)).or_overflow("compare value")?;
            if from.plus(run) != Some(exact) {
                return Ok(false);
            }
        }
        Ok(true)
    }

    /// The exact compare values of the ends of a way.
    fn line_ends(&self, leg: &Leg) -> Result<[Rational; 2]> {
        let Some(load) = self.load else { return Ok([self.exact(leg.from)?, self.exact(leg.to)?]) };
        Ok([self.exact_on_line(load, leg.from)?, self.exact_on_line(load, leg.to)?])
    }

    /// The exact compare value of a place on the line of a load's levels: of a motor's rest its start.
    fn exact_on_line(&self, load: &Kind, place: Setpoint) -> Result<Rational> {
        match (place, load.start_of_line()) {
            (Setpoint::Level(level), Some(start)) if level.value().is_zero() => {
                Ok(self.scale.compare(start)?.exact)
            }
            _ => self.exact(place),
        }
    }

    fn exact(&self, place: Setpoint) -> Result<Rational> {
        Ok(self.scale.compare(place.active(self.load)?)?.exact)
    }

    /// The compare value of a level of a way, of so many. At its ends the load may rest, and be on no line.
    fn compare_at(&mut self, leg: &Leg, line: Option<CompareLine>, index: u64, levels: u64) -> Result<u64> {
        let last = levels - 1;
        if index > 0
            && index < last
            && let Some(ExactCompare { numerator, denominator }) =
                line.and_then(|line| line.at(index, last, leg.shape))
            && let Some(nearest) = self.scale.nearest(numerator, denominator)
        {
            let off = Rational::new(numerator, denominator)
                .and_then(|exact| exact.minus(nearest.into()))
                .or_overflow("compare value")?;
            self.rounding = self.rounding.max(off.magnitude());
            return Ok(nearest);
        }
        let rolling_start = self.load.filter(|_| index == 0 && last > 0 && leg.rolling);
        match rolling_start.and_then(LoadKind::start_of_line).filter(|_| leg.from.value().is_zero()) {
            Some(start) => self.nearest(start),
            None => self.compare(leg.place(index, levels)?),
        }
    }

    /// The compare value that is nearest to a place.
    fn compare(&mut self, place: Setpoint) -> Result<u64> {
        self.nearest(place.active(self.load)?)
    }

    /// The compare value that is nearest to an active time.
    fn nearest(&mut self, active: Active) -> Result<u64> {
        let fit = self.scale.compare(active)?;
        let off = fit.exact.minus(fit.nearest.into()).or_overflow("compare value")?.magnitude();
        self.rounding = self.rounding.max(off);
        Ok(fit.nearest)
    }

    /// The level that a compare value makes of the load.
    fn made(&self, compare: u64, backward: bool) -> Result<Setpoint> {
        let (duty, pulse) = self.scale.active(compare)?;
        let Some(load) = self.load else { return Ok(Setpoint::Active(Active::Duty(duty))) };
        let level = load.level(Realised { duty, pulse })?;
        let value = level.value();
        let value = if backward { Rational::ZERO.minus(value).or_overflow("level")? } else { value };
        Ok(Setpoint::Level(level.with(value)))
    }

    /// Adds periods at a compare value to those that there are.
    fn push(&mut self, way: usize, at: Range<u64>, compare: u64, backward: bool, anew: bool) -> Result<()> {
        let (begins, periods) = (at.start, at.end.saturating_sub(at.start));
        if periods == 0 {
            return Ok(());
        }
        // Zero has no sign to tell the direction by: where that is the longest pulse, the next value is taken, a tick less.
        let is_signless = backward && compare == 0 && self.scale.active(0)?.0 > self.scale.active(1)?.0;
        let compare = if is_signless { 1 } else { compare };
        if is_signless {
            self.rounding = self.rounding.max(Rational::ONE);
        }
        match self.holds.last_mut() {
            Some(last) if !anew && last.compare == compare && last.backward == backward => {
                last.periods += periods;
            }
            _ => {
                let level = self.made(compare, backward)?;
                self.holds.push(LevelHold { way, begins, periods, compare, backward, level });
            }
        }
        Ok(())
    }

    /// The number of the period that begins nearest to a time.
    fn nearest_period(&self, time: Time) -> Result<u64> {
        let half = Rational::new(1, 2).or_overflow("time")?;
        let periods = time.value().over(self.period.value()).and_then(|exact| exact.plus(half));
        periods.and_then(|exact| u64::try_from(exact.floor()).ok()).or_overflow("number of periods")
    }

    fn time_of(&self, periods: u64) -> Result<Time> {
        Ok(self.period.times(periods.into())?)
    }

    /// How many holds each pass has, where all have the same.
    fn each_pass(&self, passes: u32) -> Option<usize> {
        let each = match self.starts.get(1) {
            None => self.holds.len(),
            Some(second) => *second,
        };
        let made = |one: &LevelHold| (one.compare, one.periods, one.backward);
        let mut parts = self.holds.chunks(each.max(1)).map(|part| part.iter().map(made));
        let first = parts.next()?;
        let same = parts.all(|part| part.eq(first.clone()));
        (same && each.checked_mul(passes as usize)? == self.holds.len()).then_some(each)
    }
}

/// How many levels a way has: as many as are asked for, if there is a period for each, and on an even way a compare value.
fn levels(leg: &Leg, periods: u64, ends: Option<[Rational; 2]>) -> Result<u64> {
    let asked = leg.levels.map_or(u64::MAX, u64::from);
    let compares = match ends.filter(|_| leg.shape == LevelShape::Linear) {
        Some(ends) => {
            let nearest = |exact: Rational| exact.plus(Rational::new(1, 2)?).map(Rational::floor);
            let [from, to] = ends.map(nearest);
            let run = from.zip(to).map(|(from, to)| from.abs_diff(to));
            run.and_then(|run| u64::try_from(run).ok()?.checked_add(1)).or_overflow("compare value")?
        }
        None => u64::MAX,
    };
    Ok(periods.min(asked).min(compares))
}

impl Leg {
    /// The place of a level of its way, of so many.
    fn place(&self, index: u64, levels: u64) -> Result<Setpoint> {
        if levels < 2 {
            return Ok(self.to);
        }
        let share = Rational::from(index).over(Rational::from(levels - 1)).or_overflow("level")?;
        let share = match self.shape {
            LevelShape::Linear => share,
            LevelShape::Smooth => smooth(share).or_overflow("level")?,
        };
        self.from.towards(self.to, share)
    }
}

/// 3u^2 - 2u^3.
fn smooth(u: Rational) -> Option<Rational> {
    let rest = Rational::whole(3).minus(u.times(Rational::whole(2))?)?;
    u.times(u)?.times(rest)
}

impl TrackWay {
    /// Where it should be after a share of its time, from 0 to 1.
    ///
    /// # Errors
    /// Numbers that do not fit.
    pub fn wanted_at(&self, share: Rational) -> Result<Setpoint> {
        let share = match self.shape {
            LevelShape::Linear => share,
            LevelShape::Smooth => smooth(share).or_overflow("level")?,
        };
        self.from.towards(self.to, share)
    }
}

impl LevelTrack {
    /// When a compare value is there for the first time.
    ///
    /// # Errors
    /// A number that does not fit.
    pub fn begins(&self, hold: &LevelHold) -> Result<Time> {
        Ok(self.period.times(hold.begins.into())?)
    }
}

//! A signal on its way through the steps of a sequence: what its load needs in between is put in here.

use super::leg::{Leg, LegCause};
use super::setpoint::Setpoint;
use super::step::{LevelShape, SequenceStep, StepGoal};
use crate::error::{Error, OrOverflow, Result, StepProblem};
use crate::load::{Kind, LoadKind, Pacing};
use crate::quantity::{Duty, LoadLevel, Rational, Time};
use crate::target::{Active, Span, check_active};

/// A signal on its way.
pub(super) struct LevelTraveller<'m> {
    name: &'m str,
    load: Option<&'m Kind>,
    period: Time,
    pacing: Pacing,
    /// Where it is, where that is known.
    place: Option<Setpoint>,
    /// Which way its load turned last: less than zero the other way, zero not yet.
    last: i32,
    /// Since when it rests.
    rests: Option<Time>,
    now: Time,
    step: usize,
    pass: u32,
    pub(super) legs: Vec<Leg>,
}

impl<'m> LevelTraveller<'m> {
    pub(super) fn of(name: &'m str, load: Option<&'m Kind>, period: Time, start: Option<Setpoint>) -> Self {
        // Before anything is asked of it, what is told by its duty gets none.
        let rests = load.filter(|load| matches!(load.span(), Ok(Span::Duty(_))));
        let rests =
            || rests.and_then(|load| Some(Setpoint::Level(load.levels().ok()?[1].with(Rational::ZERO))));
        let mut traveller = Self {
            name,
            load,
            period,
            pacing: load.map(LoadKind::pacing).unwrap_or_default(),
            place: start.or_else(rests),
            last: 0,
            rests: Some(Time::ZERO),
            now: Time::ZERO,
            step: 0,
            pass: 0,
            legs: Vec::new(),
        };
        traveller.last = traveller.place.map_or(0, |place| traveller.way_of(place));
        traveller
    }

    /// Until when it is busy.
    pub(super) const fn until(&self) -> Time {
        self.now
    }

    /// Where it is from the beginning, where that is known.
    pub(super) fn starts(&self) -> Option<Setpoint> {
        self.legs.first().map_or(self.place, |leg| Some(leg.from))
    }

    /// Makes a step, from a time on.
    pub(super) fn play(&mut self, index: usize, pass: u32, step: &SequenceStep, begins: Time) -> Result<()> {
        (self.step, self.pass, self.now) = (index, pass, begins);
        let begun = step.from.or(self.place);
        for _ in 0..step.repeat {
            match step.to {
                StepGoal::Stay => self.stay(step.hold)?,
                StepGoal::Setpoint(to) => {
                    let from = step.from.or(begun);
                    self.go(from, to, step)?;
                    if step.back {
                        let back = from.ok_or_else(|| self.nowhere())?;
                        self.go(Some(to), back, step)?;
                    }
                }
                StepGoal::Arm => {
                    let arming = self.pacing.arming.ok_or_else(|| {
                        StepProblem::NothingToArm { signal: self.name.to_owned() }.at(index)
                    })?;
                    self.pulse(LegCause::Arming, arming.pulse, arming.hold.plus(step.hold)?)?;
                }
                StepGoal::Teach => {
                    let taught = self.pacing.teaching.ok_or_else(|| {
                        StepProblem::NothingToTeach { signal: self.name.to_owned() }.at(index)
                    })?;
                    self.pulse(LegCause::Longest, taught.longest, taught.hold)?;
                    self.pulse(LegCause::Shortest, taught.shortest, taught.hold.plus(step.hold)?)?;
                }
            }
        }
        Ok(())
    }

    fn nowhere(&self) -> Error {
        StepProblem::UnknownStart { signal: self.name.to_owned() }.at(self.step)
    }

    /// Where it is before it goes somewhere at once, where nothing says that: there already, if that is the beginning.
    fn begin_at(&self, to: Setpoint) -> Result<Setpoint> {
        if self.now == Time::ZERO { Ok(to) } else { Err(self.nowhere()) }
    }

    /// Which way the load turns at a place.
    fn way_of(&self, place: Setpoint) -> i32 {
        if self.load.is_none_or(|load| !load.is_undirected()) {
            return 1;
        }
        place.value().cmp(&Rational::ZERO) as i32
    }

    fn stay(&mut self, hold: Time) -> Result<()> {
        let place = self.place.ok_or_else(|| self.nowhere())?;
        self.leg(LegCause::Asked, place, place, Time::ZERO, hold)
    }

    fn pulse(&mut self, cause: LegCause, pulse: Time, hold: Time) -> Result<()> {
        let to = Setpoint::Active(Active::Pulse(pulse));
        let from = self.place.map_or_else(|| self.begin_at(to), Ok)?;
        self.leg(cause, from, to, Time::ZERO, hold)
    }

    /// A way as a step asks for it, with what the load needs before and in between.
    fn go(&mut self, from: Option<Setpoint>, to: Setpoint, step: &SequenceStep) -> Result<()> {
        let at = |error: Error| StepProblem::Value(error).at(self.step);
        let active = |place: Setpoint| {
            let active = place.active(self.load)?;
            check_active(active, self.period)?;
            Ok(active)
        };
        active(to).map_err(at)?;
        let from = match from {
            Some(from) => from,
            None if step.over == Time::ZERO => self.begin_at(to)?,
            None => return Err(self.nowhere()),
        };
        active(from).map_err(at)?;
        let (from, to) = match step.over == Time::ZERO {
            true => (from, to),
            false => self.alike(from, to)?,
        };
        let turns = self.way_of(from) * self.way_of(to) < 0;
        if turns && step.over > Time::ZERO {
            return self.through_zero(from, to, step);
        }
        self.rest_before(self.way_of(to))?;
        self.set_off(from, to, step, step.over, step.levels)
    }

    /// A way that does not turn round, with the kick that it needs.
    fn set_off(
        &mut self,
        from: Setpoint,
        to: Setpoint,
        step: &SequenceStep,
        over: Time,
        levels: Option<u32>,
    ) -> Result<()> {
        let is_ramp = over > Time::ZERO;
        if !self.break_away(from, to, is_ramp)? {
            return self.way(from, to, step, over, levels, step.hold);
        }
        let from = if is_ramp { self.slowest(to)?.unwrap_or(from) } else { from };
        self.way(from, to, step, over, levels, step.hold)?;
        self.legs.last_mut().into_iter().for_each(|leg| leg.rolling = is_ramp);
        Ok(())
    }

    /// The least level at which the load turns, on the way to another.
    fn slowest(&self, to: Setpoint) -> Result<Option<Setpoint>> {
        let (Some(load), Setpoint::Level(level)) = (self.load, to) else { return Ok(None) };
        let least = Setpoint::Active(load.span()?.low()).as_level(self.load, self.period)?.value();
        // Where it should go more slowly than it can, it goes there at once.
        let least = least.min(level.value().magnitude());
        let signed =
            if self.way_of(to) < 0 { Rational::ZERO.minus(least).or_overflow("level")? } else { least };
        Ok(Some(to.with(signed)))
    }

    /// Kicks a load that stands, where it would not begin to turn by itself; whether it did.
    fn break_away(&mut self, from: Setpoint, to: Setpoint, is_ramp: bool) -> Result<bool> {
        let stands = from.active(self.load)?.value().is_zero();
        let Some(kick) = self.pacing.kick.filter(|_| stands) else { return Ok(false) };
        let Active::Duty(wanted) = to.active(self.load)? else { return Ok(false) };
        if wanted == Duty::ZERO || (wanted >= kick.duty && !is_ramp) {
            return Ok(false);
        }
        let way = self.way_of(to);
        let duty = Setpoint::Active(Active::Duty(kick.duty));
        self.leg(LegCause::Kick, from, duty, Time::ZERO, kick.length)?;
        // A duty has no sign: its way is that of where it leads to.
        self.legs.last_mut().into_iter().for_each(|leg| leg.backward = way < 0);
        self.last = way;
        Ok(true)
    }

    /// A way from one direction to the other: to zero, a rest, and on.
    fn through_zero(&mut self, from: Setpoint, to: Setpoint, step: &SequenceStep) -> Result<()> {
        let zero = to.with(Rational::ZERO);
        let (before, after) = (from.value().magnitude(), to.value().magnitude());
        let share = before.plus(after).and_then(|all| before.over(all)).or_overflow("level")?;
        let first = step.over.times(share)?;
        let levels = step.levels.map(|all| {
            let before = share.times(all.into()).map_or(2, |levels| levels.floor());
            let before = u32::try_from(before).unwrap_or(2).max(2);
            // Zero is one of both.
            (before, all.saturating_sub(before).saturating_add(1).max(2))
        });
        self.way(from, zero, step, first, levels.map(|levels| levels.0), Time::ZERO)?;
        self.rest_before(self.way_of(to))?;
        self.set_off(zero, to, step, step.over.less(first)?, levels.map(|levels| levels.1))
    }

    /// Rests as long as the load wants before it turns that way.
    fn rest_before(&mut self, way: i32) -> Result<()> {
        let Some(pause) = self.pacing.pause else { return Ok(()) };
        if way * self.last >= 0 {
            return Ok(());
        }
        let rested = match self.rests {
            Some(since) => self.now.less(since)?,
            None => Time::ZERO,
        };
        if rested >= pause {
            return Ok(());
        }
        let zero = Setpoint::Level(LoadLevel::Share(Duty::ZERO));
        let from = self.place.unwrap_or(zero);
        self.leg(LegCause::Pause, from, zero, Time::ZERO, pause.less(rested)?)
    }

    /// Two places in one unit, so that there is a way between them.
    fn alike(&self, from: Setpoint, to: Setpoint) -> Result<(Setpoint, Setpoint)> {
        let kind = std::mem::discriminant::<Setpoint>;
        if kind(&from) != kind(&to) {
            return Ok((from.as_level(self.load, self.period)?, to.as_level(self.load, self.period)?));
        }
        let as_pulse = |place: Setpoint| match place {
            Setpoint::Active(Active::Duty(duty)) => {
                Ok::<_, Error>(Setpoint::Active(Active::Pulse(duty.of(self.period)?)))
            }
            other => Ok(other),
        };
        match (from, to) {
            (Setpoint::Active(Active::Duty(_)), Setpoint::Active(Active::Pulse(_)))
            | (Setpoint::Active(Active::Pulse(_)), Setpoint::Active(Active::Duty(_))) => {
                Ok((as_pulse(from)?, as_pulse(to)?))
            }
            _ => Ok((from, to)),
        }
    }

    fn way(
        &mut self,
        from: Setpoint,
        to: Setpoint,
        step: &SequenceStep,
        over: Time,
        levels: Option<u32>,
        hold: Time,
    ) -> Result<()> {
        match levels {
            Some(_) if over == Time::ZERO => return Err(StepProblem::LevelsAtOnce.at(self.step)),
            Some(0 | 1) => return Err(StepProblem::OneLevel.at(self.step)),
            _ => {}
        }
        self.leg(LegCause::Asked, from, to, over, hold)?;
        if let Some(leg) = self.legs.last_mut() {
            (leg.levels, leg.shape) = (levels, step.shape);
        }
        Ok(())
    }

    fn leg(&mut self, cause: LegCause, from: Setpoint, to: Setpoint, over: Time, hold: Time) -> Result<()> {
        let (before, after) = (self.way_of(from), self.way_of(to));
        let (step, pass, begins) = (self.step, self.pass, self.now);
        if before != 0 {
            self.last = before;
        }
        // Where it stands, it is as it turned last.
        let backward = after < 0 || (after == 0 && self.last < 0);
        let leg = Leg {
            step,
            pass,
            cause,
            begins,
            from,
            to,
            over,
            levels: None,
            shape: LevelShape::Linear,
            hold,
            backward,
            rolling: false,
        };
        self.now = leg.ends()?;
        if after == 0 {
            let rested = self.rests.filter(|_| before == 0);
            self.rests = rested.or(Some(leg.arrives()?));
        } else {
            self.rests = None;
            self.last = after;
        }
        self.place = Some(to);
        self.legs.push(leg);
        Ok(())
    }
}

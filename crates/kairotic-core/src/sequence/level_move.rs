//! A servo that goes from one angle to another, at once or no faster than is asked, and when it has arrived.

use serde::Serialize;

use super::setpoint::Setpoint;
use super::step::{Sequence, SequenceStep, StepGoal};
use super::{Member, SequencePlan};
use crate::error::{Error, OrOverflow, Result};
use crate::load::{DeadBand, Kind, LoadKind, Realised};
use crate::quantity::{Duty, LoadLevel, Speed, Time};
use crate::search::DerivedSignal;

/// How fast a level may change.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum LevelPace {
    /// At once: the load takes its own time.
    AtOnce,
    /// In no less than a time.
    Within(Time),
    /// No faster than a speed.
    Speed(Speed),
}

/// A move of a load whose pulse is where it stands.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct LevelMove {
    /// Where it begins.
    pub from: LoadLevel,
    /// Where it shall end.
    pub to: LoadLevel,
    /// The last compare value.
    pub compare: u64,
    /// The pulse that it makes.
    pub pulse: Time,
    /// The level that this is.
    pub level: Setpoint,
    /// Over how long the pulse changes.
    pub over: Time,
    /// A period of the signal: a compare value waits so long, at most.
    pub frame: Time,
    /// How long the load takes for the way at its fastest, where that is known.
    pub turns: Option<Time>,
    /// When it has arrived at the latest, counted from the first write; where its fastest is known.
    pub arrives: Option<Time>,
    /// What it does not follow: it may stand so far beside the end.
    pub dead_band: Option<DeadBand>,
    /// The compare values on the way, with what is or may be wrong.
    pub plan: SequencePlan,
}

impl LevelMove {
    /// Plans a move of a signal's load.
    ///
    /// # Errors
    /// [`Error::LevelOutside`] for an end that the load does not have; [`Error::NoMove`] for a way of nothing; as
    /// [`SequencePlan::of`].
    pub fn of(signal: DerivedSignal<'_>, [from, to]: [LoadLevel; 2], pace: LevelPace) -> Result<Self> {
        let name = signal.spec.name.clone();
        let load = signal.spec.load.as_ref().map(|load| load.kind.clone());
        let way = to.less(from)?.value().magnitude();
        if way.is_zero() {
            return Err(Error::NoMove { why: "it begins where it ends".to_owned() });
        }
        let over = match pace {
            LevelPace::AtOnce => Time::ZERO,
            LevelPace::Within(time) => time,
            LevelPace::Speed(speed) => Time::new(way.over(speed.value()).or_overflow("time")?),
        };
        let from_at = Some(Setpoint::Level(from));
        let goal = StepGoal::Setpoint(Setpoint::Level(to));
        let step = SequenceStep { from: from_at, over, ..SequenceStep::at_once(name.clone(), goal) };
        if let Some(load) = &load {
            load.active(from)?;
            load.active(to)?;
        }
        let frame = signal.derivation.best.setting.period;
        let timer = signal.derivation.timer.clone();
        let setting = signal.derivation.best.setting.clone();
        let plan = SequencePlan::of(
            &[Member::Signal(Box::new(signal))],
            &Sequence { name: name.clone(), steps: vec![step], repeat: 1 },
        )?;
        let nothing = || Error::NoMove { why: "it has no period".to_owned() };
        let track = plan.tracks.first().ok_or_else(nothing)?;
        let last = *track.holds.last().ok_or_else(nothing)?;
        let (_, pulse) = setting.compare_scale(&timer, &track.channel)?.active(last.compare)?;
        let pacing = load.as_ref().map(LoadKind::pacing).unwrap_or_default();
        let turns = pacing.slew.map(|slew| slew.time_for(way)).transpose()?;
        // The last value is written when the way is over, and waits for the end of a period.
        let arrives = turns.map(|turns| frame.plus(turns.max(over))).transpose()?;
        let dead_band = dead_band(load.as_ref(), pacing.dead_band)?;
        let (compare, level) = (last.compare, last.level);
        Ok(Self { from, to, compare, pulse, level, over, frame, turns, arrives, dead_band, plan })
    }
}

/// A dead band as an angle.
fn dead_band(load: Option<&Kind>, pulse: Option<Time>) -> Result<Option<DeadBand>> {
    let Some((load, pulse)) = load.zip(pulse) else { return Ok(None) };
    let level = load.level_of_step(Realised { duty: Duty::ZERO, pulse })?;
    Ok(Some(DeadBand { pulse, level }))
}

//! A capture against a sequence or a move: every pulse that was planned is looked for among those that came.

use serde::Serialize;

use super::pulse_train::{PulseTrain, TimedPulse};
use super::recorder::Recorder;
use crate::error::{Error, OrOverflow, Result};
use crate::limits;
use crate::quantity::{DeviationDimension, Measured, Time, TimeDimension};
use crate::requirement::Verdict;
use crate::simulation::{PinRole, PlayedPin};

/// What a pin did of what was planned.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct FollowedPin {
    /// Its name in the plan.
    pub name: String,
    /// What its pulses are.
    pub pulses: PulseMeaning,
    /// Pulses that were planned.
    pub planned: u64,
    /// Those of them that came.
    pub seen: u64,
    /// Those that did not.
    pub missing: u64,
    /// Those that should come after the end of the capture.
    pub unseen: u64,
    /// Pulses that came besides, from the first that was planned to the last.
    pub extra: u64,
    /// Those that came with another length: a level that is not the planned one.
    pub wrong: u64,
    /// The first of those that are wrong, missing or too many: when it was planned, from the beginning.
    pub first_fault: Option<Measured<TimeDimension>>,
    /// How far the clock behind it is off, where its pulses span some time.
    pub clock: Option<Measured<DeviationDimension>>,
    /// How far the beginning of a pulse is off, at most, with that clock.
    pub furthest: Measured<TimeDimension>,
    /// How far that may be.
    pub allowed: Measured<TimeDimension>,
    /// Steps that came in the wrong direction, or sooner after the direction than the driver allows, or it was changed too
    /// soon; none where the direction is not there to be seen.
    pub misdirected: Option<u64>,
    /// The step at which it ends, from where it began; none of a level.
    pub position: Option<i64>,
    /// Whether it did what was planned.
    pub verdict: Verdict,
}

/// What the pulses of a pin are.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum PulseMeaning {
    /// Their length is a level.
    Level,
    /// Each is a step.
    Step,
    /// It is one of four wires, on for a step or more.
    Wire,
}

/// Pulses that are compared with those of the plan: a recorder cannot tell what is nearer than two of its ticks.
const TICKS: f64 = 2.0;

/// How far a step may be off, in ticks: the ways to make a ramp are off the ideal by up to one, and what is planned by up to
/// a half.
const OFF: f64 = 1.5;

/// A pin that was planned and the line that was recorded for it.
#[derive(Debug, Clone, Copy)]
pub struct PinSeen<'s> {
    /// What was planned.
    pub pin: &'s PlayedPin,
    /// What came.
    pub train: &'s PulseTrain,
    /// The line of its direction, where there is one.
    pub direction: Option<(&'s PlayedPin, &'s PulseTrain)>,
}

/// Looks for every pulse of a pin that was planned until an end, among those of a capture. A direction is looked at with its
/// steps, and is none by itself.
///
/// # Errors
/// More pulses than are looked at; numbers that do not fit.
pub fn followed(seen: PinSeen<'_>, until: Time, recorder: &Recorder) -> Result<Option<FollowedPin>> {
    let PinSeen { pin, train, direction } = seen;
    let (pulses, allowed, slack) = match &pin.role {
        // Of a level the length counts; when it comes is the period's.
        PinRole::Level { step } => (PulseMeaning::Level, step.value().approx(), step.value().approx() / 2.0),
        PinRole::Step { tick, .. } => (PulseMeaning::Step, OFF * tick.value().approx(), f64::INFINITY),
        PinRole::Wire { tick } => (PulseMeaning::Wire, OFF * tick.value().approx(), f64::INFINITY),
        PinRole::Direction => return Ok(None),
    };
    // The last step comes at the end, and its pulse ends later.
    let end = if pulses == PulseMeaning::Level { until } else { until.plus(pin.period)? };
    let mut planned = planned(pin, end)?;
    if pulses == PulseMeaning::Wire {
        // A wire that is on before the first step has no beginning.
        planned.retain(|pulse| pulse.at > 0.0);
    }
    let floor = TICKS * recorder.floor();
    let came: Vec<TimedPulse> = train
        .pulses()
        .iter()
        .map(|pulse| TimedPulse { at: pulse.at * recorder.tick, length: pulse.length * recorder.tick })
        .collect();
    let begun = match pulses {
        PulseMeaning::Level => {
            let ratio = usual_interval(&came).zip(usual_interval(&planned)).map_or(1.0, |(c, p)| c / p);
            first_change(&planned, &came, ratio, slack.max(floor))
        }
        PulseMeaning::Step | PulseMeaning::Wire => Some(0),
    };
    let end_of_capture = recorder.length as f64 * recorder.tick;
    let mut matching = Matching::of(&planned, &came, begun.unwrap_or(0), end_of_capture);
    if pulses != PulseMeaning::Level {
        // A level goes on after its last change; a step that comes then is one too many.
        let more = came.len().saturating_sub(matching.next) as u64;
        matching.extra += more;
        if let Some(last) = planned.last().filter(|_| more > 0) {
            matching.fault(last.at);
        }
    }
    let ratio = matching.ratio();
    let furthest = matching.furthest(ratio);
    let wrong: Vec<f64> = matching
        .pairs
        .iter()
        .filter(|(plan, came)| (came.length / ratio - plan.length).abs() > slack + floor)
        .map(|(plan, _)| plan.at)
        .collect();
    let misdirected = match (&pin.role, direction) {
        (PinRole::Step { stands, .. }, Some((planned, line))) => {
            let stands = stands.map(|time| time.value().approx());
            Some(Direction::of(planned, line, end, recorder)?.wrong(&matching.pairs, stands))
        }
        _ => None,
    };
    let position = direction.and_then(|(_, line)| position(&came, line, recorder));
    wrong.iter().chain(misdirected.iter().flatten()).for_each(|at| matching.fault(*at));
    let (wrong, misdirected) = (wrong.len() as u64, misdirected.map(|wrong| wrong.len() as u64));
    let allowed = allowed + floor;
    let late = pulses != PulseMeaning::Level && furthest > allowed;
    let faults = matching.missing + matching.extra + wrong + misdirected.unwrap_or(0);
    let too_coarse = pulses == PulseMeaning::Level && floor > 2.0 * slack;
    let verdict = match () {
        // What is wrong with a level finer than the samples may be their fault.
        () if faults == 0 && !late && begun.is_some() && matching.unseen == 0 && !too_coarse => Verdict::Met,
        () if too_coarse || (faults == 0 && !late && begun.is_some()) => Verdict::CannotTell,
        () => Verdict::Missed,
    };
    Ok(Some(FollowedPin {
        name: pin.line.name.clone(),
        pulses,
        planned: planned.len() as u64,
        seen: matching.pairs.len() as u64,
        missing: matching.missing,
        unseen: matching.unseen,
        extra: matching.extra,
        wrong,
        first_fault: matching.first_fault.map(Measured::new),
        clock: (matching.pairs.len() > 1).then(|| Measured::new(1.0 / ratio - 1.0)),
        furthest: Measured::new(furthest),
        allowed: Measured::new(allowed),
        misdirected,
        position,
        verdict,
    }))
}

/// The pulses of a plan, in seconds.
fn planned(pin: &PlayedPin, until: Time) -> Result<Vec<TimedPulse>> {
    let clock = pin.line.clock.value();
    let end = until.value().times(clock).or_overflow("length")?.floor().unsigned_abs();
    let seconds = |clocks: u128| clocks as f64 / clock.approx();
    let (mut found, mut rise) = (Vec::new(), None);
    for (at, high) in pin.line.edges(end) {
        if high {
            rise = Some(at);
        } else if let Some(rise) = rise.take() {
            found.push(TimedPulse { at: seconds(rise), length: seconds(at - rise) });
            if limits::FOLLOWED.is_below(found.len() as u64) {
                let said = limits::FOLLOWED.refusal(&format!("`{}` has", pin.line.name), found.len() as u64);
                return Err(Error::TooManySteps { said });
            }
        }
    }
    Ok(found)
}

/// The interval in the middle of all between pulses: a period, whatever is missing.
fn usual_interval(pulses: &[TimedPulse]) -> Option<f64> {
    let mut intervals: Vec<f64> =
        pulses.iter().zip(pulses.iter().skip(1)).map(|(one, next)| next.at - one.at).collect();
    let middle = intervals.len() / 2;
    if intervals.is_empty() {
        return None;
    }
    let (_, usual, _) = intervals.select_nth_unstable_by(middle, f64::total_cmp);
    Some(*usual)
}

/// How many pulses came before the first that was planned: found where the length changes for the first time. `None` where it
/// never changes as planned. Seconds of the recorder are so many of the plan's.
fn first_change(planned: &[TimedPulse], came: &[TimedPulse], ratio: f64, slack: f64) -> Option<isize> {
    let differs = |one: &TimedPulse, other: &TimedPulse| (one.length - other.length).abs() > slack;
    let Some(change) = planned.windows(2).position(|pair| matches!(pair, [one, next] if differs(one, next)))
    else {
        // One that is under way when the capture begins has no beginning to be seen.
        return Some(if came.len() + 1 == planned.len() { -1 } else { 0 });
    };
    let [before, after] = [planned.get(change)?, planned.get(change + 1)?];
    let alike = |came: &TimedPulse, planned: &TimedPulse| {
        !differs(&TimedPulse { length: came.length / ratio, ..*came }, planned)
    };
    let found = came
        .windows(2)
        .position(|pair| matches!(pair, [one, next] if alike(one, before) && alike(next, after)))?;
    isize::try_from(found).ok()?.checked_sub(isize::try_from(change).ok()?)
}

/// Pulses of a plan with those that came for them.
struct Matching {
    pairs: Vec<(TimedPulse, TimedPulse)>,
    missing: u64,
    unseen: u64,
    extra: u64,
    first_fault: Option<f64>,
    /// The first pulse that was not looked at.
    next: usize,
}

impl Matching {
    /// Goes through both at once. What comes is looked for where the pulse before it and the plan say, within half of the
    /// interval, so that a clock that is off does not add up.
    fn of(planned: &[TimedPulse], came: &[TimedPulse], before: isize, end: f64) -> Self {
        let mut matching =
            Self { pairs: Vec::new(), missing: 0, unseen: 0, extra: 0, first_fault: None, next: 0 };
        let mut next = usize::try_from(before).unwrap_or(0);
        // Where the capture began later, the first of the plan are not there to be seen.
        let skipped = usize::try_from(-before).unwrap_or(0);
        let mut last: Option<(f64, f64)> = None;
        for (index, wanted) in planned.iter().enumerate().skip(skipped) {
            let expected = last.map_or(wanted.at, |(planned, came)| came + wanted.at - planned);
            let Some(found) = came.get(next) else {
                // Whether one at the end would have come is not known.
                if expected + wanted.length >= end {
                    matching.unseen += 1;
                } else {
                    matching.missing += 1;
                    matching.fault(wanted.at);
                }
                continue;
            };
            let Some((planned_last, _)) = last else {
                matching.pairs.push((*wanted, *found));
                last = Some((wanted.at, found.at));
                next += 1;
                continue;
            };
            let interval = wanted.at - planned_last;
            let following = planned.get(index + 1).map_or(interval, |after| after.at - wanted.at);
            if found.at > expected + following / 2.0 {
                matching.missing += 1;
                matching.fault(wanted.at);
                continue;
            }
            let mut nearest = *found;
            next += 1;
            // What comes sooner is one too many, and so is what lies further away than the next.
            while nearest.at < expected - interval / 2.0
                && let Some(other) = came.get(next)
            {
                matching.extra += 1;
                matching.fault(wanted.at);
                nearest = *other;
                next += 1;
            }
            matching.pairs.push((*wanted, nearest));
            last = Some((wanted.at, nearest.at));
        }
        matching.next = next;
        matching
    }

    fn fault(&mut self, at: f64) {
        self.first_fault = Some(self.first_fault.map_or(at, |first| first.min(at)));
    }

    /// Seconds of the recorder in one of the plan.
    fn ratio(&self) -> f64 {
        match (self.pairs.first(), self.pairs.last()) {
            (Some((plan, came)), Some((last_plan, last_came))) if last_plan.at > plan.at => {
                (last_came.at - came.at) / (last_plan.at - plan.at)
            }
            _ => 1.0,
        }
    }

    /// How far a pulse begins from where it should, at most.
    fn furthest(&self, ratio: f64) -> f64 {
        let Some((plan, came)) = self.pairs.first() else { return 0.0 };
        let off = |(p, c): &(TimedPulse, TimedPulse)| ((c.at - came.at) / ratio - (p.at - plan.at)).abs();
        self.pairs.iter().map(off).fold(0.0, f64::max)
    }
}

/// The line that says which way steps go: as planned, and as it came.
struct Direction<'s> {
    planned: Vec<(f64, bool)>,
    line: &'s PulseTrain,
    tick: f64,
    floor: f64,
}

impl<'s> Direction<'s> {
    fn of(planned: &PlayedPin, line: &'s PulseTrain, until: Time, recorder: &Recorder) -> Result<Self> {
        let clock = planned.line.clock.value();
        let end = until.value().times(clock).or_overflow("length")?.floor().unsigned_abs();
        let edges = planned.line.edges(end).map(|(at, high)| (at as f64 / clock.approx(), high));
        Ok(Self { planned: edges.collect(), line, tick: recorder.tick, floor: recorder.floor() })
    }

    /// Steps, by when they were planned, that found another direction than the planned, or one that had not stood for as long
    /// as the driver wants or did not stay.
    fn wrong(&self, pairs: &[(TimedPulse, TimedPulse)], [setup, hold]: [f64; 2]) -> Vec<f64> {
        let stood = |(plan, came): &&(TimedPulse, TimedPulse)| {
            let wanted = self.planned.iter().take_while(|(at, _)| *at <= plan.at).last();
            let Some((level, since, until)) = self.line.at(came.at / self.tick) else { return false };
            wanted.is_some_and(|(_, wanted)| *wanted == level)
                && came.at - since * self.tick + self.floor >= setup
                && until * self.tick - came.at + self.floor >= hold
        };
        pairs.iter().filter(|pair| !stood(pair)).map(|(plan, _)| plan.at).collect()
    }
}

/// Where the steps that came lead, by the direction that was there.
fn position(came: &[TimedPulse], line: &PulseTrain, recorder: &Recorder) -> Option<i64> {
    came.iter().try_fold(0_i64, |position, pulse| {
        let (up, ..) = line.at(pulse.at / recorder.tick)?;
        position.checked_add(if up { 1 } else { -1 })
    })
}

//! What is or may be wrong with a sequence: what its loads do not follow, and what its timers do not make.

use super::leg::LegCause;
use super::setpoint::Setpoint;
use super::track::{LevelTrack, TrackMaker, TrackWay};
use crate::error::Result;
use crate::finding::{
    DeadBandSwallows, FasterThanSlew, FewerLevels, Finding, PulseOutsideLoad, StepWithoutPulse,
    TeachesAtFullThrottle,
};
use crate::load::{Kind, LoadKind, Pacing};
use crate::quantity::{LoadLevel, Time};
use crate::search::DerivedSignal;
use crate::target::{Active, Span};

/// What is or may be wrong with a signal's track.
pub(super) fn judge(signal: &DerivedSignal<'_>, track: &LevelTrack) -> Result<Vec<Finding>> {
    let load = signal.spec.load.as_ref().map(|load| &load.kind);
    let pacing = load.map(LoadKind::pacing).unwrap_or_default();
    let mut found = Vec::new();
    // What all steps make again is told once.
    for way in track.ways.iter().filter(|way| way.pass == 1) {
        of_way(track, way, pacing, &mut found)?;
        found.extend(outside(signal, load, way)?);
    }
    found.dedup();
    if let Some(dead_band) = pacing.dead_band {
        let swallowed = swallowed(signal, track, dead_band)?;
        if swallowed > 0 {
            let (signal, levels) = (track.signal.clone(), track.holds.len() as u64);
            found.push(DeadBandSwallows { signal, swallowed, levels, dead_band }.into());
        }
    }
    Ok(found)
}

fn of_way(track: &LevelTrack, way: &TrackWay, pacing: Pacing, found: &mut Vec<Finding>) -> Result<()> {
    let (signal, step) = (|| track.signal.clone(), way.step);
    if way.periods == 0 && !way.is_last {
        let length = way.wanted;
        found.push(StepWithoutPulse { signal: signal(), step, length, period: track.period }.into());
    }
    let made = way.levels as u64;
    if let Some(asked) = way.asked.filter(|asked| u64::from(*asked) > made) {
        found.push(FewerLevels { signal: signal(), step, asked, made }.into());
    }
    if way.cause == LegCause::Longest
        && let Setpoint::Active(Active::Pulse(pulse)) = way.to
    {
        found.push(TeachesAtFullThrottle { signal: signal(), pulse, hold: way.hold }.into());
    }
    if let (Some(slew), Setpoint::Level(LoadLevel::Angle(from)), Setpoint::Level(LoadLevel::Angle(to))) =
        (pacing.slew, way.from, way.to)
    {
        let needs = slew.time_for(to.less(from)?.value())?;
        let has = if way.over > Time::ZERO { way.over } else { way.hold };
        // Where the sequence ends at once, there is all the time.
        if needs > has && (way.over > Time::ZERO || !way.is_last) {
            found.push(FasterThanSlew { signal: signal(), step, needs, has }.into());
        }
    }
    Ok(())
}

/// A pulse that the load does not take: a level is always inside.
fn outside(signal: &DerivedSignal<'_>, load: Option<&Kind>, way: &TrackWay) -> Result<Option<Finding>> {
    let (Some(load), Setpoint::Active(Active::Pulse(pulse))) = (load, way.to) else { return Ok(None) };
    let Span::Pulse(span) = load.span()? else { return Ok(None) };
    let end = if pulse < span.low { span.low } else { span.high };
    if span.holds(pulse) {
        return Ok(None);
    }
    let (load, step) = (signal.spec.name.clone(), signal.derivation.best.setting.step);
    Ok(Some(PulseOutsideLoad { load, pulse, end, beyond: pulse.less(end)?.magnitude(), step }.into()))
}

/// Levels whose pulse is no further from the one that was followed last than the dead band.
fn swallowed(signal: &DerivedSignal<'_>, track: &LevelTrack, dead_band: Time) -> Result<u64> {
    let maker = TrackMaker::of(signal)?;
    let mut followed: Option<Time> = None;
    let mut swallowed = 0_u64;
    for hold in &track.holds {
        let (_, pulse) = maker.scale.active(hold.compare)?;
        let off = followed.map(|last| pulse.less(last)).transpose()?;
        match off.map(Time::magnitude) {
            Some(off) if off <= dead_band && off > Time::ZERO => swallowed += 1,
            _ => followed = Some(pulse),
        }
    }
    Ok(swallowed)
}

//! A signal of a board as it is planned: placed, clocked and with what its load makes of it.

use super::{Asked, Board, Layout, Placement, Signal, layout};
use crate::clock::Arrangement;
use crate::error::{Error, Result};
use crate::part::{Part, TimerUse};
use crate::signal::{Conditions, SignalSpec};
use crate::target::{CounterSetting, Target};

/// The signal of a board as it is planned, and how the clock gets to its timer where the system clock was given. `part`
/// is the board's, with pins and clock tree. One that names its timer and channel has them even where other signals fit
/// nowhere.
///
/// # Errors
/// A signal that fits nowhere; a clock that is not legal; a level that the load does not have.
pub fn spec<'p>(
    board: &Board,
    signal: &Signal,
    part: &'p Part,
) -> Result<(SignalSpec<'p>, Option<Arrangement>)> {
    let all = layout(board, part).and_then(|layout| spec_in(board, signal, part, &layout));
    all.or_else(|error| spec_alone(board, signal, part).unwrap_or(Err(error)))
}

/// The same where the others fit nowhere; `None` for a signal that does not name its timer and channel.
pub(super) fn spec_alone<'p>(
    board: &Board,
    signal: &Signal,
    part: &'p Part,
) -> Option<Result<(SignalSpec<'p>, Option<Arrangement>)>> {
    let place = signal.place.settled(part)?;
    Some(placed(board, signal, part, (&place, None)))
}

/// The same where the places of all signals are known.
///
/// # Errors
/// As [`spec`].
pub fn spec_in<'p>(
    board: &Board,
    signal: &Signal,
    part: &'p Part,
    layout: &Layout,
) -> Result<(SignalSpec<'p>, Option<Arrangement>)> {
    let at = board.signals.iter().position(|one| one == signal);
    let here = at.and_then(|at| layout.places.get(at).zip(layout.counters.get(at)));
    let (place, counter) = here.ok_or_else(|| Error::NoPlace { signal: signal.name.clone() })?;
    placed(board, signal, part, (place, counter.clone()))
}

fn placed<'p>(
    board: &Board,
    signal: &Signal,
    part: &'p Part,
    (place, counter): (&Placement, Option<CounterSetting>),
) -> Result<(SignalSpec<'p>, Option<Arrangement>)> {
    let (clock, way) = board.clock.of(part, &place.timer)?;
    let target = Target { channel: Some(place.channel.clone()), counter, ..board.target(signal)? };
    let level = match board.asked_of(signal) {
        Some(Asked::Level(level)) => Some(level),
        _ => None,
    };
    let spec = SignalSpec {
        name: signal.name.clone(),
        on: TimerUse { clock, base: place.base.clone(), ..TimerUse::of(part, &place.timer) },
        target,
        level,
        load: board.load_of(signal).cloned(),
        needs: signal.needs.clone(),
        conditions: conditions(board, signal, part)?,
    };
    Ok((spec, way))
}

/// What is known of the clock of a signal and of what happens around it.
fn conditions(board: &Board, signal: &Signal, part: &Part) -> Result<Conditions> {
    let clock = &board.clock;
    Ok(Conditions {
        oscillator: clock.oscillator(part)?.map(|oscillator| oscillator.name.clone()),
        temperature: clock.temperature,
        ageing: clock.ageing,
        trim: clock.trim,
        pll: clock.pll,
        latency: signal.latency,
        edges: signal.edges,
    })
}

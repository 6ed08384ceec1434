//! A signal of a board as it is planned: placed, clocked and with what its load makes of it.

use super::{Asked, Board, Signal, TimerOutput, place};
use crate::clock::Arrangement;
use crate::error::Result;
use crate::part::{Part, TimerUse};
use crate::signal::{Conditions, SignalSpec};
use crate::target::Target;

/// The signal of a board as it is planned, and how the clock gets to its timer where the system clock was given. `part`
/// is the board's, with pins and clock tree.
///
/// # Errors
/// A signal that fits nowhere; a clock that is not legal; a level that the load does not have.
pub fn spec<'p>(
    board: &Board,
    signal: &Signal,
    part: &'p Part,
) -> Result<(SignalSpec<'p>, Option<Arrangement>)> {
    let TimerOutput { timer, channel } = place(board, part, &signal.name)?;
    let (clock, way) = board.clock.of(part, &timer)?;
    let target = Target { channel, ..board.target(signal)? };
    let level = match signal.asked {
        Some(Asked::Level(level)) => Some(level),
        _ => None,
    };
    let spec = SignalSpec {
        name: signal.name.clone(),
        on: TimerUse { clock, ..TimerUse::of(part, timer) },
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

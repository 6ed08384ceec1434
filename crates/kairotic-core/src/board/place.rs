//! Where the signals of a board come out: as the board says, and wherever it fits for the others.

use std::collections::BTreeMap;

use super::{Board, Placed, Signal};
use crate::error::{Error, Result};
use crate::part::Part;
use crate::quantity::{Frequency, Tolerance};
use crate::survey::{SortBy, SurveyClock, SurveyRequest, SurveyRow, sort, survey};
use crate::target::Aim;

/// A timer and one of its channels, taken by a signal.
#[derive(Debug, Clone, PartialEq, Eq)]
struct TakenChannel {
    timer: String,
    channel: Option<String>,
    aim: Aim,
}

/// The timer and channel of a signal. Signals that may come out anywhere are given, in their order, the timer whose
/// setting is best and that no other signal keeps at another frequency.
///
/// # Errors
/// [`Error::UnknownName`] for a name that the board or the part does not have; [`Error::NoPlace`].
pub fn place(board: &Board, part: &Part, name: &str) -> Result<(String, Option<String>)> {
    let wanted = board.signal(name)?;
    let mut taken = Vec::new();
    for signal in &board.signals {
        if let Some((timer, channel)) = fixed(part, signal)? {
            if signal == wanted {
                return Ok((timer, channel));
            }
            taken.push(TakenChannel { timer, channel, aim: signal.aim });
        }
    }
    for signal in board.signals.iter().filter(|signal| signal.place == Placed::Anywhere) {
        let found = anywhere(board, part, signal, &taken)?;
        if signal == wanted {
            return Ok((found.timer, found.channel));
        }
        taken.push(found);
    }
    Err(Error::NoPlace { signal: name.to_owned() })
}

/// The first signal of a board that comes out of a timer.
///
/// # Errors
/// As [`place`].
pub fn signal_on<'b>(board: &'b Board, part: &Part, timer: &str) -> Result<Option<&'b str>> {
    for signal in &board.signals {
        if place(board, part, &signal.name)?.0 == timer {
            return Ok(Some(&signal.name));
        }
    }
    Ok(None)
}

/// The place that a signal names.
fn fixed(part: &Part, signal: &Signal) -> Result<Option<(String, Option<String>)>> {
    Ok(match &signal.place {
        Placed::Timer(timer, channel) => Some((timer.clone(), channel.clone())),
        Placed::Pin(pin) => {
            let output = part.output_on(pin, None)?;
            Some((output.timer, Some(output.channel)))
        }
        Placed::Anywhere => None,
    })
}

fn anywhere(board: &Board, part: &Part, signal: &Signal, taken: &[TakenChannel]) -> Result<TakenChannel> {
    for row in &rows(board, part, signal)? {
        for name in &row.timers {
            let here: Vec<&TakenChannel> = taken.iter().filter(|taken| taken.timer == *name).collect();
            let shares = here.iter().all(|taken| taken.aim == signal.aim && taken.channel.is_some());
            let labels = row.timer.block.channels.iter().map(|channel| &channel.label);
            let free = labels
                .into_iter()
                .find(|label| !here.iter().any(|taken| taken.channel.as_ref() == Some(*label)));
            if let Some(channel) = free.filter(|_| shares) {
                let channel = Some(channel.clone());
                return Ok(TakenChannel { timer: name.clone(), channel, aim: signal.aim });
            }
        }
    }
    Err(Error::NoPlace { signal: signal.name.clone() })
}

/// What each timer makes of a signal from the clock that it has on this board, best first.
fn rows(board: &Board, part: &Part, signal: &Signal) -> Result<Vec<SurveyRow>> {
    let target = board.target(signal)?;
    let surveyed = |clock| survey(part, &SurveyRequest { target: target.clone(), clock, dither: false });
    // Each bus may have its own clock: each clock is surveyed once, for the timers on it.
    let mut by_clock: BTreeMap<Option<Frequency>, Vec<&str>> = BTreeMap::new();
    for timer in &part.timers {
        let (clock, _) = board.clock.of(part, &timer.name)?;
        by_clock.entry(clock.map(|clock| clock.nominal)).or_default().push(&timer.name);
    }
    let deviation = board.clock.deviation(part)?;
    let mut rows = Vec::new();
    for (clock, timers) in by_clock {
        let given = |nominal| SurveyClock::Given(Tolerance { nominal, deviation });
        for mut row in surveyed(clock.map_or(SurveyClock::Default, given))?.rows {
            row.timers.retain(|timer| timers.contains(&timer.as_str()));
            rows.push(row);
        }
    }
    sort(&mut rows, SortBy::Score);
    Ok(rows)
}

//! Where the signals of a board come out: as the board says, and wherever it fits for the others.

use std::collections::BTreeMap;

use super::{Board, Placed, Signal, TimerOutput};
use crate::error::{Error, Result};
use crate::part::{Part, PinOutput, Pinout};
use crate::quantity::{Frequency, Tolerance};
use crate::survey::{SortBy, SurveyClock, SurveyRequest, SurveyRow, sort, survey};
use crate::target::Aim;

/// A timer and one of its channels, taken by a signal.
#[derive(Debug, Clone, PartialEq, Eq)]
struct TakenChannel {
    output: TimerOutput,
    aim: Aim,
}

impl Placed {
    /// Whether it says nothing.
    pub const fn is_open(&self) -> bool {
        self.on.is_none() && self.pin.is_none()
    }

    /// The timer and channel that it means; `None` where it says nothing.
    ///
    /// # Errors
    /// Names that the part does not have; a pin that carries several outputs, or not the one that is named.
    pub fn output(&self, part: &Part) -> Result<Option<TimerOutput>> {
        let named = self.on.as_ref();
        if let Some(TimerOutput { timer, channel }) = named {
            let found = part.timer(timer, None)?;
            channel.as_ref().map(|label| found.channel(label).map(|_| ())).transpose()?;
        }
        let Some(pin) = &self.pin else { return Ok(named.cloned()) };
        let timer = named.map(|on| on.timer.as_str());
        let free = part.pinout.as_ref().is_some_and(Pinout::is_free);
        match named {
            // Where any pin will do, the timer says which output.
            Some(on) if free => Ok(Some(on.clone())),
            Some(TimerOutput { timer, channel: Some(channel) }) => {
                let carried = part.outputs_on(pin, Some(timer))?;
                if carried.iter().any(|output| output.channel == *channel) {
                    return Ok(named.cloned());
                }
                let outputs = part.pinout.as_ref().map(Pinout::outputs).unwrap_or_default();
                let here = outputs.iter().filter(|one| one.timer == *timer && one.channel == *channel);
                let known = here.map(|output| output.pin.as_str());
                Err(Error::unknown("pin", pin, &format!("{}/{timer}/{channel}", part.name), known))
            }
            _ => {
                let PinOutput { timer, channel, .. } = part.output_on(pin, timer)?;
                Ok(Some(TimerOutput { timer, channel: Some(channel) }))
            }
        }
    }
}

/// The timer and channel of a signal. Signals that may come out anywhere are given, in their order, the timer whose
/// setting is best and that no other signal keeps at another frequency.
///
/// # Errors
/// [`Error::UnknownName`] for a name that the board or the part does not have; [`Error::NoPlace`].
pub fn place(board: &Board, part: &Part, name: &str) -> Result<TimerOutput> {
    let wanted = board.signal(name)?;
    let mut taken = Vec::new();
    for signal in &board.signals {
        if let Some(output) = signal.place.output(part)? {
            if signal == wanted {
                return Ok(output);
            }
            taken.push(TakenChannel { output, aim: signal.aim });
        }
    }
    for signal in board.signals.iter().filter(|signal| signal.place.is_open()) {
        let found = anywhere(board, part, signal, &taken)?;
        if signal == wanted {
            return Ok(found.output);
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
        if place(board, part, &signal.name)?.timer == timer {
            return Ok(Some(&signal.name));
        }
    }
    Ok(None)
}

fn anywhere(board: &Board, part: &Part, signal: &Signal, taken: &[TakenChannel]) -> Result<TakenChannel> {
    for row in &rows(board, part, signal)? {
        for name in &row.timers {
            let here: Vec<&TakenChannel> = taken.iter().filter(|taken| taken.output.timer == *name).collect();
            let shares = here.iter().all(|taken| taken.aim == signal.aim && taken.output.channel.is_some());
            let labels = row.timer.block.channels.iter().map(|channel| &channel.label);
            let free = labels
                .into_iter()
                .find(|label| !here.iter().any(|taken| taken.output.channel.as_ref() == Some(*label)));
            if let Some(channel) = free.filter(|_| shares) {
                let output = TimerOutput { timer: name.clone(), channel: Some(channel.clone()) };
                return Ok(TakenChannel { output, aim: signal.aim });
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

//! Where a signal may come out: every timer, counter, channel and pin that suits what the board says of it.

use std::collections::BTreeMap;

use super::{Board, Placed, Signal, StepAxis, TimerOutput};
use crate::error::{Error, Result};
use crate::part::{Part, Pinout, Timer, TopSource};
use crate::quantity::{Frequency, Tolerance};
use crate::survey::{SortBy, SurveyClock, SurveyRequest, SurveyRow, sort, survey};
use crate::target::Aim;

/// Where a signal comes out.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, serde::Serialize)]
pub struct Placement {
    /// The timer.
    pub timer: String,
    /// The base counter, where the timer shares the ones that it can choose with other timers.
    pub base: Option<String>,
    /// The channel's label.
    pub channel: String,
    /// The pin: the given one, or one that is free, where the pins of the output are known.
    pub pin: Option<String>,
    /// The pin of the complement, where the signal has one.
    pub complement: Option<String>,
}

impl Placement {
    /// `timer/channel`, and the pin where it is known.
    pub fn told(&self) -> String {
        let pin = self.pin.as_ref().map(|pin| format!(" on {pin}")).unwrap_or_default();
        let base = self.base.as_ref().map(|base| format!(" ({base})")).unwrap_or_default();
        format!("{}/{}{base}{pin}", self.timer, self.channel)
    }
}

/// The places of a board's part.
pub(super) struct Places<'b> {
    board: &'b Board,
    part: &'b Part,
    /// The pins of each output, as `timer/channel`; an `n` behind it for a complement.
    pins: BTreeMap<String, Vec<String>>,
    /// Whether any pin can have any output.
    free: bool,
}

impl<'b> Places<'b> {
    pub(super) fn of(board: &'b Board, part: &'b Part) -> Self {
        let mut pins: BTreeMap<String, Vec<String>> = BTreeMap::new();
        for output in part.pinout.as_ref().map(Pinout::outputs).unwrap_or_default() {
            let here = pins.entry(output.output()).or_default();
            if !here.contains(&output.pin) {
                here.push(output.pin);
            }
        }
        Self { board, part, pins, free: part.pinout.as_ref().is_some_and(Pinout::is_free) }
    }

    /// Where a signal may come out, the best first: as its board file says, and of what that leaves open the timers whose
    /// settings are best. Channels on a pin come before those that have none in the package.
    pub(super) fn choices(&self, signal: &Signal, place: &Placed) -> Result<Vec<Placement>> {
        let outputs = self.outputs(signal, place)?;
        let mut choices = Vec::new();
        for TimerOutput { timer, channel } in outputs {
            if self.board.is_stepping(self.part, &timer) {
                continue;
            }
            let views = self.views(&timer)?;
            let Some((_, first)) = views.first() else { continue };
            let labels = first.block.channels.iter().map(|channel| channel.label.clone());
            let labels: Vec<String> =
                labels.filter(|label| channel.as_ref().is_none_or(|named| named == label)).collect();
            for label in labels {
                let paired = first.dead_time.as_ref().is_some_and(|known| known.outputs.contains_key(&label));
                if signal.dead_time.is_some() && channel.is_none() && !paired {
                    continue;
                }
                let output = format!("{timer}/{label}");
                let complement = (signal.dead_time.is_some() && paired).then(|| format!("{output}n"));
                let complements = complement.map_or_else(|| vec![None], |output| self.pins_of(&output));
                let pins = match &place.pin {
                    Some(pin) => vec![Some(self.spelled(&output, pin))],
                    None => self.pins_of(&output),
                };
                for (base, _) in &views {
                    for pin in &pins {
                        for complement in &complements {
                            choices.push(Placement {
                                timer: timer.clone(),
                                base: base.clone(),
                                channel: label.clone(),
                                pin: pin.clone(),
                                complement: complement.clone(),
                            });
                        }
                    }
                }
            }
        }
        let taken: Vec<&String> = self.board.axes.iter().flat_map(StepAxis::pins).collect();
        choices.retain(|choice| {
            let pins = [&choice.pin, &choice.complement].into_iter().flatten();
            !pins.into_iter().any(|pin| taken.iter().any(|taken| taken.eq_ignore_ascii_case(pin)))
        });
        if !self.pins.is_empty() {
            choices.sort_by_key(|choice| choice.pin.is_none());
        }
        Ok(choices)
    }

    fn pins_of(&self, output: &str) -> Vec<Option<String>> {
        match self.pins.get(output) {
            Some(pins) => pins.iter().cloned().map(Some).collect(),
            None => vec![None],
        }
    }

    /// A pin as the catalogue writes it.
    fn spelled(&self, output: &str, pin: &str) -> String {
        let mut known = self.pins.get(output).into_iter().flatten();
        known.find(|known| known.eq_ignore_ascii_case(pin)).map_or_else(|| pin.to_owned(), Clone::clone)
    }

    /// The outputs that suit; without a channel where any of the timer's will do.
    fn outputs(&self, signal: &Signal, place: &Placed) -> Result<Vec<TimerOutput>> {
        let timer = place.on.as_ref().map(|on| on.timer.as_str());
        match (&place.on, &place.pin) {
            (Some(on), None) => {
                place.output(self.part)?;
                Ok(vec![on.clone()])
            }
            (Some(on), Some(_)) if self.free || on.channel.is_some() => {
                place.output(self.part)?;
                Ok(vec![on.clone()])
            }
            (_, Some(pin)) if !self.free => {
                let carried = self.part.outputs_on(pin, timer)?;
                let output = |one: crate::part::PinOutput| TimerOutput {
                    timer: one.timer,
                    channel: Some(one.channel),
                };
                Ok(carried.into_iter().map(output).collect())
            }
            _ => {
                let rows = self.rows(signal)?;
                let timers = rows.iter().flat_map(|row| &row.timers);
                Ok(timers.map(|timer| TimerOutput { timer: timer.clone(), channel: None }).collect())
            }
        }
    }

    /// A timer with each counter that it may share with other timers, by name; as it is where it has one of its own.
    fn views(&self, timer: &str) -> Result<Vec<(Option<String>, Timer)>> {
        let instance = self.part.instance(timer)?;
        let views = self.part.views(instance)?;
        if views.len() < 2 {
            return Ok(views.into_iter().map(|view| (None, view)).collect());
        }
        let others: Vec<String> = self
            .part
            .timers
            .iter()
            .filter(|other| other.name != timer)
            .map(|other| self.part.views(other))
            .collect::<Result<Vec<_>>>()?
            .iter()
            .flatten()
            .flat_map(counters)
            .collect();
        let shares = |view: &Timer| counters(view).iter().any(|counter| others.contains(counter));
        if views.iter().any(shares) {
            return Ok(views
                .into_iter()
                .map(|view| (view.base.as_ref().map(|base| base.name.clone()), view))
                .collect());
        }
        Ok(views.into_iter().take(1).map(|view| (None, view)).collect())
    }

    /// What each timer makes of a signal from the clock that it has on this board, best first.
    fn rows(&self, signal: &Signal) -> Result<Vec<SurveyRow>> {
        let (board, part) = (self.board, self.part);
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
}

/// The fields that make a view's counter count as it does: what two timers have in common whose counter is the same. Where
/// timers have tops of their own, a divider that they share leaves each its period.
pub(super) fn counters(view: &Timer) -> Vec<String> {
    let tops = view.block.modes.iter().filter_map(|mode| match &mode.top {
        TopSource::Register { slot, .. } | TopSource::PowerOfTwo { slot, .. } => Some(slot),
        TopSource::Compare { .. } | TopSource::Fixed(_) => None,
    });
    let tops = named(view, tops.flatten());
    if tops.is_empty() { dividers(view) } else { tops }
}

/// The fields of a view's dividers.
pub(super) fn dividers(view: &Timer) -> Vec<String> {
    named(view, view.block.dividers.iter().flat_map(|stage| &stage.slot))
}

/// Fields by the names that the device has for them, each once.
fn named<'t>(view: &Timer, fields: impl Iterator<Item = &'t String>) -> Vec<String> {
    let mut fields: Vec<String> = fields.map(|field| format!("{}{field}", view.prefix)).collect();
    fields.sort_unstable();
    fields.dedup();
    fields
}

/// Frequencies between which the periods of signals lie; those of one counter want the same.
pub(super) fn period_of(aim: Aim) -> Result<(Frequency, Frequency)> {
    Ok(match aim {
        Aim::Frequency(frequency) => (frequency, frequency),
        Aim::Period(period) => {
            let frequency = period.frequency().map_err(Error::from)?;
            (frequency, frequency)
        }
        Aim::Window(window) => (window.low, window.high),
    })
}

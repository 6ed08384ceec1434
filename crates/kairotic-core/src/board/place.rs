//! Where the signals of a board come out: as the board says, and of all ways that this leaves open the first in which
//! nothing is in the way of anything else.

use std::collections::BTreeMap;

use super::assign::{Assigned, Choice, assign, smallest_conflict};
use super::choices::{Placement, Places, period_of};
use super::sharing::{Sharing, counters_of};
use super::{Board, Placed, TimerOutput};
use crate::error::{ConflictingSignal, Error, PlacementConflict, Result};
use crate::part::{Part, Pinout, Remap, TimerUse};
use crate::search::counter_for;
use crate::target::{CounterSetting, Target};

/// Where all signals of a board come out, in their order, and how their counters count.
#[derive(Debug, Clone, PartialEq)]
pub struct Layout {
    /// The places.
    pub places: Vec<Placement>,
    /// For signals that share a counter for which each would choose another setting alone: the one for all of them.
    pub(super) counters: Vec<Option<CounterSetting>>,
}

impl Placed {
    /// Whether it says nothing.
    pub const fn is_open(&self) -> bool {
        self.on.is_none() && self.pin.is_none()
    }

    /// The timer and channel that it means; `None` where it says nothing, or its pin carries several outputs.
    ///
    /// # Errors
    /// Names that the part does not have; a pin that does not carry the output that is named.
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
            _ if free => Ok(None),
            _ => {
                let outputs = part.outputs_on(pin, timer)?;
                let [output] = outputs.as_slice() else { return Ok(None) };
                let (timer, channel) = (output.timer.clone(), Some(output.channel.clone()));
                Ok(Some(TimerOutput { timer, channel }))
            }
        }
    }
}

impl Placed {
    /// The place that it settles by itself; `None` where it leaves anything open, or means what is not there.
    pub(super) fn settled(&self, part: &Part) -> Option<Placement> {
        let TimerOutput { timer, channel } = self.output(part).ok().flatten()?;
        Some(Placement { timer, base: None, channel: channel?, pin: self.pin.clone(), complement: None })
    }
}

/// The place of one signal: its own where it names timer and channel, whatever the others do, else the one that it has
/// among all of them.
///
/// # Errors
/// As [`layout`].
pub fn place(board: &Board, part: &Part, name: &str) -> Result<TimerOutput> {
    let wanted = board.signal(name)?;
    wanted.place.output(part)?;
    if let Some(Placement { timer, channel, .. }) = wanted.place.settled(part) {
        return Ok(TimerOutput { timer, channel: Some(channel) });
    }
    let (places, signals) = (layout(board, part)?.places, board.signals.iter());
    let (_, place) =
        signals.zip(places).find(|(signal, _)| *signal == wanted).ok_or_else(|| no_place(name))?;
    Ok(TimerOutput { timer: place.timer, channel: Some(place.channel) })
}

/// The first signal of a board that comes out of a timer.
///
/// # Errors
/// As [`layout`].
pub fn signal_on<'b>(board: &'b Board, part: &Part, timer: &str) -> Result<Option<&'b str>> {
    let places = layout(board, part)?.places;
    let mut signals = board.signals.iter().zip(places);
    Ok(signals.find(|(_, place)| place.timer == timer).map(|(signal, _)| signal.name.as_str()))
}

/// Where all signals of a board come out. Of all ways the first is taken in the order of the signals and of the places that
/// suit each, the best first.
///
/// # Errors
/// Names that the part does not have; [`Error::NoPlace`] for a signal that fits nowhere; [`Error::NoPlacement`] for signals
/// that cannot stand together, and [`Error::PlacementUndecided`] where that was not settled.
pub fn layout(board: &Board, part: &Part) -> Result<Layout> {
    let places = Places::of(board, part);
    let mut candidates = Vec::new();
    for signal in &board.signals {
        candidates.push(places.choices(signal, &signal.place)?);
    }
    let all: Vec<usize> = (0..board.signals.len()).collect();
    let mut puzzle = Puzzle::of(board, part)?;
    let choices = puzzle.choices(&candidates)?;
    let chosen = match assign(&choices, &all, |group| puzzle.go_together(&candidates, group)) {
        Assigned::All(chosen) => chosen,
        Assigned::Undecided => return Err(Error::PlacementUndecided),
        Assigned::Never => return Err(puzzle.conflict(&places, &candidates, &choices, &all)?),
    };
    let chosen = candidates.iter().zip(chosen).filter_map(|(places, one)| places.get(one).cloned());
    let placed: Vec<Placement> = chosen.collect();
    let all: Vec<usize> = (0..placed.len()).collect();
    let counters = Sharing::of(part, &placed)?.counters(&puzzle.signals(&placed, &all)?)?;
    Ok(Layout { places: placed, counters })
}

/// Of so many signals in conflict it is looked for what would free them.
const FEW: usize = 8;

fn no_place(name: &str) -> Error {
    Error::NoPlace { signal: name.to_owned() }
}

/// What places have in common, each thing as a number.
struct Puzzle<'b> {
    board: &'b Board,
    part: &'b Part,
    things: BTreeMap<String, usize>,
    /// The periods that signals want, each once.
    periods: Vec<usize>,
    /// Whether signals in their places go together, as far as that was looked at.
    known: BTreeMap<Vec<(usize, usize)>, bool>,
}

impl<'b> Puzzle<'b> {
    fn of(board: &'b Board, part: &'b Part) -> Result<Self> {
        let mut distinct = Vec::new();
        let mut periods = Vec::new();
        for signal in &board.signals {
            let period = period_of(signal.aim)?;
            let known = distinct.iter().position(|known| *known == period);
            periods.push(known.unwrap_or(distinct.len()));
            if known.is_none() {
                distinct.push(period);
            }
        }
        Ok(Self { board, part, things: BTreeMap::new(), periods, known: BTreeMap::new() })
    }

    fn thing(&mut self, name: String) -> usize {
        let next = self.things.len();
        *self.things.entry(name).or_insert(next)
    }

    /// The places as what they take and share.
    fn choices(&mut self, candidates: &[Vec<Placement>]) -> Result<Vec<Vec<Choice>>> {
        let mut all = Vec::new();
        for (signal, places) in candidates.iter().enumerate() {
            all.push(places.iter().map(|place| self.choice(signal, place)).collect::<Result<Vec<_>>>()?);
        }
        Ok(all)
    }

    fn choice(&mut self, signal: usize, place: &Placement) -> Result<Choice> {
        let dead_time = self.board.signals.get(signal).and_then(|signal| signal.dead_time);
        let Placement { timer, channel, pin, complement, .. } = place;
        let mut choice = Choice::default();
        choice.takes.push(self.thing(format!("output {timer}/{channel}")));
        for pin in pin.iter().chain(complement) {
            choice.takes.push(self.thing(format!("pin {}", pin.to_ascii_uppercase())));
        }
        let period = self.periods.get(signal).copied().unwrap_or(0);
        for counter in counters_of(self.part, place)? {
            choice.agrees.push((self.thing(counter), period));
        }
        if let Some(dead_time) = dead_time {
            let wanted = self.thing(format!("dead time {dead_time}"));
            choice.agrees.push((self.thing(format!("dead time of {timer}")), wanted));
        }
        // The lines of one motor are looked at together.
        if let Some(other) = self.other_line(signal) {
            let lines = self.thing(format!("lines {} and {}", signal.min(other), signal.max(other)));
            choice.agrees.push((lines, lines));
        }
        Ok(choice)
    }

    /// Whether signals that share a counter can.
    fn go_together(&mut self, candidates: &[Vec<Placement>], group: &[(usize, usize)]) -> bool {
        if let Some(known) = self.known.get(group) {
            return *known;
        }
        let place =
            |(signal, place): &(usize, usize)| Some((*signal, candidates.get(*signal)?.get(*place)?.clone()));
        let placed: Vec<(usize, Placement)> = group.iter().filter_map(place).collect();
        let signals = placed.iter().map(|(signal, place)| self.signal(*signal, place));
        let fits = self.have_route(placed.iter().map(|(_, place)| place))
            && self.lines_count_alike(&placed).unwrap_or(false)
            && signals.collect::<Result<Vec<_>>>().is_ok_and(|signals| {
                // What one of them cannot even alone is told of that one.
                !matches!(counter_for(&signals), Err(Error::TimeBasesDiffer { .. }))
            });
        self.known.insert(group.to_vec(), fits);
        fits
    }

    fn other_line(&self, signal: usize) -> Option<usize> {
        self.board.signals.get(signal).and_then(|signal| self.board.other_line(signal))
    }

    /// Whether both lines of each motor have counters that count alike: one value is written to either.
    fn lines_count_alike(&self, placed: &[(usize, Placement)]) -> Result<bool> {
        for (signal, place) in placed {
            let other = self.other_line(*signal);
            let Some((_, other)) = placed.iter().find(|(one, _)| Some(*one) == other) else { continue };
            let clock = |timer: &str| self.board.clock.of(self.part, timer).map(|(clock, _)| clock);
            let counter = |one: &Placement| -> Result<(String, u32)> {
                let view = self.part.timer(&one.timer, one.base.as_deref())?;
                Ok((self.part.instance(&one.timer)?.block.clone(), view.block.counter_bits))
            };
            let alike = counter(place)? == counter(other)?;
            if place.timer != other.timer && !(alike && clock(&place.timer)? == clock(&other.timer)?) {
                return Ok(false);
            }
        }
        Ok(true)
    }

    /// Whether one value of the field that moves all channels of a timer puts each on its pin, for every timer that has such.
    fn have_route<'p>(&self, places: impl Iterator<Item = &'p Placement> + Clone) -> bool {
        let remaps = self.part.pinout.iter().flat_map(|pinout| &pinout.remaps);
        remaps.into_iter().all(|Remap { timer, routes, .. }| {
            routes.iter().any(|route| {
                let on = |label: &str, pin: &Option<String>| {
                    pin.as_ref().is_none_or(|pin| route.pins.get(label) == Some(pin))
                };
                let mut here = places.clone().filter(|place| place.timer == *timer);
                here.all(|place| {
                    on(&place.channel, &place.pin) && on(&format!("{}n", place.channel), &place.complement)
                })
            })
        })
    }

    fn signal(&self, signal: usize, place: &Placement) -> Result<(TimerUse<'b>, Target)> {
        let signal = self.board.signals.get(signal).ok_or_else(|| no_place(""))?;
        let (clock, _) = self.board.clock.of(self.part, &place.timer)?;
        let on = TimerUse { clock, base: place.base.clone(), ..TimerUse::of(self.part, &place.timer) };
        Ok((on, Target { channel: Some(place.channel.clone()), ..self.board.target(signal)? }.begun()))
    }

    fn signals(&self, placed: &[Placement], group: &[usize]) -> Result<Vec<(TimerUse<'b>, Target)>> {
        let of = |signal: &usize| placed.get(*signal).map(|place| self.signal(*signal, place));
        group.iter().filter_map(of).collect()
    }

    /// Where a signal would come out if it could be anywhere in `open`, and all others could be placed then.
    fn freed(
        &mut self,
        candidates: &[Vec<Placement>],
        signal: usize,
        open: &[Placement],
        all: &[usize],
    ) -> Result<Option<String>> {
        let mut freed = candidates.to_vec();
        if let Some(own) = freed.get_mut(signal) {
            *own = open.to_vec();
        }
        self.known.clear();
        let choices = self.choices(&freed)?;
        let found = assign(&choices, all, |group| self.go_together(&freed, group));
        self.known.clear();
        let Assigned::All(chosen) = found else { return Ok(None) };
        Ok(chosen.get(signal).and_then(|one| open.get(*one)).map(Placement::told))
    }

    /// Why not all signals can be placed: a smallest set of them that cannot, and what would free them.
    fn conflict(
        &mut self,
        places: &Places<'b>,
        candidates: &[Vec<Placement>],
        choices: &[Vec<Choice>],
        all: &[usize],
    ) -> Result<Error> {
        let found = smallest_conflict(choices, all, |group| self.go_together(candidates, group));
        let Some(conflict) = found else { return Ok(Error::PlacementUndecided) };
        // Of many signals that are in each other's way, no single one frees the others.
        let few = conflict.len() <= FEW;
        let mut signals = Vec::new();
        for place in conflict {
            let Some(signal) = self.board.signals.get(place) else { continue };
            let own = candidates.get(place).map(Vec::as_slice).unwrap_or_default();
            let mut told: Vec<String> = Vec::new();
            for choice in own {
                let choice = choice.told();
                if !told.contains(&choice) {
                    told.push(choice);
                }
            }
            let mut instead = None;
            // A pin that is given stays, if it can.
            let pin = Placed { on: None, pin: signal.place.pin.clone() };
            for freer in [pin, Placed::default()] {
                if few && instead.is_none() && freer != signal.place {
                    let open = places.choices(signal, &freer).unwrap_or_default();
                    instead = self.freed(candidates, place, &open, all)?;
                }
            }
            signals.push(ConflictingSignal { name: signal.name.clone(), choices: told, instead });
        }
        match signals.as_slice() {
            [alone] if alone.choices.is_empty() => Ok(no_place(&alone.name)),
            _ => Ok(Error::NoPlacement(Box::new(PlacementConflict { signals }))),
        }
    }
}

//! What is wrong with a board, beyond what its texts say by themselves.

use std::collections::BTreeMap;

use super::choices::period_of;
use super::drives::reversible;
use super::{Asked, Board, Placed, Signal, StepAxis, TimerOutput};
use crate::clock::oscillator;
use crate::error::Error;
use crate::load::{LoadKind, Wiring};
use crate::part::Part;
use crate::part::check::{PartProblem, Path};
use crate::quantity::{Deviation, Time};
use crate::target::{Active, Aim, Span};

/// Everything that does not fit together, with its place: names that are nowhere, spans that no frame holds, requirements
/// that mean nothing. Signals that are in each other's way are [`clashes`].
pub fn problems(board: &Board, part: &Part) -> Vec<PartProblem> {
    let mut check = BoardCheck { board, part, found: Vec::new() };
    let root = Path::default();
    check.names(&root.key("load"), board.loads.iter().map(|load| load.name.as_str()));
    check.names(&root.key("signal"), board.signals.iter().map(|signal| signal.name.as_str()));
    check.complements(&root.key("signal"));
    check.clock(&root.key("clock"));
    for (index, signal) in board.signals.iter().enumerate() {
        let path = root.key("signal").index(index);
        check.signal(&path, signal);
        if let Err(error) = signal.place.output(part) {
            check.error(&path.key(check.wrong_key(signal)), &error);
        }
    }
    for (index, axis) in board.axes.iter().enumerate() {
        check.axis(&root.key(AXES).index(index), axis, index);
    }
    check.found
}

/// The list of a board's steppers, as paths name it. In a file they stand among the signals.
pub const AXES: &str = "axis";

/// Signals whose own places are in each other's way: two in one, and two periods of one timer.
pub fn clashes(board: &Board, part: &Part) -> Vec<PartProblem> {
    let mut check = BoardCheck { board, part, found: Vec::new() };
    let mut taken: BTreeMap<TimerOutput, usize> = BTreeMap::new();
    for (index, signal) in board.signals.iter().enumerate() {
        let path = Path::default().key("signal").index(index);
        check.pin(&path, signal, board.signals.get(..index).unwrap_or_default());
        if let Ok(Some(place)) = signal.place.output(part) {
            check.shared(&path, signal, &place, &taken);
            taken.entry(place).or_insert(index);
        }
    }
    check.found
}

struct BoardCheck<'b> {
    board: &'b Board,
    part: &'b Part,
    found: Vec<PartProblem>,
}

impl BoardCheck<'_> {
    /// A stepper: its name, its timer, which it has to itself, and its pins.
    fn axis(&mut self, path: &Path, axis: &StepAxis, index: usize) {
        let signals = &self.board.signals;
        let before = self.board.axes.get(..index).unwrap_or_default();
        if signals.iter().any(|signal| signal.name == axis.name)
            || before.iter().any(|one| one.name == axis.name)
        {
            self.report(&path.key("name"), format!("there is a signal `{}` already", axis.name));
        }
        let key = if axis.place.on.is_none() { "pin" } else { "on" };
        let output = match axis.output(self.part) {
            Ok(output) => output,
            Err(error) => return self.error(&path.key(key), &error),
        };
        let timer = &output.timer;
        let same = |place: &Placed| {
            place.output(self.part).is_ok_and(|one| one.is_some_and(|one| one.timer == *timer))
        };
        let mut users = signals.iter().filter(|signal| same(&signal.place)).map(|signal| &signal.name);
        let mut steppers = before.iter().filter(|one| same(&one.place)).map(|one| &one.name);
        if let Some(other) = users.next().or_else(|| steppers.next()) {
            let text = format!("{timer} times the steps, and so cannot make the signal `{other}` as well");
            self.report(&path.key(key), text);
        }
        let others: Vec<(&String, &String)> = signals
            .iter()
            .filter_map(|signal| Some((signal.place.pin.as_ref()?, &signal.name)))
            .chain(before.iter().flat_map(|one| one.pins().map(move |pin| (pin, &one.name))))
            .collect();
        self.windings(&path.key("windings"), axis, before);
        let mut own: Vec<&String> = Vec::new();
        for pin in axis.pins() {
            let is_same = |other: &&String| other.eq_ignore_ascii_case(pin);
            if own.iter().any(is_same) {
                self.report(path, format!("{pin} is named twice"));
            } else if let Some((_, name)) = others.iter().find(|(other, _)| is_same(other)) {
                self.report(path, format!("{pin} has the signal `{name}` already"));
            }
            own.push(pin);
        }
    }

    /// The signals of two windings: two that are there, and no other stepper's.
    fn windings(&mut self, path: &Path, axis: &StepAxis, before: &[StepAxis]) {
        let Some(windings) = &axis.windings else { return };
        for (index, name) in windings.iter().enumerate() {
            let path = path.index(index);
            let taken = before.iter().find(|one| one.windings.iter().flatten().any(|other| other == name));
            if let Err(error) = self.board.signal(name) {
                self.error(&path, &error);
            } else if let Some(other) = taken {
                self.report(&path, format!("`{name}` drives a winding of `{}` already", other.name));
            }
        }
        if windings[0] == windings[1] {
            self.report(path, "both windings are one signal: name two");
        }
    }

    fn report(&mut self, path: &Path, message: impl Into<String>) {
        self.found.push(PartProblem { path: path.clone(), message: message.into() });
    }

    /// Reports an error with what to try.
    fn error(&mut self, path: &Path, error: &Error) {
        let hint = error.hint().map(|hint| format!("; {hint}")).unwrap_or_default();
        self.report(path, format!("{error}{hint}"));
    }

    /// The clock, by the way to the first timer: limits and names are the same for all.
    fn clock(&mut self, path: &Path) {
        let clock = &self.board.clock;
        if let Some(source) = &clock.source
            && let Err(error) = oscillator(self.part, source)
        {
            self.error(&path.key("source"), &error);
            return;
        }
        let Some(timer) = self.part.timers.first() else { return };
        if let Err(error) = clock.of(self.part, &timer.name) {
            let key = match error {
                Error::UnknownName { .. } if clock.system.is_some() => "bus",
                _ if clock.system.is_some() => "sysclk",
                _ if clock.registers.is_empty() => "source",
                _ => "registers",
            };
            self.error(&path.key(key), &error);
        }
    }

    /// A complement has a name of its own in captures, which no other signal may have.
    fn complements(&mut self, path: &Path) {
        let signals = &self.board.signals;
        let paired: Vec<&Signal> = signals.iter().filter(|signal| signal.dead_time.is_some()).collect();
        let clash = |name: &str| paired.iter().find(|signal| format!("{}n", signal.name) == name);
        let found: Vec<(usize, String)> = (0..)
            .zip(signals)
            .filter_map(|(index, signal)| {
                let of = clash(&signal.name)?;
                let name = &signal.name;
                Some((
                    index,
                    format!("`{name}` is what the complement of `{}` is called in a capture", of.name),
                ))
            })
            .collect();
        for (index, text) in found {
            self.report(&path.index(index).key("name"), text);
        }
    }

    fn names<'n>(&mut self, path: &Path, names: impl Iterator<Item = &'n str>) {
        let mut seen: Vec<&str> = Vec::new();
        for (index, name) in names.enumerate() {
            if seen.contains(&name) {
                let what = path.to_string();
                self.report(&path.index(index).key("name"), format!("there is a {what} `{name}` already"));
            }
            seen.push(name);
        }
    }

    fn signal(&mut self, path: &Path, signal: &Signal) {
        if let Some(name) = &signal.load
            && self.board.load_of(signal).is_none()
        {
            let known = self.board.loads.iter().map(|load| load.name.as_str());
            self.error(&path.key("load"), &Error::unknown("load", name, "the board", known));
            return;
        }
        let period = match signal.aim {
            Aim::Frequency(frequency) => frequency.period(),
            Aim::Period(period) => period.positive(),
            // What fits the shortest period of a window fits all of them.
            Aim::Window(window) => window.high.period(),
        };
        self.second_line(&path.key("second-line"), signal);
        let Ok(period) = period else { return };
        let load = self.board.load_of(signal);
        if let (Some(Asked::Level(level)), Some(load)) = (signal.asked, load)
            && let Err(error) = load.kind.active(level)
        {
            self.error(&path.key("at"), &error);
        }
        let span = signal.span.or_else(|| load.and_then(|load| load.kind.span().ok()));
        let key = if signal.span.is_some() { "span" } else { "load" };
        if let Some(Span::Pulse(span)) = span
            && span.high > period
        {
            let text = format!("its span reaches {}, which is longer than a period of {period}", span.high);
            self.report(&path.key(key), text);
        }
        if let Some(Asked::Active(Active::Pulse(pulse))) = signal.asked
            && pulse > period
        {
            let text = format!("a pulse of {pulse} is longer than a period of {period}");
            self.report(&path.key("pulse"), text);
        }
        self.needs(&path.key("needs"), signal, period);
    }

    /// The other line of a motor: a signal like the first, which nothing else is asked of.
    fn second_line(&mut self, path: &Path, signal: &Signal) {
        let Some(name) = &signal.second_line else { return };
        let signals = &self.board.signals;
        let Some(other) = signals.iter().find(|other| other.name == *name) else {
            let known = signals.iter().map(|signal| signal.name.as_str());
            self.error(path, &Error::unknown("signal", name, "the board", known));
            return;
        };
        let two_lines = reversible(self.board, signal).is_some_and(|motor| motor.wiring == Wiring::TwoLines);
        let shared = signals.iter().filter(|one| one.second_line.as_ref() == Some(name)).count() > 1;
        let message = if other.name == signal.name {
            "a signal is not its own second line".to_owned()
        } else if !two_lines {
            "only a motor whose `wiring` is `two-lines` has a second line".to_owned()
        } else if other.load != signal.load {
            format!("`{name}` drives another load: give both lines the same one")
        } else if other.aim != signal.aim || other.level != signal.level {
            format!("`{name}` is another kind of signal: give both lines one frequency and one active level")
        } else if other.asked.is_some() {
            format!("`{name}` begins as this signal's level says: leave out its own `at`, `duty` and `pulse`")
        } else if shared || other.second_line.is_some() {
            format!("`{name}` is a line of another motor already")
        } else {
            return;
        };
        self.report(path, message);
    }

    /// Requirements that could never be missed, or never be met.
    fn needs(&mut self, path: &Path, signal: &Signal, period: Time) {
        let needs = &signal.needs;
        if needs.step.is_some() && signal.load.is_none() {
            self.report(&path.key("step"), "a step in load units needs a load: name one with `load`");
        }
        if needs.level.is_some() && signal.load.is_none() {
            self.report(&path.key("level"), "a level error needs a load: name one with `load`");
        }
        if needs.pulse.is_some() && signal.asked.is_none() {
            self.report(
                &path.key("pulse"),
                "there is no pulse to hold it against: give `pulse`, `duty` or `at`",
            );
        }
        if let Some(pulse) = needs.pulse.filter(|pulse| *pulse >= period) {
            self.report(&path.key("pulse"), format!("{pulse} is no less than a whole period of {period}"));
        }
        // A clock that is wrong is told of where it stands.
        let known = self.board.clock.deviation(self.part).map_or(true, |known| known > Deviation::ZERO);
        if needs.clock.is_some() && !known {
            let text = "the clock's deviation is not stated: write it behind its frequency, as in 16MHz+-30ppm, or name an internal oscillator as its source";
            self.report(&path.key("clock"), text);
        }
    }

    /// No two signals come out on one pin.
    fn pin(&mut self, path: &Path, signal: &Signal, before: &[Signal]) {
        let Some(pin) = &signal.place.pin else { return };
        let same =
            |other: &&Signal| other.place.pin.as_ref().is_some_and(|other| other.eq_ignore_ascii_case(pin));
        if let Some(other) = before.iter().find(same) {
            self.report(&path.key("pin"), format!("{pin} has the signal `{}` already", other.name));
        }
    }

    /// Which key of a place is wrong that means no output.
    fn wrong_key(&self, signal: &Signal) -> &'static str {
        let wrong_timer = signal.place.on.as_ref().is_some_and(|on| {
            let named = Placed { on: Some(on.clone()), pin: None };
            named.output(self.part).is_err()
        });
        if wrong_timer || signal.place.pin.is_none() { "on" } else { "pin" }
    }

    /// Signals that cannot both have what they want.
    fn shared(
        &mut self,
        path: &Path,
        signal: &Signal,
        place: &TimerOutput,
        taken: &BTreeMap<TimerOutput, usize>,
    ) {
        let key = if signal.place.on.is_none() { "pin" } else { "on" };
        let mut others = taken.iter().filter(|(output, _)| output.timer == place.timer);
        let named = |index: usize| self.board.signals.get(index);
        let complaint = others.find_map(|(TimerOutput { timer, channel }, index)| {
            let other = named(*index)?;
            if *channel == place.channel && channel.is_some() {
                let label = channel.as_deref().unwrap_or_default();
                return Some(format!("{timer}/{label} has the signal `{}` already", other.name));
            }
            // What is no period is told of where it stands.
            let differs = period_of(other.aim).ok()? != period_of(signal.aim).ok()?;
            differs.then(|| {
                format!("{timer} has one period for all its channels, and `{}` wants another", other.name)
            })
        });
        if let Some(complaint) = complaint {
            self.report(&path.key(key), complaint);
        }
    }
}

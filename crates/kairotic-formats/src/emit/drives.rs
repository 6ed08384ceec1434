//! Motors that turn both ways, in the terms of the code: which signals are their lines, and the numbers of their levels.

use kairotic_core::board::{self, DirectionLines, PlannedLevels, Signal};
use kairotic_core::load::Kind;
use kairotic_core::quantity::Time;

use super::words::type_bits;
use super::{EmitError, EmitRequest, Named};

/// A motor that turns both ways, as the code drives it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) struct EmittedDrive {
    /// What says which way.
    pub(super) lines: DirectionLines,
    /// How long it rests before it turns the other way, in milliseconds.
    pub(super) pause_ms: u64,
    /// Which way it turns from the start.
    pub(super) begins: i8,
}

impl EmittedDrive {
    /// The width of the words that hold its pause.
    pub(super) fn pause_bits(&self) -> u32 {
        type_bits(self.pause_ms).max(16)
    }
}

/// For each signal what the code drives with it; `levels` are those of each signal.
pub(super) fn drives(
    request: EmitRequest<'_>,
    levels: &[Option<PlannedLevels>],
) -> Result<Vec<Option<EmittedDrive>>, EmitError> {
    let mut drives = Vec::new();
    for (place, planned) in board::drives(request.board).into_iter().enumerate() {
        let signal = |at: usize| request.plan.signals.get(at);
        // What cannot be put to rest by its compare value is turned round by nobody.
        let rests = |at: usize| signal(at).is_some_and(|signal| signal.off.is_some());
        let own = levels.get(place).and_then(Option::as_ref);
        let Some((planned, own)) = planned.zip(own).filter(|_| rests(place)) else {
            drives.push(None);
            continue;
        };
        if let DirectionLines::Second(second) = planned.lines {
            let other = levels.get(second).and_then(Option::as_ref);
            if other != Some(own) || signal(second).map(|one| one.off) != signal(place).map(|one| one.off) {
                let name = |at: usize| signal(at).map(|signal| signal.name.clone()).unwrap_or_default();
                return Err(EmitError::Lines { first: name(place), second: name(second) });
            }
        }
        let pause_ms = planned.pause.map_or(0, milliseconds);
        drives.push(Some(EmittedDrive { lines: planned.lines, pause_ms, begins: planned.begins }));
    }
    Ok(drives)
}

/// A time in whole milliseconds, rounded up.
fn milliseconds(time: Time) -> u64 {
    let parts = time.value().times(1000_u32.into()).map_or(0, |value| value.ceiling());
    u64::try_from(parts).unwrap_or(u64::MAX)
}

impl Named<'_> {
    /// The drive whose first line a signal is.
    pub(super) fn drive(&self, signal: usize) -> Option<EmittedDrive> {
        self.drives.get(signal).copied().flatten()
    }

    /// The signal whose drive's second line a signal is.
    pub(super) fn first_line(&self, signal: usize) -> Option<usize> {
        let is_its = |drive: &Option<EmittedDrive>| {
            drive.as_ref().is_some_and(|drive| drive.lines == DirectionLines::Second(signal))
        };
        self.drives.iter().position(is_its)
    }

    /// Whether a signal is one of several lines of a drive: its compare value is the drive's alone to set.
    pub(super) fn is_driven(&self, signal: usize) -> bool {
        self.drive(signal).is_some() || self.first_line(signal).is_some()
    }

    /// The lowest and the highest level that a signal's function takes.
    pub(super) fn level_ends(&self, signal: usize, levels: &PlannedLevels) -> (i64, i64) {
        match self.drive(signal) {
            Some(_) => (-levels.highest, levels.highest),
            None => (levels.lowest, levels.highest),
        }
    }

    /// The signals that drive one line of two: those whose other line the code does not drive, and where it drives none,
    /// those that have no other on the board.
    pub(super) fn one_sided(&self, with_levels: bool) -> Vec<String> {
        let board = self.request.board;
        let planned = board::drives(board);
        let reverses = |signal: &Signal| {
            let load = board.load_of(signal).map(|load| &load.kind);
            matches!(load, Some(Kind::Motor(motor)) if motor.wiring.reverses())
        };
        let has_other = |place: usize| {
            planned.get(place).is_some_and(Option::is_some)
                || planned.iter().flatten().any(|drive| drive.lines == DirectionLines::Second(place))
        };
        let is_line = |place: usize| if with_levels { self.is_driven(place) } else { has_other(place) };
        let signals = board.signals.iter().enumerate();
        let alone = signals.filter(|(place, signal)| reverses(signal) && !is_line(*place));
        alone.map(|(_, signal)| signal.name.clone()).collect()
    }

    /// The functions for direction lines that have to be supplied, and why.
    pub(super) fn direction_supplies(&self) -> Vec<(String, String)> {
        let beside =
            |place: &usize| self.drive(*place).is_some_and(|drive| drive.lines == DirectionLines::Beside);
        let told = |place: usize| {
            let name = self.request.board.signals.get(place).map_or("", |signal| signal.name.as_str());
            let why = format!(
                "the direction lines of {name}: the first high and the second low at 1, the other way round at -1, both low at 0"
            );
            Some((self.direction(place)?, why))
        };
        (0..self.signals.len()).filter(beside).filter_map(told).collect()
    }

    /// What the function for a drive's direction lines is called.
    pub(super) fn direction(&self, signal: usize) -> Option<String> {
        Some(format!("{}_direction", self.signals.get(signal)?))
    }
}

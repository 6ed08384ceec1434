//! Motors that turn both ways: which lines they hang on, and how long they rest before they turn round.

use serde::Serialize;

use super::{Asked, Board, Signal};
use crate::load::{Kind, Motor, Wiring};
use crate::quantity::{Rational, Time};

/// A motor that turns both ways, as its signals drive it.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
pub struct PlannedDrive {
    /// What says which way.
    pub lines: DirectionLines,
    /// How long it rests before it turns the other way.
    pub pause: Option<Time>,
    /// Which way it turns from the start: 1 or -1, and 0 where it rests.
    pub begins: i8,
}

/// What says which way a motor turns.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum DirectionLines {
    /// The PWM is on one of two lines: the other is the signal at this place.
    Second(usize),
    /// Two lines beside the one with the PWM, which are no signals.
    Beside,
}

/// For each signal of a board its drive, where it is the first line of one that turns both ways. A motor on two lines of
/// which the board has one is none.
pub fn drives(board: &Board) -> Vec<Option<PlannedDrive>> {
    let of = |signal: &Signal| {
        let Motor { wiring, pause, .. } = reversible(board, signal)?;
        let lines = match wiring {
            Wiring::TwoLines => DirectionLines::Second(board.second_line(signal)?),
            Wiring::EnableAndDirection => DirectionLines::Beside,
            Wiring::OneSwitch => return None,
        };
        let begins = match signal.asked {
            Some(Asked::Level(level)) => level.value().cmp(&Rational::ZERO) as i8,
            Some(Asked::Active(_)) => 1,
            None => 0,
        };
        Some(PlannedDrive { lines, pause: *pause, begins })
    };
    board.signals.iter().map(of).collect()
}

/// The motor that a signal drives, where that turns both ways.
pub(super) fn reversible<'b>(board: &'b Board, signal: &Signal) -> Option<&'b Motor> {
    match board.load_of(signal).map(|load| &load.kind) {
        Some(Kind::Motor(motor)) if motor.wiring.reverses() => Some(motor),
        _ => None,
    }
}

impl Board {
    /// The place of the signal on the other line of a signal's motor.
    fn second_line(&self, signal: &Signal) -> Option<usize> {
        let name = signal.second_line.as_ref()?;
        self.signals.iter().position(|other| other.name == *name)
    }

    /// The signal whose motor's other line a signal is.
    fn first_line(&self, signal: &Signal) -> Option<&Signal> {
        self.signals.iter().find(|other| other.second_line.as_ref() == Some(&signal.name))
    }

    /// The other line of the motor of which a signal is one of two, by its place.
    pub(super) fn other_line(&self, signal: &Signal) -> Option<usize> {
        let first = self.first_line(signal).map(|first| &first.name);
        let name = first.or(signal.second_line.as_ref())?;
        self.signals.iter().position(|other| other.name == *name)
    }

    /// What is asked of a signal from the start: a level below zero is the other line's.
    pub(super) fn asked_of(&self, signal: &Signal) -> Option<Asked> {
        let backward = |asked: &Asked| matches!(asked, Asked::Level(level) if level.value() < Rational::ZERO);
        match self.first_line(signal) {
            Some(first) => first.asked.filter(backward),
            None => signal.asked.filter(|asked| signal.second_line.is_none() || !backward(asked)),
        }
    }
}

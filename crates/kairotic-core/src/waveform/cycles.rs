//! Periods and high times, measured on the events that a machine plays.

use super::machine::{Event, EventKind, Player};

/// One run of the counter through its sequence.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Cycle {
    /// The source clock at which it starts.
    pub start: u128,
    /// Source clocks until the next one.
    pub length: u128,
    /// Source clocks during which the pin is high.
    pub high: u128,
}

/// The cycles of a playing machine, without end.
#[derive(Debug, Clone)]
pub struct Cycles<'w> {
    player: Player<'w>,
    start: u128,
    since: u128,
    level: bool,
}

impl<'w> Player<'w> {
    /// Its cycles, from one start of the counter's sequence to the next.
    pub fn cycles(self) -> Cycles<'w> {
        Cycles { player: self, start: 0, since: 0, level: false }
    }
}

impl Iterator for Cycles<'_> {
    type Item = Cycle;

    fn next(&mut self) -> Option<Cycle> {
        let mut high = 0;
        loop {
            let Event { at, kind } = self.player.next()?;
            if self.level {
                high += at - self.since;
            }
            self.since = at;
            match kind {
                EventKind::Level(level) => self.level = level,
                // The first wrap is the timer's start.
                EventKind::Wrap if at == 0 => {}
                EventKind::Wrap => {
                    let cycle = Cycle { start: self.start, length: at - self.start, high };
                    self.start = at;
                    return Some(cycle);
                }
            }
        }
    }
}

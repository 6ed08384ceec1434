//! A player that leaps over counts at which nothing can happen: a slow signal of a wide counter costs its events, not its
//! ticks. That it does what a player does that steps is held by the tests of repeated waves.

use super::machine::{Event, Player};
use crate::part::Counting;

impl Player<'_> {
    /// The next event.
    pub(super) fn leaping(&mut self) -> Event {
        loop {
            if let Some(event) = self.queued() {
                return event;
            }
            self.leap();
            self.advance();
        }
    }

    /// Goes on to right before the next count at which the output may change or the counter may turn, if that is further away
    /// than one count, and nothing of this one is left to happen.
    fn leap(&mut self) {
        if !self.is_at_rest() {
            return;
        }
        let top = self.top_now();
        let compare = self.compare_now() / u64::from(self.machine.per_tick.max(1));
        let now = self.counter.value;
        let turns = [top.saturating_sub(1), top, self.counter.limit, compare];
        if turns.contains(&now) {
            return;
        }
        let events = turns.into_iter().chain([0]);
        let down = self.counter.falling || self.machine.counting == Counting::Down;
        let next = if down {
            events.filter(|event| *event < now).max()
        } else {
            events.filter(|event| *event > now).min()
        };
        let Some(counts) = next.map(|next| next.abs_diff(now) - 1).filter(|counts| *counts > 0) else {
            return;
        };
        if self.spend(u128::from(counts) * u128::from(self.machine.per_tick)) {
            self.counter.value = if down { now - counts } else { now + counts };
        }
    }
}

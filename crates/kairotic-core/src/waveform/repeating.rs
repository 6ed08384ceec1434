//! A machine whose registers stay as they are: played until it stands as it stood before, and repeated from then on.

use super::machine::{Event, EventKind, Machine, Player, Values};

/// A pattern of more events is not kept: it is played on instead.
const LONGEST: usize = 1 << 16;

/// The events of a machine without writes, without end: those that [`Machine::play`] gives, in a time that does not grow with
/// the ticks of a period.
#[derive(Debug, Clone)]
pub struct Repeating {
    player: Player<'static>,
    /// Wraps so far: the first is the start, which the ones that follow need not be like.
    wraps: u32,
    /// The machine at a wrap, and the events from then on.
    pattern: Option<(Player<'static>, Vec<Event>)>,
    /// How long the pattern is, once it is known, and which of its events is next.
    known: Option<(u128, usize)>,
    /// How often it has been repeated, in source clocks.
    shift: u128,
}

impl Machine {
    /// Plays it with registers that stay as they are.
    pub fn repeat(&self, values: Values) -> Repeating {
        self.repeat_from(values, false)
    }

    /// The same from an output that is active when the counter begins, or is not.
    pub fn repeat_from(&self, values: Values, active: bool) -> Repeating {
        let player = self.play(values, &[]).beginning(active);
        Repeating { player, wraps: 0, pattern: None, known: None, shift: 0 }
    }
}

impl Iterator for Repeating {
    type Item = Event;

    fn next(&mut self) -> Option<Event> {
        if let (Some((length, next)), Some((_, events))) = (&mut self.known, &self.pattern) {
            let event = events.get(*next)?;
            let at = event.at + self.shift;
            *next += 1;
            if *next == events.len() {
                (*next, self.shift) = (0, self.shift + *length);
            }
            return Some(Event { at, ..*event });
        }
        let event = self.player.leaping();
        if event.kind == EventKind::Wrap {
            self.wraps += 1;
            if let Some((anchor, events)) = &self.pattern
                && let Some(first) = events.first()
                && anchor.stands_as(&self.player)
            {
                // This wrap is the first event of the pattern again.
                let length = event.at - first.at;
                self.shift = length;
                self.known = Some(if events.len() == 1 { (length, 0) } else { (length, 1) });
                if events.len() == 1 {
                    self.shift += length;
                }
                return Some(event);
            }
            if self.wraps == 2 {
                self.pattern = Some((self.player.clone(), Vec::new()));
            }
        }
        if let Some((_, events)) = &mut self.pattern {
            events.push(event);
            if events.len() > LONGEST {
                self.pattern = None;
            }
        }
        Some(event)
    }
}

//! A counter whose compare value changes: each value counts from the beginning of a period on, as where it is buffered.

use std::sync::Arc;

use crate::part::OutputRule;
use crate::waveform::{Event, EventKind, Machine, Repeating, Values};

/// What a machine does while its compare value changes, without end.
pub(super) struct Changing {
    machine: Machine,
    top: u64,
    /// From which source clock on each compare value counts.
    changes: Arc<[(u128, u64)]>,
    /// The change that comes next.
    next: usize,
    piece: Option<HeldPeriods>,
    /// The pin's level.
    level: bool,
}

/// The periods of one compare value.
struct HeldPeriods {
    events: Repeating,
    /// What comes before those.
    ahead: [Option<Event>; 2],
    /// The source clock of its own at which it begins.
    base: u128,
    begins: u128,
    ends: u128,
}

impl Changing {
    pub(super) const fn of(machine: Machine, top: u64, changes: Arc<[(u128, u64)]>) -> Self {
        let level = machine.complement ^ machine.inverted;
        Self { machine, top, changes, next: 0, piece: None, level }
    }

    fn held(&self, index: usize) -> Option<HeldPeriods> {
        let (begins, compare) = *self.changes.get(index)?;
        let ends = self.changes.get(index + 1).map_or(u128::MAX, |(next, _)| *next);
        let values = Values { top: self.top, compare };
        if self.machine.output == OutputRule::ClearUpSetDown {
            // It changes where the counter meets the compare value, and goes on as it is until then.
            let active = self.level ^ self.machine.complement ^ self.machine.inverted;
            let events = self.machine.repeat_from(values, active);
            return Some(HeldPeriods { events, ahead: [None, None], base: 0, begins, ends });
        }
        let mut events = self.machine.repeat(values);
        let (mut wraps, mut base, mut level, mut first) = (0, 0, None, None);
        // The first period comes from a counter at rest; the second is as all that follow.
        for event in events.by_ref() {
            if wraps == 2 && event.at > base {
                first = Some(event);
                break;
            }
            match event.kind {
                EventKind::Wrap => (wraps, base) = (wraps + 1, event.at),
                EventKind::Level(found) => level = Some(found),
            }
        }
        let begun = level.map(|level| Event { at: base, kind: EventKind::Level(level) });
        Some(HeldPeriods { events, ahead: [begun, first], base, begins, ends })
    }
}

impl Iterator for HeldPeriods {
    type Item = Event;

    fn next(&mut self) -> Option<Event> {
        let event = self.ahead.iter_mut().find_map(Option::take).or_else(|| self.events.next())?;
        let at = event.at - self.base + self.begins;
        (at < self.ends).then_some(Event { at, ..event })
    }
}

impl Iterator for Changing {
    type Item = Event;

    fn next(&mut self) -> Option<Event> {
        loop {
            if let Some(event) = self.piece.as_mut().and_then(HeldPeriods::next) {
                if let EventKind::Level(level) = event.kind {
                    self.level = level;
                }
                return Some(event);
            }
            self.piece = Some(self.held(self.next)?);
            self.next += 1;
        }
    }
}

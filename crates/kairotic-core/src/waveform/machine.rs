//! A timer channel as a machine: divider, counter, buffered registers, output.

use super::counter::{Counter, corners};
use crate::part::{Counting, Dither, Mode, OutputRule, Timer, UpdatePoint, Updates};
use crate::quantity::Rational;

/// How one timer channel runs.
#[derive(Debug, Clone)]
pub struct Machine {
    /// The counter's sequence.
    pub counting: Counting,
    /// What the output does.
    pub output: OutputRule,
    /// Whether the output does the opposite.
    pub complement: bool,
    /// Whether the pin is low while the output is active.
    pub inverted: bool,
    /// Width of the counter in bits.
    pub counter_bits: u32,
    /// How many compare steps there are in a counter tick.
    pub per_tick: u32,
    /// Source clocks in a counter tick.
    pub divider: Rational,
    /// How the low bits of top and compare are spread over cycles, where they are.
    pub dither: Option<Dither>,
    /// When written values take effect.
    pub updates: Updates,
}

/// What the top and compare registers hold.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Values {
    /// The top.
    pub top: u64,
    /// The compare value.
    pub compare: u64,
}

/// A write to the registers while the timer runs.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Write {
    /// The source clock at which it happens.
    pub at: u128,
    /// What the registers then hold.
    pub values: Values,
}

/// Something that happens at a source clock.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Event {
    /// The source clock, counted from the timer's start.
    pub at: u128,
    /// What happens.
    pub kind: EventKind,
}

/// What happens.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum EventKind {
    /// The counter starts its sequence anew.
    Wrap,
    /// The pin goes to this level.
    Level(bool),
}

impl Machine {
    /// A channel of `timer` in `mode` with `divider` source clocks in a counter tick.
    pub fn of(timer: &Timer, mode: &Mode, divider: Rational, inverted: bool) -> Self {
        let per_tick = match &mode.compare {
            crate::part::CompareLaw::Linear(law) => law.per_tick,
            crate::part::CompareLaw::Toggle => 1,
        };
        Self {
            counting: mode.counting,
            output: mode.output,
            complement: mode.complement,
            inverted,
            counter_bits: timer.block.counter_bits,
            per_tick,
            divider,
            dither: mode.dither,
            updates: mode.updates,
        }
    }

    /// What a register's value comes to in one cycle.
    fn this_time(&self, value: u64, cycle: u64) -> u64 {
        let Some(dither) = self.dither else { return value };
        let low = value & ((1 << dither.bits) - 1);
        (value >> dither.bits) + u64::from(dither.lengthens(cycle, low))
    }

    /// The corners of the counter's way through one sequence, as shares of its length and of its top. Where it counts one way
    /// only, it goes back at once.
    pub const fn corners(&self) -> &'static [(f64, f64)] {
        corners(self.counting)
    }

    /// Starts it with the registers set, and plays `writes`, which must be in order of time.
    pub fn play<'w>(&self, values: Values, writes: &'w [Write]) -> Player<'w> {
        let limit = 1_u64.checked_shl(self.counter_bits).map_or(u64::MAX, |size| size - 1);
        let top = self.this_time(values.top, 0);
        Player {
            machine: self.clone(),
            counter: Counter::new(self.counting, limit, top),
            cycle: 0,
            values,
            pending: values,
            writes,
            at: 0,
            owed: 0,
            sub_tick: 0,
            active: false,
            matched: false,
            pin: None,
            started: false,
            queue: [None, None],
        }
    }
}

/// The events of a running machine, without end.
#[derive(Debug, Clone)]
pub struct Player<'w> {
    pub(super) machine: Machine,
    pub(super) counter: Counter,
    /// How often the counter has started its sequence anew.
    cycle: u64,
    /// What the counter and the comparator work with.
    values: Values,
    /// What was written last and waits for its update point.
    pending: Values,
    writes: &'w [Write],
    /// The current source clock.
    at: u128,
    /// The accumulator: parts of a source clock not yet spent.
    owed: u128,
    /// Compare steps since the last counter clock.
    sub_tick: u32,
    active: bool,
    /// Whether the comparator matched during the last sub-tick.
    matched: bool,
    pin: Option<bool>,
    started: bool,
    queue: [Option<EventKind>; 2],
}

impl Player<'_> {
    /// The same with its output active at the beginning, or not.
    pub(super) const fn beginning(mut self, active: bool) -> Self {
        self.active = active;
        self
    }

    /// Whether it goes on as another does that has the same registers, but for the time.
    pub(super) fn stands_as(&self, other: &Self) -> bool {
        let pattern = |player: &Self| {
            let dither = player.machine.dither.map_or(1, |dither| 1_u64 << dither.bits.min(32));
            player.cycle % dither
        };
        (&self.counter, self.owed, self.sub_tick, self.active, self.matched, self.pin, self.queue)
            == (
                &other.counter,
                other.owed,
                other.sub_tick,
                other.active,
                other.matched,
                other.pin,
                other.queue,
            )
            && pattern(self) == pattern(other)
    }

    /// Goes to the next sub-tick and queues what happens there.
    pub(super) fn advance(&mut self) {
        let (mut wrapped, mut at_top) = (!self.started, false);
        if self.started {
            self.spend(1);
            self.sub_tick += 1;
            if self.sub_tick == self.machine.per_tick {
                self.sub_tick = 0;
                let step = self.counter.step(self.top_now());
                (wrapped, at_top) = (step.wrapped, step.at_top);
                self.cycle += u64::from(wrapped);
            }
        }
        self.take_writes();
        self.update(wrapped, at_top);
        self.drive_output(wrapped && self.started);
        if wrapped {
            self.queue[0] = Some(EventKind::Wrap);
        }
        self.started = true;
    }

    /// Lets the source clocks of so many sub-ticks pass at once, if their number fits. The divider is an accumulator: what a
    /// tick leaves over, it owes to the next.
    pub(super) fn spend(&mut self, sub_ticks: u128) -> bool {
        let divider = self.machine.divider;
        let per_clock = divider.denominator().unsigned_abs() * u128::from(self.machine.per_tick);
        let more = divider.numerator().unsigned_abs().checked_mul(sub_ticks);
        let Some(owed) = more.and_then(|more| self.owed.checked_add(more)) else { return false };
        self.at += owed / per_clock;
        self.owed = owed % per_clock;
        true
    }

    /// Whether a count has begun, nothing was written, and the comparator has not just matched.
    pub(super) fn is_at_rest(&self) -> bool {
        self.started
            && self.sub_tick == 0
            && !self.matched
            && self.writes.is_empty()
            && self.values == self.pending
    }

    /// The top of this cycle.
    pub(super) fn top_now(&self) -> u64 {
        self.machine.this_time(self.values.top, self.cycle)
    }

    /// The compare value of this cycle, in compare steps.
    pub(super) fn compare_now(&self) -> u64 {
        self.machine.this_time(self.values.compare, self.cycle)
    }

    /// An event that has happened and was not told yet.
    pub(super) fn queued(&mut self) -> Option<Event> {
        let kind = self.queue.iter_mut().find_map(Option::take)?;
        Some(Event { at: self.at, kind })
    }

    fn take_writes(&mut self) {
        while let Some((write, rest)) = self.writes.split_first() {
            if write.at > self.at {
                break;
            }
            self.pending = write.values;
            self.writes = rest;
        }
    }

    /// Moves written values into use where their update point has come.
    fn update(&mut self, wrapped: bool, at_top: bool) {
        let due = |point: UpdatePoint| match point {
            UpdatePoint::Immediate => true,
            UpdatePoint::Bottom => wrapped,
            UpdatePoint::Top => at_top,
            UpdatePoint::Both => wrapped || at_top,
        };
        if due(self.machine.updates.top) {
            self.values.top = self.pending.top;
        }
        if due(self.machine.updates.compare) {
            self.values.compare = self.pending.compare;
        }
    }

    fn drive_output(&mut self, wrapped: bool) {
        let position =
            u128::from(self.counter.value) * u128::from(self.machine.per_tick) + u128::from(self.sub_tick);
        let compare = u128::from(self.compare_now());
        let bottom = position == 0;
        let matches = position == compare;
        match self.machine.output {
            OutputRule::Below => self.active = position < compare,
            OutputRule::BelowUpThroughDown => {
                self.active = position < compare || (self.counter.falling && matches);
            }
            OutputRule::SetBottomClearAfterMatch => {
                self.active = bottom || (self.active && !self.matched);
            }
            OutputRule::SetBottomClearMatch => {
                self.active = (bottom || self.active) && !matches;
            }
            OutputRule::ClearUpSetDown => {
                self.active = if matches { self.counter.falling } else { self.active };
            }
            OutputRule::ToggleWrap => self.active ^= wrapped,
        }
        self.matched = matches;
        let pin = self.active ^ self.machine.complement ^ self.machine.inverted;
        if self.pin != Some(pin) {
            self.pin = Some(pin);
            self.queue[1] = Some(EventKind::Level(pin));
        }
    }
}

impl Iterator for Player<'_> {
    type Item = Event;

    fn next(&mut self) -> Option<Event> {
        loop {
            if let Some(event) = self.queued() {
                return Some(event);
            }
            self.advance();
        }
    }
}

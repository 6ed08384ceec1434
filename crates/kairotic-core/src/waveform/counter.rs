//! The counter: where it stands, which way it goes.

use crate::part::Counting;

/// A counter on its way through its sequence.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(super) struct Counter {
    counting: Counting,
    /// The largest value that its flip-flops hold.
    pub(super) limit: u64,
    /// Where it stands.
    pub(super) value: u64,
    /// Whether it is on its way down.
    pub(super) falling: bool,
}

/// The corners of a counter's way through one sequence, as shares of its length and of its top.
pub(super) const fn corners(counting: Counting) -> &'static [(f64, f64)] {
    match counting {
        Counting::Up | Counting::UpToLength => &[(0.0, 0.0), (1.0, 1.0)],
        Counting::Down => &[(0.0, 1.0), (1.0, 0.0)],
        Counting::UpDown | Counting::UpDownHeld => &[(0.0, 0.0), (0.5, 1.0), (1.0, 0.0)],
    }
}

/// What a step of the counter did.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) struct CounterStep {
    /// It started its sequence anew.
    pub(super) wrapped: bool,
    /// It reached its top.
    pub(super) at_top: bool,
}

impl Counter {
    pub(super) fn new(counting: Counting, limit: u64, top: u64) -> Self {
        let falling = counting == Counting::Down;
        Self { counting, limit, value: if falling { top } else { 0 }, falling }
    }

    /// One counter clock. The hardware compares for equality, so a top moved below the counter is missed.
    pub(super) fn step(&mut self, top: u64) -> CounterStep {
        let wrapped = match self.counting {
            Counting::Up => self.step_up(top),
            Counting::UpToLength => self.step_up(top.saturating_sub(1)),
            Counting::Down => self.step_down(top),
            Counting::UpDown => self.step_up_down(top),
            Counting::UpDownHeld => self.step_up_down_held(top),
        };
        CounterStep { wrapped, at_top: self.value == top }
    }

    fn step_up(&mut self, top: u64) -> bool {
        let ends = self.value == top || self.value == self.limit;
        self.value = if ends { 0 } else { self.value + 1 };
        ends
    }

    fn step_down(&mut self, top: u64) -> bool {
        let ends = self.value == 0;
        self.value = if ends { top } else { self.value - 1 };
        ends
    }

    fn step_up_down(&mut self, top: u64) -> bool {
        self.value = if self.falling { self.value.saturating_sub(1) } else { self.value + 1 };
        if self.value == top || self.value == self.limit {
            self.falling = true;
        }
        let ends = self.value == 0;
        if ends {
            self.falling = false;
        }
        ends
    }

    fn step_up_down_held(&mut self, top: u64) -> bool {
        match (self.falling, self.value) {
            (true, 0) => {
                self.falling = false;
                true
            }
            (true, _) => {
                self.value -= 1;
                false
            }
            (false, value) if value == top || value == self.limit => {
                self.falling = true;
                false
            }
            (false, _) => {
                self.value += 1;
                false
            }
        }
    }
}

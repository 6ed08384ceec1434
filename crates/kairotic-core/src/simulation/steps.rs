//! The lines of a stepper while it moves: a pulse for each step and the direction, or four wires.

use std::sync::Arc;

use crate::motion::StepRamp;

/// A move on the line of time of its counter.
#[derive(Debug, Clone)]
pub(super) struct TimedSteps {
    /// The source clock at which it begins.
    pub(super) begins: u128,
    /// Source clocks in a tick.
    pub(super) tick: u128,
    /// Source clocks of a pulse.
    pub(super) pulse: u128,
    /// The ramp.
    pub(super) ramp: Arc<StepRamp>,
    /// Whether it goes towards smaller angles.
    pub(super) backward: bool,
    /// The step that it begins at, counted from angle zero.
    pub(super) position: i64,
}

/// What a line shows.
#[derive(Debug, Clone, Copy)]
pub(super) enum StepLine {
    /// A pulse for each step.
    Step,
    /// High towards larger angles.
    Direction,
    /// One of four wires, in a pattern of so many.
    Wire {
        /// Which, from zero on.
        line: u32,
        /// The lines that are on, a bit each, step by step.
        patterns: &'static [u8],
    },
}

/// The edges of a line, one after the other: the level at the start first.
#[derive(Debug, Clone)]
pub(super) struct StepEdges {
    line: StepLine,
    moves: Arc<[TimedSteps]>,
    /// Which move, which step of it, and the tick of the step before.
    at: (usize, u64),
    /// The end of a pulse that comes next.
    queued: Option<(u128, bool)>,
    begun: bool,
}

impl StepEdges {
    pub(super) const fn of(line: StepLine, moves: Arc<[TimedSteps]>) -> Self {
        Self { line, moves, at: (0, 0), queued: None, begun: false }
    }

    /// The level before the first move.
    fn at_rest(&self) -> bool {
        match (self.line, self.moves.first()) {
            (StepLine::Direction, Some(first)) => !first.backward,
            (StepLine::Wire { line, patterns }, Some(first)) => is_on(patterns, first.position, line),
            _ => false,
        }
    }
}

/// Whether a wire is on at a position.
fn is_on(patterns: &[u8], position: i64, line: u32) -> bool {
    let place = position.rem_euclid(i64::try_from(patterns.len()).unwrap_or(1));
    let pattern = usize::try_from(place).ok().and_then(|place| patterns.get(place));
    pattern.is_some_and(|pattern| pattern >> line & 1 == 1)
}

impl Iterator for StepEdges {
    type Item = (u128, bool);

    fn next(&mut self) -> Option<(u128, bool)> {
        if !std::mem::replace(&mut self.begun, true) {
            return Some((0, self.at_rest()));
        }
        if let Some(edge) = self.queued.take() {
            return Some(edge);
        }
        let (index, step) = self.at;
        let made = self.moves.get(index)?;
        if let StepLine::Direction = self.line {
            self.at = (index + 1, 0);
            return Some((made.begins, !made.backward));
        }
        if step == made.ramp.steps {
            self.at = (index + 1, 0);
            return self.next();
        }
        self.at = (index, step + 1);
        let tick = made.ramp.tick_of(step + 1).ok()?;
        let at = made.begins + u128::from(tick) * made.tick;
        match self.line {
            StepLine::Wire { line, patterns } => {
                let gone = i64::try_from(step + 1).ok()? * if made.backward { -1 } else { 1 };
                Some((at, is_on(patterns, made.position + gone, line)))
            }
            _ => {
                self.queued = Some((at + made.pulse, false));
                Some((at, true))
            }
        }
    }
}

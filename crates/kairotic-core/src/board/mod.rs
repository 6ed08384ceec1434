//! Several signals on one part: where each comes out, what it drives, and what is required of it.
//!
//! ```
//! use kairotic_core::board::{Asked, Board, BoardClock, Placed, Signal, place};
//! use kairotic_core::quantity::units::{khz, percent};
//! use kairotic_core::target::{Active, Aim};
//!
//! let pin = Placed { pin: Some("PA6".to_owned()), on: None };
//! let motor = Signal {
//!     asked: Some(Asked::Active(Active::Duty(percent(35)))),
//!     ..Signal::new("motor", pin, Aim::Frequency(khz(25)))
//! };
//! let (part, clock) = ("stm32f411".to_owned(), BoardClock::default());
//! let board = Board { signals: vec![motor], ..Board::empty(part, clock) };
//! let catalogue = kairotic_parts::Catalogue::embedded();
//! let part = catalogue.whole_part(&board.part)?;
//! let output = place(&board, part, "motor")?;
//! assert_eq!((output.timer.as_str(), output.channel.as_deref()), ("tim3", Some("1")));
//! # Ok::<(), kairotic_core::Error>(())
//! ```

mod assign;
mod axis;
mod axis_move;
mod check;
mod choices;
mod clock;
mod clock_demand;
mod clock_search;
mod clocks;
mod consumer;
mod drives;
mod levels;
mod outcome;
mod place;
mod plan;
mod problem;
mod review;
mod sequence;
mod sharing;
mod spec;

pub use self::axis::StepAxis;
pub use self::axis_move::AxisReview;
pub use self::check::{AXES, clashes, problems};
pub use self::choices::Placement;
pub use self::clock::BoardClock;
pub use self::clocks::{BoardClocks, ClockedBoard, ClockedSignal, ClockedStepper, clocks};
pub use self::consumer::Consumer;
pub use self::drives::{DirectionLines, PlannedDrive, drives};
pub use self::levels::{PlannedLevels, levels};
pub use self::outcome::{Outcome, outcome};
pub use self::place::{Layout, layout, place, signal_on};
pub use self::plan::{BoardPlan, PlannedSignal, plan};
pub use self::problem::ReviewProblem;
pub use self::review::{BoardReview, ReviewedSignal, SignalReview, review};
pub use self::sequence::sequence_members;
pub use self::spec::{spec, spec_in};

use crate::error::{Error, Result};
use crate::load::{Load, LoadKind};
use crate::quantity::{Deviation, LoadLevel, Range, Time};
use crate::sequence::Sequence;
use crate::signal::Needs;
use crate::target::{Active, Aim, Ask, Level, Span, Target};

/// A part with the signals that it makes.
#[derive(Debug, Clone, PartialEq)]
pub struct Board {
    /// The part's name.
    pub part: String,
    /// The clock of its timers.
    pub clock: BoardClock,
    /// What is driven.
    pub loads: Vec<Load>,
    /// The signals.
    pub signals: Vec<Signal>,
    /// The steppers.
    pub axes: Vec<StepAxis>,
    /// What they do one after the other.
    pub sequences: Vec<Sequence>,
}

/// One named output.
#[derive(Debug, Clone, PartialEq)]
pub struct Signal {
    /// Its name.
    pub name: String,
    /// Where it comes out.
    pub place: Placed,
    /// How often it repeats.
    pub aim: Aim,
    /// How long it is active, where that is said.
    pub asked: Option<Asked>,
    /// The active times that count; the load's where none are given.
    pub span: Option<Span>,
    /// What it drives, by name.
    pub load: Option<String>,
    /// The pin's level while it is active.
    pub level: Level,
    /// How long both complementary outputs shall be off between one and the other, at least.
    pub dead_time: Option<Time>,
    /// From the shortest to the longest time between a period's start and the write of a new compare value.
    pub latency: Option<Range<Time>>,
    /// How much longer a driver makes the pulse.
    pub edges: Option<Time>,
    /// The signal on the other line of a motor that is wired to two, by name: it carries the PWM the other way round.
    pub second_line: Option<String>,
    /// What a kernel takes it for; by its load where that is not said.
    pub consumer: Option<Consumer>,
    /// What is required of it.
    pub needs: Needs,
}

impl Signal {
    /// A signal of which nothing more is said: active high, with no load and no requirement.
    pub fn new(name: impl Into<String>, place: Placed, aim: Aim) -> Self {
        Self {
            name: name.into(),
            place,
            aim,
            asked: None,
            span: None,
            load: None,
            level: Level::High,
            dead_time: None,
            latency: None,
            edges: None,
            second_line: None,
            consumer: None,
            needs: Needs::default(),
        }
    }
}

/// Where a signal comes out, as far as it says so.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Placed {
    /// The timer, and perhaps one of its channels.
    pub on: Option<TimerOutput>,
    /// The pin.
    pub pin: Option<String>,
}

/// A timer, and perhaps one of its channels.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord)]
pub struct TimerOutput {
    /// The timer's name.
    pub timer: String,
    /// The channel's label.
    pub channel: Option<String>,
}

/// How long a signal shall be active.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Asked {
    /// As a duty or a pulse.
    Active(Active),
    /// In the load's own unit.
    Level(LoadLevel),
}

/// How far a frequency may be off where nothing is required.
const WITHIN: (i128, i128) = (100, 1_000_000);

impl Board {
    /// A board that does nothing.
    pub const fn empty(part: String, clock: BoardClock) -> Self {
        Self { part, clock, loads: Vec::new(), signals: Vec::new(), axes: Vec::new(), sequences: Vec::new() }
    }

    /// The signal of that name.
    ///
    /// # Errors
    /// [`Error::UnknownName`].
    pub fn signal(&self, name: &str) -> Result<&Signal> {
        self.signals.iter().find(|signal| signal.name == name).ok_or_else(|| {
            if self.axis(name).is_some() {
                return Error::IsStepper { signal: name.to_owned() };
            }
            let signals = self.signals.iter().map(|signal| signal.name.as_str());
            let steppers = self.axes.iter().map(|axis| axis.name.as_str());
            Error::unknown("signal", name, "the board", signals.chain(steppers))
        })
    }

    /// What a signal drives, where it says so.
    pub fn load_of(&self, signal: &Signal) -> Option<&Load> {
        let name = signal.load.as_ref()?;
        self.loads.iter().find(|load| load.name == *name)
    }

    /// A signal as a target: a level as the active time that the load makes of it, and the load's span.
    ///
    /// # Errors
    /// A level that the load does not have, and numbers that do not fit.
    pub fn target(&self, signal: &Signal) -> Result<Target> {
        let load = self.load_of(signal);
        let active = match (self.asked_of(signal), load) {
            (Some(Asked::Active(active)), _) => Some(active),
            (Some(Asked::Level(level)), Some(load)) => Some(load.kind.active(level)?),
            _ => None,
        };
        let channel = signal.place.on.as_ref().and_then(|on| on.channel.clone());
        let span = match (signal.span, load) {
            (Some(span), _) => Some(span),
            (None, Some(load)) => Some(load.kind.span()?),
            (None, None) => None,
        };
        let within = signal.needs.frequency;
        let usual = crate::quantity::Rational::new(WITHIN.0, WITHIN.1).map(Deviation::new);
        Ok(Target {
            aim: signal.aim,
            asks: active.map(|active| Ask { channel, active, start: None }).into_iter().collect(),
            span,
            within: within.or(usual).unwrap_or(Deviation::ZERO),
            level: signal.level,
            dead_time: signal.dead_time,
            min_steps: signal.needs.steps.unwrap_or(0),
            channel: None,
            mode: None,
            counter: None,
        })
    }
}

//! The one error type of this crate: each variant carries the values that make it understandable.
//!
//! ```
//! use kairotic_core::error::Error;
//!
//! let error = kairotic_parts::Catalogue::embedded().part("stm32f41").unwrap_err();
//! assert!(matches!(&error, Error::UnknownName { nearest, .. } if nearest.contains(&"stm32f411".to_owned())));
//! assert!(error.hint().is_some());
//! ```

use std::fmt;

mod hint;
mod nearest;
mod no_mode;
mod placement;
mod step_problem;
mod unreachable;

pub use self::no_mode::NoModeReason;
pub use self::placement::{ConflictingSignal, PlacementConflict};
pub use self::step_problem::StepProblem;
pub use self::unreachable::{ModeReach, Unreachable};
use crate::quantity::{Deviation, Figure, Frequency, LoadLevel, QuantityError, Range, StepRate, Time};

/// A result with this crate's error.
pub type Result<T, E = Error> = std::result::Result<T, E>;

/// What can be wrong with a request.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
#[non_exhaustive]
pub enum Error {
    /// A quantity that is none, is out of its range, or does not fit.
    #[error(transparent)]
    Quantity(#[from] QuantityError),
    /// A pulse that is negative or longer than the period.
    #[error("expected a pulse from zero to the period, {period}; found {pulse}")]
    PulseRange {
        /// What came.
        pulse: Time,
        /// The period.
        period: Time,
    },
    /// A range whose ends are reversed or equal.
    #[error("the range must be LOW..HIGH with LOW < HIGH, found {}..{}", .0.low, .0.high)]
    RangeReversed(Box<Range<Figure>>),
    /// A name that is not in a list.
    #[error("{place} has no {kind} `{name}`")]
    UnknownName {
        /// What kind of thing was named.
        kind: &'static str,
        /// What came.
        name: String,
        /// Where it was looked for.
        place: String,
        /// Everything it could have been.
        known: Vec<String>,
        /// The nearest of those, best first.
        nearest: Box<[String]>,
    },
    /// A channel that was asked for twice.
    #[error("channel {label} is asked for twice")]
    ChannelTwice {
        /// Its label.
        label: String,
    },
    /// More signals than a timer has channels.
    #[error("{asked} signals are asked for; {timer} has {free} channels for them")]
    TooFewChannels {
        /// The timer.
        timer: String,
        /// Signals asked for.
        asked: usize,
        /// Channels there are.
        free: usize,
    },
    /// No mode of a timer can do what was asked.
    #[error("no mode of {timer} fits: {reason}")]
    NoMode {
        /// The timer.
        timer: String,
        /// What none of them can do.
        reason: Box<NoModeReason>,
    },
    /// A timer that neither times pulses nor counts them.
    #[error("{timer} takes no pulses: it makes signals only")]
    NoInputs {
        /// The timer.
        timer: String,
        /// What does it instead.
        instead: Option<String>,
        /// Timers of the same part that take pulses.
        others: Vec<String>,
    },
    /// A clock above the timer's maximum.
    #[error("{0}")]
    ClockTooFast(Box<ClockTooFast>),
    /// An inverted output that the silicon does not have.
    #[error("the outputs of {timer} cannot be inverted in mode {mode}")]
    NoInversion {
        /// The timer.
        timer: String,
        /// The mode.
        mode: String,
    },
    /// A frequency outside what a timer can make.
    #[error("{0}")]
    Unreachable(Box<Unreachable>),
    /// A register assignment that is no `NAME=VALUE`.
    #[error("expected NAME=VALUE with a decimal, 0x or 0b value, found `{text}`")]
    Assignment {
        /// What came.
        text: String,
    },
    /// A register value that does not fit.
    #[error("{name} holds 0..{max}, found {value}")]
    RegisterRange {
        /// The register or field.
        name: String,
        /// What came.
        value: u64,
        /// The largest value that fits.
        max: u64,
    },
    /// A timer of which the catalogue does not know where its registers are.
    #[error("the catalogue does not know the addresses of {timer}")]
    NoAddresses {
        /// The timer.
        timer: String,
    },
    /// Signals of one counter for which it has no period and division.
    #[error("the counter of {timer} has no mode, period and division for {signals} together")]
    TimeBasesDiffer {
        /// The timer.
        timer: String,
        /// Their outputs.
        signals: String,
    },
    /// A field that two timers of a program want to be different.
    #[error("{field} has to be {first} and {second} at once, for {of}")]
    FieldWrittenTwice {
        /// The field.
        field: String,
        /// What it is to hold.
        first: String,
        /// What it is to hold as well.
        second: String,
        /// Whom for.
        of: String,
    },
    /// Pins that no value of a field gives to a timer together.
    #[error("no value of {field} puts {timer} on these pins together: {pins}")]
    NoRemap {
        /// The timer.
        timer: String,
        /// The field.
        field: String,
        /// Each channel with its pin.
        pins: String,
    },
    /// Two values for one place.
    #[error("{name} is given twice, as {first} and as {second}")]
    RegisterTwice {
        /// The register or field.
        name: String,
        /// The first value.
        first: u64,
        /// The second value.
        second: u64,
    },
    /// A register that is needed and was not given.
    #[error("{needed} is not among the registers given")]
    RegisterMissing {
        /// The register or field.
        needed: String,
        /// What it is needed for.
        why: String,
    },
    /// A register value that has no meaning, or one that stops the timer.
    #[error("{name}={value} {why}")]
    RegisterValue {
        /// The register or field.
        name: String,
        /// What came.
        value: u64,
        /// Why it will not do.
        why: String,
        /// The values that would.
        legal: String,
    },
    /// A register that contradicts the other registers.
    #[error("{name} {why}")]
    RegisterClash {
        /// The register or field.
        name: String,
        /// What it contradicts.
        why: String,
        /// What it may hold.
        legal: String,
    },
    /// A dead time that a timer does not have.
    #[error("{timer} cannot make that dead time: {why}")]
    NoDeadTime {
        /// The timer.
        timer: String,
        /// Why not.
        why: String,
    },
    /// A part whose clock tree is not described.
    #[error("the clock tree of {part} is not in the catalogue")]
    NoClockTree {
        /// The part.
        part: String,
    },
    /// A part whose pins are not described.
    #[error("the pins of {part} are not in the catalogue")]
    NoPinout {
        /// The part.
        part: String,
    },
    /// A pin that more than one output could have, or that carries no channel of its own.
    #[error("pin {pin} can carry {outputs}")]
    PinOutputs {
        /// The pin.
        pin: String,
        /// What it can carry.
        outputs: String,
        /// The part.
        part: String,
        /// The first timer of which it carries a channel; `None` where it carries complements only.
        timer: Option<String>,
    },
    /// A clock source that the part does not have.
    #[error("{part} has no clock source that fits `{asked}`")]
    NoSource {
        /// The part.
        part: String,
        /// What came.
        asked: String,
        /// The sources that there are.
        known: String,
    },
    /// A frequency that no legal clock setting brings to a timer.
    #[error("{0}")]
    ClockUnreachable(Box<ClockUnreachable>),
    /// A frequency that no clock setting lets a timer make.
    #[error("no legal clock setting lets {timer} make {wanted}")]
    JointUnreachable {
        /// The timer.
        timer: String,
        /// The wanted frequency.
        wanted: Frequency,
        /// The sources that there are.
        sources: String,
    },
    /// A clock tree that no source of the asked kind drives within its limits.
    #[error("no setting of the clock tree of {part} is legal with that source")]
    NoLegalClock {
        /// The part.
        part: String,
        /// The sources that there are.
        sources: String,
    },
    /// A clock setting that breaks a limit.
    #[error("no such clock may reach {timer}: {why}")]
    ClockIllegal {
        /// The timer.
        timer: String,
        /// The limit that it breaks.
        why: String,
    },
    /// A bus divider that is no `NAME=NUMBER`.
    #[error("expected NAME=NUMBER, found `{text}`")]
    Bus {
        /// What came.
        text: String,
    },
    /// A signal for which the part has no timer left.
    #[error("no timer of the part is left that can make `{signal}`")]
    NoPlace {
        /// The signal.
        signal: String,
    },
    /// Signals of a board that cannot all be placed.
    #[error("{0}")]
    NoPlacement(Box<PlacementConflict>),
    /// A board of which it was not settled whether its signals can all be placed.
    #[error("whether all signals can be placed was not settled: there are too many ways to try")]
    PlacementUndecided,
    /// A budget of a target that has no pulse.
    #[error("{timer} makes no pulse here that could be off")]
    NoSignal {
        /// The timer.
        timer: String,
    },
    /// Boards that are none, or that are all alike.
    #[error("there is nothing to draw: no boards are asked for, or they do not differ")]
    NoPopulation,
    /// A pin alone says nothing of the timer, for every pin can have every output.
    #[error("any pin of {part} can have any output, by {select}")]
    AnyPin {
        /// The part.
        part: String,
        /// How a pin is given an output.
        select: String,
    },
    /// A clock that does not run after reset was not given.
    #[error("{clock} is off after reset; {field} switches it on: {choices}")]
    ClockOff {
        /// The clock.
        clock: String,
        /// The field that switches it on.
        field: String,
        /// Its values, each with what the clock then comes from.
        choices: String,
        /// What the clock is taken to have once it is on.
        on: Frequency,
    },
    /// A gear that is no product of fractions.
    #[error("expected a gear as turns of the motor for one turn, found `{text}`")]
    Gear {
        /// What came.
        text: String,
    },
    /// How fast a servo turns, said otherwise than as an angle and a time.
    #[error("expected an angle and the time for it, found `{text}`")]
    Slew {
        /// What came.
        text: String,
    },
    /// What makes a motor break away, said otherwise than as a duty of at most 100 % and a time.
    #[error("expected a duty of at most 100 % and a time, found `{text}`")]
    Kick {
        /// What came.
        text: String,
    },
    /// A stepper that is to take more at once than it ever may.
    #[error("the start rate {start} is above the fastest, {fastest}")]
    StartAboveFastest {
        /// The start rate.
        start: StepRate,
        /// The fastest.
        fastest: StepRate,
    },
    /// A stepper where a signal is meant that holds a level.
    #[error("`{signal}` is a stepper: it has steps, and no frequency, duty or pulse")]
    IsStepper {
        /// The stepper.
        signal: String,
    },
    /// A rate that a stepper does not take.
    #[error("{asked} is above the fastest rate of the stepper, {fastest}")]
    RateAboveFastest {
        /// What came.
        asked: StepRate,
        /// The fastest.
        fastest: StepRate,
    },
    /// A way on which nothing moves.
    #[error("there is nothing to move: {why}")]
    NoMove {
        /// Why not.
        why: String,
    },
    /// More steps than are looked at.
    #[error("{said}")]
    TooManySteps {
        /// What the limit says.
        said: String,
    },
    /// Steps that follow one another faster than a counter counts.
    #[error("the fastest steps are {step} apart, and the counter makes none that are closer than {least}")]
    StepTooShort {
        /// The fastest step.
        step: Time,
        /// What the counter makes.
        least: Time,
    },
    /// A step that takes longer than a timer can count.
    #[error("the slowest step takes {step}; the longest period of {timer} is {longest}")]
    StepTooLong {
        /// The timer.
        timer: String,
        /// The slowest step.
        step: Time,
        /// The timer's longest period.
        longest: Time,
    },
    /// An output that is active for half of the time, whatever its compare value.
    #[error("{timer} toggles its outputs: they are active for half of the time, and have no other level")]
    NoLevels {
        /// The timer.
        timer: String,
    },
    /// A stepper whose steps are no edges of lines.
    #[error("the steps of {signal} are levels of its two windings, whose lines are not played")]
    NotPlayed {
        /// The stepper.
        signal: String,
    },
    /// A step of a sequence that cannot be.
    #[error("step {step}: {problem}")]
    SequenceStep {
        /// Its number, from one on.
        step: usize,
        /// What is wrong with it.
        problem: Box<StepProblem>,
    },
    /// A sequence that is longer than any that is planned.
    #[error("the sequence takes {length}, and at most {most} are planned")]
    SequenceTooLong {
        /// How long it takes.
        length: Time,
        /// The longest.
        most: Time,
    },
    /// A sequence of which nothing is left to be done.
    #[error("the sequence has no steps")]
    NoSteps,
    /// A line from inputs to compare values that is none.
    #[error("there is no map: {why}")]
    NoMap {
        /// What is wrong.
        why: String,
    },
    /// What was observed of a load is not enough to calibrate it.
    #[error("no calibration: {why}")]
    NoCalibration {
        /// What is wrong.
        why: String,
    },
    /// A load none of whose numbers can be observed.
    #[error("a {load} load has no numbers that observations could give")]
    NothingToCalibrate {
        /// Its kind.
        load: &'static str,
    },
    /// A level that a load does not have.
    #[error("expected {} between {} and {}, found {}", .0.measures, .0.low, .0.high, .0.found)]
    LevelOutside(Box<LevelOutside>),
    /// A family file that contradicts itself.
    #[error("the description of {part} is broken: {what}")]
    BrokenPart {
        /// The part.
        part: String,
        /// What is wrong.
        what: String,
    },
}

/// A frequency that no legal clock setting brings to a timer.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct ClockUnreachable {
    /// The timer.
    pub timer: String,
    /// The wanted frequency.
    pub wanted: Frequency,
    /// How far off it was looked for.
    pub within: Deviation,
    /// The sources that there are.
    pub sources: String,
}

impl fmt::Display for ClockUnreachable {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let Self { timer, wanted, within, .. } = self;
        write!(f, "no legal clock setting brings {wanted} to {timer}, nor anything within {within} of it")
    }
}

/// A level that a load does not have.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct LevelOutside {
    /// What the load's unit measures.
    pub measures: &'static str,
    /// What came.
    pub found: LoadLevel,
    /// The lowest.
    pub low: LoadLevel,
    /// The highest.
    pub high: LoadLevel,
}

/// A clock above the timer's maximum.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct ClockTooFast {
    /// What came.
    pub clock: Frequency,
    /// The highest legal frequency.
    pub maximum: Frequency,
    /// What the reference manual calls the clock.
    pub title: String,
    /// Why the limit itself is uncertain, if it is.
    pub doubt: Option<String>,
}

impl fmt::Display for ClockTooFast {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{} is above the {} that {} may have", self.clock, self.maximum, self.title)?;
        self.doubt.as_ref().map_or(Ok(()), |doubt| write!(f, " (unsure: {doubt})"))
    }
}

impl Error {
    /// A name that is not among `known`, with the nearest of those.
    pub fn unknown<'n>(
        kind: &'static str,
        name: &str,
        place: &str,
        known: impl Iterator<Item = &'n str>,
    ) -> Self {
        let known: Vec<String> = known.map(ToOwned::to_owned).collect();
        let nearest = nearest::nearest(name, &known).into_boxed_slice();
        Self::UnknownName { kind, name: name.to_owned(), place: place.to_owned(), known, nearest }
    }

    /// Whether a number needs more bits than there are.
    pub const fn is_overflow(&self) -> bool {
        matches!(self, Self::Quantity(error) if error.is_overflow())
    }

    /// A range whose ends are reversed or equal.
    pub(crate) fn reversed(low: Figure, high: Figure) -> Self {
        Self::RangeReversed(Box::new(Range { low, high }))
    }

    /// A number that needs more bits than there are.
    pub(crate) const fn overflow(quantity: &'static str) -> Self {
        Self::Quantity(QuantityError::Overflow { quantity })
    }
}

/// Gives a checked operation's `None` the name of the quantity that did not fit.
pub trait OrOverflow<T> {
    /// The value, or an overflow that names `quantity`.
    ///
    /// # Errors
    /// [`QuantityError::Overflow`].
    fn or_overflow(self, quantity: &'static str) -> Result<T>;
}

impl<T> OrOverflow<T> for Option<T> {
    fn or_overflow(self, quantity: &'static str) -> Result<T> {
        // Spelt out, since an error that is made and dropped each time costs more than most operations.
        let Some(value) = self else { return Err(Error::overflow(quantity)) };
        Ok(value)
    }
}

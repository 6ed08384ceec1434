//! What would mend a finding.

use std::fmt;

use serde::Serialize;

use crate::quantity::{Deviation, Duty, Frequency, Range, Rational, StepRate, Time, show};

/// Something that mends a finding, as data. Its [`Display`](fmt::Display) is a neutral clause; whoever shows it may
/// know better words, such as the option that does it.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[serde(tag = "kind", content = "value", rename_all = "snake_case")]
#[non_exhaustive]
pub enum Remedy {
    /// Write another value to a register.
    WriteRegister {
        /// The register or field.
        field: String,
        /// What to write.
        value: u64,
        /// The registers that stay as they are, where that matters.
        keep: Vec<String>,
    },
    /// Write a compare value from 0 to this.
    CompareAtMost(u64),
    /// Write the compare value within this time after a period's start.
    WriteEarlyInPeriod(Time),
    /// Widen the tolerance, at least to this.
    WidenTolerance(Deviation),
    /// A clock that is a multiple of this frequency.
    ClockMultipleOf(Frequency),
    /// A clock of which this tick is a whole number of periods.
    ClockWithTick(Time),
    /// A clock of at most this.
    ClockAtMost(Frequency),
    /// Find out which of two clocks reaches the counter.
    FindClock {
        /// The clock that would explain what was found.
        suspect: Frequency,
        /// The clock that was given.
        given: Frequency,
    },
    /// Another mode of the same timer, which reaches a duty.
    UseMode {
        /// The mode.
        mode: String,
        /// What it reaches.
        reaches: Duty,
    },
    /// Another mode of the same timer, which buffers compare values.
    UseBufferedMode(String),
    /// Another timer of the part, which buffers compare values.
    UseBufferedTimer(String),
    /// Another top of the same mode, with room for a compare value above it.
    UseTop {
        /// The top.
        top: u64,
        /// The division that goes with it.
        divider: Rational,
    },
    /// A smaller top.
    SmallerTop,
    /// Disconnect the output, and hold the pin at its level.
    HoldPin,
    /// Another timer, which makes more steps.
    UseFinerTimer {
        /// The timer, as `PART/TIMER`.
        timer: String,
        /// The steps that it makes.
        steps: u64,
        /// The clock from which it makes them.
        clock: Frequency,
    },
    /// Another timer of the part, with a wider counter.
    UseWiderTimer {
        /// The timer.
        timer: String,
        /// Its bits.
        bits: u32,
    },
    /// More steps by a faster clock, a finer timer or a lower frequency.
    FinerSteps,
    /// A shorter step by a smaller divider or a faster clock; or a longer pulse.
    ShorterStep,
    /// A lower frequency, a wider window or a faster clock.
    LowerFrequencyOrFasterClock,
    /// More steps in the span, or a coarser input.
    MoreStepsOrCoarserInput,
    /// A division without a fraction.
    WholeDivision,
    /// A frequency of at least this.
    FrequencyAtLeast(Frequency),
    /// A frequency within these limits.
    FrequencyWithin(Range<Frequency>),
    /// A duty of 0 %, or of at least this.
    DutyZeroOrAtLeast(Duty),
    /// A duty of at most this.
    DutyAtMost(Duty),
    /// Pulses inside the load's span; or the span corrected.
    StayInsideSpan,
    /// The time that a motor rests before it is turned the other way, stated.
    DeclarePause,
    /// Ask for fewer settings.
    NarrowSearch,
    /// The map that was found, which rounds last and of which every number fits.
    UseTheMap,
    /// Observe nearer to the end of the travel, or check supply and rated voltage.
    ObserveNearerToEnd,
    /// Observe again, use the middle of the travel only, or a table.
    ObserveAgain,
    /// Count the overflows in the counter's interrupt.
    CountOverflows,
    /// A shorter window, or the counter read more often.
    ShorterWindow,
    /// A window of at least this.
    WindowAtLeast(Time),
    /// So many pulses timed as one.
    TimePulsesTogether(u64),
    /// Pulses timed, not counted, at slow speeds.
    TimePulsesWhenSlow,
    /// A better oscillator.
    BetterOscillator,
    /// The clock's real frequency, measured, and registers derived for it.
    MeasureClock,
    /// The clock's real frequency, fitted to the capture, and registers derived for it.
    FitClock,
    /// Another oscillator may be running than was thought.
    OtherOscillator,
    /// Measure again when the oscillator is warm.
    MeasureWarm,
    /// Check what the catalogue says in this document.
    CheckDocument(String),
    /// State what the timer's inputs can do in the family file.
    StateInputs,
    /// Read the registers on the target, and decode them.
    DecodeRegisters,
    /// Check pin, output enable and the recorder's channel.
    CheckPin,
    /// Check ground and threshold of the recorder, and what switches beside the line.
    CheckRecorderInput,
    /// Look for pins that software moves.
    LookForSoftwareEdges,
    /// Look for firmware that stops the timer or writes its registers within a period.
    LookForWritesInPeriod,
    /// Record two periods at least.
    RecordTwoPeriods,
    /// Record more periods.
    RecordMorePeriods,
    /// A capture with a second period.
    SecondPeriod,
    /// A longer capture, or more samples a second.
    LongerCapture,
    /// More samples a second: at least so many, where that is known.
    SampleFaster(Option<Frequency>),
    /// A recorder with a better clock.
    BetterRecorder,
    /// Another signal of the same clock in the capture, or a clock whose tolerance is stated closer.
    SecondSignal,
    /// Correct the board file.
    CorrectBoardFile,
    /// Make the code.
    MakeCode,
    /// Make the code again.
    MakeCodeAgain,
    /// Take a change of the code into the board file first.
    TakeIntoBoard,
    /// Write a function that the code calls.
    SupplyFunction(String),
    /// Look at what takes most of what is allowed.
    LookAtBudget,
    /// What was proposed for an error.
    Instead(String),
    /// Leave the place of a signal open.
    LeavePlaceOpen {
        /// The signal.
        signal: String,
        /// Where it would come out.
        place: String,
    },
    /// A step rate of at most this.
    RateAtMost(StepRate),
    /// Fewer steps of the driver in a full step.
    FewerMicrosteps,
    /// The direction set so long before the move begins.
    DirectionEarlier(Time),
    /// A move that may take this long.
    AllowTime(Time),
    /// A way, or a stay, of at least this.
    TimeAtLeast(Time),
    /// So many levels asked for.
    AskForLevels(u64),
    /// Levels whose pulses are further apart than this.
    LevelsApart(Time),
    /// What is driven taken off, and the supply switched on during the pulse.
    TakeLoadOff,
    /// Steps that are at least so far apart.
    IntervalAtLeast(Time),
    /// Edges that may be so many ticks off.
    AllowTicks(Rational),
    /// A finer tick.
    FinerTick,
    /// A stop or a switch that tells where it is, at least every so many moves.
    ReferenceWithin(u32),
    /// An encoder that counts.
    CountTurns,
    /// Leave a signal out, let several have one frequency, or take a larger part.
    SeparateSignals,
}

impl fmt::Display for Remedy {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let words = match self {
            Self::WriteRegister { field, value, keep } => {
                write!(f, "write {field}={value}")?;
                return if keep.is_empty() { Ok(()) } else { write!(f, " and keep {}", keep.join(" and ")) };
            }
            Self::CompareAtMost(last) => return write!(f, "write a compare value from 0 to {last}"),
            Self::WriteEarlyInPeriod(time) => {
                return write!(
                    f,
                    "write it within {} after a period's start, from an interrupt there",
                    time.rounded(4)
                );
            }
            Self::WidenTolerance(error) => return write!(f, "widen the tolerance to {error}"),
            Self::ClockMultipleOf(frequency) => {
                return write!(f, "choose a clock that is a multiple of {frequency}");
            }
            Self::ClockWithTick(tick) => {
                return write!(f, "choose a clock of which {tick} is a whole number of periods");
            }
            Self::ClockAtMost(clock) => {
                return write!(f, "stay at or below {clock}: beyond it nothing is promised");
            }
            Self::FindClock { suspect, given } => {
                return write!(
                    f,
                    "find out which clock reaches the counter, {} or {}",
                    suspect.rounded(9),
                    given.rounded(9)
                );
            }
            Self::UseMode { mode, reaches } => return write!(f, "mode {mode} reaches {reaches}"),
            Self::UseBufferedMode(mode) => return write!(f, "mode {mode} of the same timer buffers it"),
            Self::UseBufferedTimer(timer) => return write!(f, "timer {timer} buffers it"),
            Self::UseTop { top, divider } => {
                return write!(f, "a top of {top} with a division by {} leaves room for it", divider.mixed());
            }
            Self::UseFinerTimer { timer, steps, clock } => {
                return write!(f, "{timer} makes {steps} steps from {clock}");
            }
            Self::UseWiderTimer { timer, bits } => return write!(f, "take {timer}, which has {bits} bits"),
            Self::FrequencyAtLeast(least) => return write!(f, "a frequency of at least {least}"),
            Self::FrequencyWithin(limits) => return write!(f, "a frequency in {limits}"),
            Self::DutyZeroOrAtLeast(least) => return write!(f, "0 %, or at least {least}"),
            Self::DutyAtMost(most) => return write!(f, "at most {} at this supply", most.rounded(6)),
            Self::WindowAtLeast(window) => return write!(f, "a window of at least {}", window.rounded(6)),
            Self::TimePulsesTogether(pulses) => return write!(f, "time {pulses} pulses as one"),
            Self::CheckDocument(document) => return write!(f, "check it in {document}, or on the pin"),
            Self::SampleFaster(Some(rate)) => {
                return write!(f, "{} or more samples a second", rate.rounded(3));
            }
            Self::SupplyFunction(function) => return write!(f, "write {function}()"),
            Self::Instead(instead) => return f.write_str(&instead.replace('\n', "; or ")),
            Self::LeavePlaceOpen { signal, place } => {
                return write!(f, "leave the place of `{signal}` open: it would be {place}");
            }
            Self::RateAtMost(most) => return write!(f, "no more than {}", most.rounded(6)),
            Self::AllowTime(time) => return write!(f, "allow {}", time.rounded(6)),
            Self::TimeAtLeast(time) => return write!(f, "{} or more", time.rounded(4)),
            Self::AskForLevels(levels) => return write!(f, "ask for {levels} levels"),
            Self::LevelsApart(pulse) => {
                return write!(f, "levels that are more than {} apart", pulse.rounded(4));
            }
            Self::TakeLoadOff => {
                "take off what the motor turns, and switch the supply on while the pulse is there"
            }
            Self::IntervalAtLeast(interval) => {
                return write!(f, "steps that are at least {} apart", interval.rounded(4));
            }
            Self::AllowTicks(ticks) => {
                return write!(f, "allow {} ticks", show::significant(ticks.approx(), 4));
            }
            Self::ReferenceWithin(0 | 1) => "go to a stop or a switch before each move",
            Self::ReferenceWithin(moves) => {
                return write!(f, "go to a stop or a switch every {moves} moves");
            }
            Self::CountTurns => "count with an encoder",
            Self::DirectionEarlier(setup) => {
                return write!(f, "set the direction {} before the move begins", setup.rounded(4));
            }
            Self::FewerMicrosteps => "fewer microsteps, or a shorter interrupt",
            Self::FinerTick => "a timer or a clock with a finer tick",
            Self::SmallerTop => "a smaller top may leave room for it",
            Self::HoldPin => "disconnect the output from the timer and hold the pin at its level",
            Self::FinerSteps => "a faster clock, a finer timer, or a lower frequency",
            Self::ShorterStep => "take a smaller divider, a faster clock or a longer pulse",
            Self::LowerFrequencyOrFasterClock => {
                "ask for a lower frequency or a wider window, or give a faster clock"
            }
            Self::MoreStepsOrCoarserInput => {
                "a timer setting with more steps in the span, or a coarser input"
            }
            Self::WholeDivision => "a division without a fraction, or another clock",
            Self::StayInsideSpan => "stay inside the load's span, or correct the span",
            Self::DeclarePause => "let it come to rest first, and state how long that takes",
            Self::NarrowSearch => "ask for less: a narrower tolerance, one mode, or more steps",
            Self::UseTheMap => "use the arithmetic that was found: it rounds last, and every number fits",
            Self::ObserveNearerToEnd => {
                "observe nearer to that end, or check supply and rated voltage of the load"
            }
            Self::ObserveAgain => "observe again, use the middle of the travel only, or a table",
            Self::CountOverflows => "count the overflows in the counter's overflow interrupt",
            Self::ShorterWindow => "a shorter window, or read the counter more often and add the differences",
            Self::TimePulsesWhenSlow => "period measurement at slow speeds",
            Self::BetterOscillator => "a better oscillator",
            Self::MeasureClock => "measure the clock's frequency, and derive for that",
            Self::FitClock => "fit the clock to the capture, and derive for what it is",
            Self::OtherOscillator => "another oscillator may be running",
            Self::MeasureWarm => "measure again when the oscillator is warm",
            Self::StateInputs => "look it up in the part's manual, and state it in the family file",
            Self::DecodeRegisters => "read the timer's registers on the target, and decode them",
            Self::CheckPin => "check pin, output enable and the recorder's channel against the plan",
            Self::CheckRecorderInput => {
                "check ground and threshold of the recorder first, then what switches beside the line"
            }
            Self::LookForSoftwareEdges => {
                "edges that the timer makes by itself do not shake so: look for pins that software moves"
            }
            Self::LookForWritesInPeriod => {
                "look for firmware that stops the timer or writes its registers in the middle of a period"
            }
            Self::RecordTwoPeriods => "record for longer: two periods at least",
            Self::RecordMorePeriods => {
                "record for longer: from two periods on there is an uncertainty, from some twenty on a small one"
            }
            Self::SecondPeriod => "a second period",
            Self::LongerCapture => "a longer capture, or more samples a second",
            Self::SampleFaster(None) => "more samples a second, if the jitter matters",
            Self::BetterRecorder => "a recorder with a better clock",
            Self::SecondSignal => {
                "another signal of the same clock in the same capture, or a clock whose tolerance is stated closer"
            }
            Self::CorrectBoardFile => "docs/board-files.md describes each key",
            Self::MakeCode => "make the code",
            Self::MakeCodeAgain => "make the code again",
            Self::TakeIntoBoard => "take the change into the board file",
            Self::LookAtBudget => "its budget says what takes most of it",
            Self::SeparateSignals => {
                "leave one of them out, give them one frequency, or take a part with more timers"
            }
        };
        f.write_str(words)
    }
}

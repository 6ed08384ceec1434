//! Why no mode of a timer will do.

use std::fmt;

use crate::quantity::{Range, Time};

/// Why no mode of a timer will do.
#[derive(Debug, Clone, PartialEq, Eq)]
#[non_exhaustive]
pub enum NoModeReason {
    /// None of them dithers.
    NoDither,
    /// None of them can move a pulse away from the period's start.
    NoStartOffset,
    /// They make square waves only.
    SquareOnly,
    /// The channels that were named are taken by the top, or are too few.
    ChannelsTaken,
    /// Only some channels can move a pulse away from the period's start.
    NoStartThere {
        /// Those that can, by label.
        channels: Vec<String>,
    },
    /// No channel is free for the span.
    NoChannelForSpan,
    /// No division and top make a frequency in the window.
    NothingInWindow,
    /// The mode bits that were given belong to none that makes pulses; `known` are the modes with theirs.
    UnknownBits {
        /// Each mode, with the fields that select it.
        known: Vec<String>,
    },
    /// A tick that the timer does not reach.
    TickOutOfReach {
        /// The tick that was wanted.
        tick: Time,
        /// From the shortest to the longest that it has, where they fit.
        limits: Option<Range<Time>>,
    },
    /// Other signals settle how the counter counts, and this timer does not count like that.
    CounterSettled,
    /// None of them counts up to a period that is written, with pulses that stay as they are when it changes.
    PeriodFixed,
    /// The mode is not one of the timer's.
    Gone,
}

impl NoModeReason {
    pub(super) fn hint(&self) -> String {
        match self {
            Self::NoDither => "leave dither away, or choose a timer with a mode that dithers".to_owned(),
            Self::NoStartOffset => "leave the phase away, or choose a timer with a start offset".to_owned(),
            Self::SquareOnly => "ask for a duty of 50 %, or another mode".to_owned(),
            Self::ChannelsTaken => "name other channels, or leave the mode open".to_owned(),
            Self::NoStartThere { channels } => format!("those that can: {}", channels.join(", ")),
            Self::CounterSettled => "give this signal a counter of its own".to_owned(),
            Self::PeriodFixed => "take a timer with a period register of its own".to_owned(),
            Self::NoChannelForSpan | Self::Gone => "choose another mode".to_owned(),
            Self::NothingInWindow => "widen the window, or give another clock".to_owned(),
            Self::UnknownBits { known } => format!("modes: {}", known.join(", ")),
            Self::TickOutOfReach { limits: Some(limits), .. } => {
                format!("its tick is {} to {} from this clock", limits.low.rounded(4), limits.high.rounded(4))
            }
            Self::TickOutOfReach { limits: None, .. } => "another clock".to_owned(),
        }
    }
}

impl fmt::Display for NoModeReason {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(match self {
            Self::NoDither => "none of them dithers",
            Self::NoStartOffset => "none of them can move a pulse away from the period's start",
            Self::SquareOnly => "it makes square waves only",
            Self::ChannelsTaken => "the channels asked for are taken by its top, or too few",
            Self::NoStartThere { .. } => "not every channel can move its pulse away from the period's start",
            Self::NoChannelForSpan => "no channel is free for the span",
            Self::NothingInWindow => "no division and top make a frequency in the window",
            Self::UnknownBits { .. } => "the mode bits given belong to none that makes pulses",
            Self::TickOutOfReach { tick, .. } => return write!(f, "a tick of {tick} is out of reach"),
            Self::CounterSettled => "the other signals of its counter need one that it does not have",
            Self::PeriodFixed => {
                "none of them counts up to a period that is written, with pulses that stay as long when it changes"
            }
            Self::Gone => "it is not one of the timer's",
        })
    }
}

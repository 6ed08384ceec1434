//! One candidate of a search, as numbers.

/// One division and one top of one mode, judged.
#[derive(Debug, Clone)]
pub(crate) struct Candidate {
    /// Position of the mode in the timer's list.
    pub(crate) mode: usize,
    /// Position of the division.
    pub(crate) division: usize,
    /// The division, scaled.
    pub(crate) scaled: u64,
    /// The top.
    pub(crate) top: u64,
    /// How far the period is off: the numerator of a fraction whose denominator is `period` times a constant.
    pub(crate) deviation: u128,
    /// Source clocks in a period, scaled.
    pub(crate) period: u128,
    /// Whether the frequency is within the tolerance.
    pub(crate) within: bool,
    /// Whether every period is the same whole number of source clocks.
    pub(crate) steady: bool,
    /// Whether the frequency is met, in a whole number of source clocks.
    pub(crate) frequency_exact: bool,
    /// Whether every wanted signal is met, in a whole number of source clocks.
    pub(crate) signals_exact: bool,
    /// The largest distance from a wanted signal, in source clocks, as a fraction.
    pub(crate) signal_error: (u128, u128),
    /// Steps: in the span if there is one, else in the whole period.
    pub(crate) steps: u64,
    /// Digits of the tick in nanoseconds, trailing zeros not counted; `u32::MAX` where it is not whole.
    pub(crate) tick_digits: u32,
    /// Whether the mode is a usual one.
    pub(crate) usual: bool,
    /// Whether the mode costs a channel.
    pub(crate) costs_channel: bool,
}

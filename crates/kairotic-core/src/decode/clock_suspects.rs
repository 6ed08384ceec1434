//! The clocks that a timer may count in place of the one that it was given.

use crate::error::{OrOverflow, Result};
use crate::part::Timer;
use crate::quantity::{Frequency, Rational};

/// The clocks that a timer may count instead of a given one, each with what it is: a half, a quarter, twice or four
/// times of it, and those that the part is known to have.
///
/// # Errors
/// [`QuantityError::Overflow`](crate::quantity::QuantityError::Overflow).
pub(crate) fn clock_suspects(timer: &Timer, clock: Frequency) -> Result<Vec<(String, Frequency)>> {
    let factors = [
        (Rational::new(1, 2), "half of that"),
        (Rational::new(2, 1), "twice that"),
        (Rational::new(1, 4), "a quarter of that"),
        (Rational::new(4, 1), "four times that"),
    ];
    let scaled = factors
        .into_iter()
        .map(|(factor, words)| Ok((words.to_owned(), clock.times(factor.or_overflow("clock")?)?)));
    let known = timer.known_clocks.iter().cloned().map(Ok);
    scaled.chain(known).collect()
}

//! The way back: from register values to the signal, with what is probably wrong with them, and to another timer.

mod clock_suspects;
mod expectation;
mod findings;
mod mode_inference;
mod off_by_one;
mod port;
mod reading;
mod single_change;

#[cfg(feature = "capture")]
pub(crate) use self::clock_suspects::clock_suspects;
pub use self::expectation::Expectation;
pub use self::port::{ChangeVerdict, PropertyChange, port};
pub use self::reading::{DecodeRequest, Reading, decode};

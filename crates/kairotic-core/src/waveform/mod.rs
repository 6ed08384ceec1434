//! The edge-by-edge oracle: a counter simulated source clock by source clock.
//!
//! A [`Machine`] knows how a counter runs and what its output does, in the words of the reference manual, and nothing
//! of the formulas in [`part`](crate::part)'s laws. What it plays is what the formulas are tested against.

pub mod agree;
mod counter;
mod cycles;
mod leap;
mod machine;
mod repeating;
#[cfg(test)]
mod tests;

pub use self::cycles::{Cycle, Cycles};
pub use self::machine::{Event, EventKind, Machine, Player, Values, Write};
pub use self::repeating::Repeating;

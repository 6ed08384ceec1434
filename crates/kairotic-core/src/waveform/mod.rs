//! The edge-by-edge oracle: a counter simulated source clock by source clock.
//!
//! A [`Machine`] knows how a counter runs and what its output does, in the words of the reference manual, and nothing
//! of the formulas in [`part`](crate::part)'s laws. What it plays is what the formulas are tested against.
//!
//! ```
//! use kairotic_core::quantity::Rational;
//! use kairotic_core::waveform::{Machine, Values};
//!
//! let timer = kairotic_parts::Catalogue::embedded().part("stm32f411")?.timer("tim3", None)?;
//! let machine = Machine::of(&timer, timer.mode("up")?, Rational::whole(2), false);
//! // Ten ticks of two source clocks, three of them high.
//! let cycle = machine.play(Values { top: 9, compare: 3 }, &[]).cycles().nth(1);
//! assert_eq!(cycle.map(|cycle| (cycle.length, cycle.high)), Some((20, 6)));
//! # Ok::<(), kairotic_core::Error>(())
//! ```

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

//! How far a signal may be off, all in all: every contribution on its own, what they make together, and whether that is
//! good enough.
//!
//! What is known (rounding to whole steps), what lies somewhere between bounds (an oscillator, the pattern of a
//! fractional divider) and what is random (the jitter of a PLL) are kept apart until the sums: the worst case adds the
//! ends of everything, the likely one adds squares.

mod budget;
mod conditions;
mod contribution;
mod judge;
mod measured;
mod population;
mod remedy;
mod totals;
mod update;

pub use self::budget::{Budget, BudgetRequest, budget};
pub use self::conditions::{Conditions, Statement};
pub use self::contribution::{Cause, Contribution, Nature, Reach};
pub use self::measured::{Measured, MeasuredClock, Measurement, measured};
pub use self::population::{Bin, Population, Share, population};
pub use self::remedy::{Change, Improvement};
pub use self::totals::{COVERAGE, Likely, Totals};
pub use self::update::Update;

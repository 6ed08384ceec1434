//! How far a signal may be off, all in all: every contribution on its own, what they make together, and whether that is
//! good enough.
//!
//! What is known (rounding to whole steps), what lies somewhere between bounds (an oscillator, the pattern of a
//! fractional divider) and what is random (the jitter of a PLL) are kept apart until the sums: the worst case adds the
//! ends of everything, the likely one adds squares.
//!
//! ```
//! use kairotic_core::accuracy::budget;
//! use kairotic_core::quantity::{parse, units::ppm};
//! use kairotic_core::signal::SignalSpec;
//! # use kairotic_core::part::TimerUse;
//! # use kairotic_core::quantity::units::{khz, mhz, percent};
//! # use kairotic_core::target::Target;
//! # let catalogue = kairotic_parts::Catalogue::embedded();
//! let clock = parse::tolerance("96MHz+-50ppm")?;
//! let timer_use = TimerUse::of(catalogue.part("stm32f411")?, "tim3").clocked(clock);
//! let signal = SignalSpec::of(timer_use, Target::frequency(khz(25)).duty(percent(35)));
//! // The registers are exact: what is left is the oscillator.
//! assert_eq!(budget(&signal)?.totals.worst.frequency.high, ppm(50));
//! # Ok::<(), kairotic_core::Error>(())
//! ```

mod budget;
mod clock_errors;
mod contribution;
mod judge;
mod measured;
#[cfg(feature = "simulation")]
mod population;
mod totals;
mod update;

pub(crate) use self::budget::drawn_up_of;
pub use self::budget::{Budget, Improvement, SpecChange, budget};
pub use self::clock_errors::Statement;
pub use self::contribution::{Contribution, ErrorSource, Nature, Reach};
pub use self::measured::{BenchMeasurement, MeasuredClock, MeasuredQuantity, measured};
#[cfg(feature = "simulation")]
pub use self::population::{Bin, MeasuredError, Population, Share, population};
pub use self::totals::{COVERAGE, Likely, Totals};
pub use self::update::Update;

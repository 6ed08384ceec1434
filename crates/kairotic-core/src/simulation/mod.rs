//! The edges that a signal or a board should have, and the faults that a rehearsal puts into them.
//!
//! ```
//! use kairotic_core::quantity::units::{ns, us};
//! use kairotic_core::search::derive;
//! use kairotic_core::simulation::{FaultInjection, Wave, WaveRequest, lines};
//! # use kairotic_core::part::TimerUse;
//! # use kairotic_core::quantity::units::{khz, mhz, percent};
//! # use kairotic_core::target::Target;
//! # let catalogue = kairotic_parts::Catalogue::embedded();
//! let timer_use = TimerUse::of(catalogue.part("stm32f411")?, "tim3").clocked(mhz(96).exactly());
//! let found = derive(&timer_use, &Target::frequency(khz(25)).duty(percent(35)))?;
//! let pins = lines(&found.timer, &found.best.setting, "motor")?;
//! let request = WaveRequest { lines: pins, length: us(80), tick: ns(1), rehearsal: FaultInjection::PERFECT };
//! let edges: Vec<u64> = Wave::of(&request)?.map(|edge| edge.at).collect();
//! assert_eq!(edges, [0, 14_000, 40_000, 54_000, 80_000]);
//! # Ok::<(), kairotic_core::Error>(())
//! ```

mod change;
#[cfg(feature = "simulation")]
mod changing;
#[cfg(feature = "simulation")]
mod fault_injection;
#[cfg(feature = "simulation")]
mod played;
#[cfg(feature = "simulation")]
mod steps;
#[cfg(feature = "simulation")]
mod wave;

pub use self::change::{Change, Logic};
#[cfg(feature = "simulation")]
pub use self::fault_injection::{FaultInjection, Wave, WaveRequest};
#[cfg(feature = "simulation")]
pub use self::played::{PinRole, PlayedPin, lines_of_move, lines_of_sequence};
#[cfg(feature = "simulation")]
pub use self::wave::{CounterInTicks, WaveLine, lines};

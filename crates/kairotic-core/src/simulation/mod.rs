//! The edges that a signal or a board should have, and the faults that a rehearsal puts into them.

mod change;
#[cfg(feature = "simulation")]
mod fault_injection;
#[cfg(feature = "simulation")]
mod wave;

pub use self::change::{Change, Logic};
#[cfg(feature = "simulation")]
pub use self::fault_injection::{FaultInjection, Wave, WaveRequest};
#[cfg(feature = "simulation")]
pub use self::wave::{CounterInTicks, WaveLine, lines};

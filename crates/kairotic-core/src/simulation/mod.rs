//! The edges that a signal or a board should have, and the faults that a rehearsal puts into them.

mod change;
mod fault_injection;
mod wave;

pub use self::change::{Change, Logic};
pub use self::fault_injection::{FaultInjection, Wave, WaveRequest};
pub use self::wave::{CounterInTicks, WaveLine, lines};

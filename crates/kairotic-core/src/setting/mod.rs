//! Settings: register values, what they make of a clock, and the fields to write.

pub(crate) mod active;
mod counting;
pub(crate) mod dead_time;
pub(crate) mod divider;
mod evaluate;
pub(crate) mod findings;
mod timing;
pub(crate) mod write;

pub use self::counting::FreeRunning;
pub use self::evaluate::{Constant, Ends, Output, PlannedChannel, PlannedDeadTime, RegisterPlan, Setting};
pub(crate) use self::evaluate::{is_past_top, ruler};
pub use self::timing::{ClockError, Jitter};
pub use self::write::{FieldWrite, Written};

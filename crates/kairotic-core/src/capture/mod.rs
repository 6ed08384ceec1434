//! Recorded edges: what a pin did, measured as the edges come, in memory that does not grow with them.
//!
//! Times are whole ticks of the recorder. All sums are whole numbers; only what is shown of them is a float.
//!
//! ```
//! use kairotic_core::capture::Meter;
//! use kairotic_core::simulation::Logic;
//!
//! let mut meter = Meter::new(0);
//! for edge in 0..20 {
//!     meter.change(edge * 1000, Logic::High);
//!     meter.change(edge * 1000 + 300, Logic::Low);
//! }
//! let timing = meter.finish().timing.expect("there are many periods");
//! assert_eq!((timing.period.mean(), timing.duty()), (1000.0, 0.3));
//! ```

mod against;
mod allan;
pub(crate) mod block;
mod cause;
mod column;
mod common;
mod comparison;
mod confidence;
mod cycles;
mod drift;
pub(crate) mod filter;
#[cfg(feature = "simulation")]
mod followed;
mod hull;
mod line;
mod matching;
mod measurement;
mod meter;
mod meters;
mod pair;
#[cfg(feature = "simulation")]
mod product;
mod pulse_train;
mod recorder;
mod requirements;
mod results;
pub(crate) mod segments;
mod shared_clock;
mod spread;
#[cfg(test)]
mod tests;
pub(crate) mod trace;

pub use self::against::{CaptureCheck, Captured, FittedClock, Refitted, check_capture};
pub use self::cause::Cause;
pub use self::common::CommonClock;
pub use self::comparison::Comparison;
#[cfg(feature = "simulation")]
pub use self::followed::{FollowedPin, PinSeen, PulseMeaning, followed};
pub use self::matching::is_called;
pub use self::measurement::{Allan, Anomaly, Clocked, Events, Measurement, Segment, Timing};
pub use self::meter::Meter;
pub use self::meters::{Metered, Meters};
pub use self::pair::{PairMeasurement, PairMeter};
#[cfg(feature = "simulation")]
pub use self::pulse_train::{PulseTrain, TimedPulse};
pub use self::recorder::Recorder;
pub use self::requirements::Allowed;
pub use self::results::{
    AllanResult, EventResult, EventsResult, MeasuredRatio, MeasuredTime, PairResult, SegmentResult,
    SignalResult, SpreadResult, TimingResult,
};
pub use self::spread::Spread;
pub use self::trace::TracePoint;

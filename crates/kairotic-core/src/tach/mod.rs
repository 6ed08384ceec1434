//! Speed feedback: how a counter measures the speed of something that gives so many pulses a turn.
//!
//! Two methods are set against one another. *Period measurement* captures a free-running counter at each pulse: with a
//! tick of t and P pulses a turn, a speed n gives C = 1 / (n · P · t) counts, so that neighbouring readings lie
//! 1 / (P · t · C · (C + 1)) apart, which grows with the square of the speed. A *window* counts the pulses in a time T:
//! its readings lie 1 / (P · T) apart at every speed. They are equally fine at n = 1 / (P · √(t · T)).
//!
//! ```
//! use kairotic_core::quantity::units::ms;
//!
//! // Ten turns a second with two pulses each.
//! assert_eq!(kairotic_core::tach::gap("600rpm".parse()?, 2)?, ms(50));
//! # Ok::<(), kairotic_core::Error>(())
//! ```

mod at_speed;
mod interval;
mod plan;
#[cfg(feature = "capture")]
mod results;
#[cfg(feature = "capture")]
mod speed_meter;
#[cfg(test)]
mod tests;
mod window;

pub use self::at_speed::{AtSpeed, Method, SpeedReading};
pub use self::interval::{Interval, gap};
pub use self::plan::{Recommendation, TachPlan, TachRequest, plan};
#[cfg(feature = "capture")]
pub use self::results::{MeasuredSpeed, SpeedReadings, SpeedResult, SpeedSegment, Stop};
#[cfg(feature = "capture")]
pub use self::speed_meter::{SpeedMeasurement, SpeedMeter, SpeedPoint, TurnTiming};
pub use self::window::Window;

//! From here to there: how many steps, when each of them comes, and how firmware makes them.
//!
//! A ramp has an ideal, in which time has no steps, and edges at the ticks of a counter. When an edge comes is a root or a
//! polynomial over whole numbers; it is never a sum of rounded intervals, so that nothing drifts. Every way to make a ramp in
//! firmware is run over every edge here, and what is said of its deviation was found so.
//!
//! ```
//! use kairotic_core::load::StepRates;
//! use kairotic_core::motion::{RampRequest, StepRamp};
//! use kairotic_core::quantity::{Rational, StepRate, units::us};
//!
//! let rates = StepRates {
//!     start: StepRate::ZERO,
//!     fastest: "2000steps/s".parse()?,
//!     acceleration: "1000steps/s2".parse()?,
//!     jerk: None,
//! };
//! let ramp = StepRamp::of(&RampRequest { steps: 200, rates, tick: us(1), most: Rational::ONE })?;
//! let first = ramp.edges().take(3).map(|edge| edge.map(|edge| edge.interval)).collect::<Result<Vec<_>, _>>()?;
//! assert_eq!(first, [44_721, 18_525, 14_214]);
//! # Ok::<(), kairotic_core::Error>(())
//! ```

mod climb;
mod cosine;
mod deviation;
mod ideal;
mod linear_ramp;
mod microsteps;
mod naive;
mod pace;
mod phases;
mod ramp;
mod ramp_shape;
mod roots;
mod smooth_ramp;
mod step_counter;
mod stepper_move;
mod table_word;
#[cfg(test)]
mod tests;
mod timed_move;
mod travel;
mod walk;

pub use self::climb::{Climb, Coding, Plateau, StepRoots};
pub use self::deviation::EdgeDeviation;
pub use self::microsteps::{MicrostepTables, Winding};
pub use self::naive::{NaiveRamp, Shortcut};
pub use self::pace::Pace;
pub use self::phases::PortWords;
pub use self::ramp::{RampRequest, RampWay, StepEdge, StepRamp};
pub use self::ramp_shape::RampShape;
pub use self::step_counter::{StepCounter, StepTimer};
pub use self::stepper_move::{MoveRequest, StepTiming, StepperMove, ideal_time};
pub use self::table_word::TableWord;
pub use self::timed_move::{
    DriftSource, DriftSum, Encoder, EncoderPlan, MoveDrift, TimedMove, TimedMoveRequest,
};
pub use self::travel::{Course, Repeated, Travel, carried_steps};
pub use self::walk::{SteadyRun, Walk};

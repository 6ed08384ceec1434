//! What `tach` shows: a timer set up to measure a speed, or a speed that was recorded.

mod setup;
mod speed;

use kairotic_core::quantity::{Rational, Speed};

pub use self::setup::SetupReport;
pub use self::speed::{SpeedReport, SpeedSignal};

/// TurnTiming a minute, exactly.
fn rpm(speed: Speed) -> Option<Rational> {
    speed.value().times(Rational::whole(60))
}

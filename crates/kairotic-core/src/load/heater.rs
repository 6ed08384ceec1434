//! A resistive heater: watts against duty.

use serde::Serialize;

use crate::error::OrOverflow;
use crate::error::Result;
use crate::quantity::{Duty, Power, Rational, Resistance, Voltage};

/// A heater.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
pub struct Heater {
    /// What is switched.
    pub supply: Voltage,
    /// Its resistance when warm.
    pub resistance: Resistance,
}

impl Heater {
    /// The power at full duty, in watts.
    pub(super) fn most(&self) -> Result<Rational> {
        let volts = self.supply.value();
        let square = volts.times(volts).and_then(|square| square.over(self.resistance.value()));
        square.or_overflow("power")
    }

    /// The duty for a power, in watts.
    pub(super) fn duty(&self, power: Rational) -> Result<Duty> {
        power.over(self.most()?).or_overflow("duty").map(Duty::new)
    }

    /// The power of a duty.
    pub(super) fn power(&self, duty: Rational) -> Result<Power> {
        duty.times(self.most()?).or_overflow("power").map(Power::new)
    }
}

//! How a setting comes about, line by line.

mod arithmetic;

pub use self::arithmetic::ArithmeticLine;
use crate::decode::Reading;
use crate::error::Result;
use crate::search::{Derivation, TimeBase};

impl Derivation {
    /// The arithmetic of the leading setting, line by line.
    ///
    /// # Errors
    /// [`QuantityError::Overflow`](crate::quantity::QuantityError::Overflow).
    pub fn explain(&self) -> Result<Vec<ArithmeticLine>> {
        arithmetic::derivation(&self.timer, &self.target, self.clock.nominal, &self.best)
    }
}

impl Reading {
    /// The arithmetic from the registers to each output, line by line.
    ///
    /// # Errors
    /// [`QuantityError::Overflow`](crate::quantity::QuantityError::Overflow).
    pub fn explain(&self) -> Result<Vec<ArithmeticLine>> {
        arithmetic::reading(&self.timer, &self.setting)
    }
}

impl TimeBase {
    /// The arithmetic of the leading setting, line by line.
    ///
    /// # Errors
    /// [`QuantityError::Overflow`](crate::quantity::QuantityError::Overflow).
    pub fn explain(&self) -> Result<Vec<ArithmeticLine>> {
        self.settings.first().map_or(Ok(Vec::new()), |best| arithmetic::reading(&self.timer, &best.setting))
    }
}

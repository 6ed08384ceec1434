//! How a setting comes about, line by line.
//!
//! ```
//! use kairotic_core::search::derive;
//! # use kairotic_core::part::TimerUse;
//! # use kairotic_core::quantity::units::{khz, mhz, percent};
//! # use kairotic_core::target::Target;
//! # let catalogue = kairotic_parts::Catalogue::embedded();
//! let timer_use = TimerUse::of(catalogue.part("stm32f411")?, "tim3").clocked(mhz(96).exactly());
//! let found = derive(&timer_use, &Target::frequency(khz(25)).duty(percent(35)))?;
//! let lines = found.explain()?;
//! assert!(lines.iter().any(|line| line.sum.contains("3840")));
//! # Ok::<(), kairotic_core::Error>(())
//! ```

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

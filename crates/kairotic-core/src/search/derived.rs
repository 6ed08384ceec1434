//! A planned signal with the registers that were derived for it.

use super::derive::{Derivation, derive};
use crate::error::Result;
use crate::quantity::{Frequency, Tolerance};
use crate::signal::SignalSpec;

/// A planned signal with the registers that were derived for it.
#[derive(Debug, Clone, PartialEq)]
pub struct DerivedSignal<'p> {
    /// The signal.
    pub spec: SignalSpec<'p>,
    /// Its registers.
    pub derivation: Derivation,
}

impl<'p> DerivedSignal<'p> {
    /// Derives a planned signal.
    ///
    /// # Errors
    /// As [`derive()`].
    pub fn of(spec: SignalSpec<'p>) -> Result<Self> {
        let derivation = derive(&spec.on, &spec.target)?;
        Ok(Self { spec, derivation })
    }

    /// Derives the signal again, for the frequency that its clock really has.
    ///
    /// # Errors
    /// As [`derive()`].
    pub fn with_real_clock(&self, clock: Tolerance<Frequency>) -> Result<Self> {
        Self::of(SignalSpec { on: self.spec.on.with_real_clock(clock), ..self.spec.clone() })
    }
}

//! A timer's signal as options describe it: where, from which clock, what is wanted, and how it is made.

use clap::Args;
use kairotic_core::search::DeriveRequest;

use super::clock::ClockOptions;
use super::location::{Location, LocationOptions};
use super::shape::ShapeOptions;
use super::target::TargetOptions;
use crate::fault::{Fault, Result};
use crate::part_library::PartLibrary;

/// A timer's signal.
#[derive(Debug, Args)]
pub struct DescribedSignal {
    #[command(flatten)]
    place: LocationOptions,
    #[command(flatten)]
    clock: ClockOptions,
    #[command(flatten)]
    target: TargetOptions,
    #[command(flatten)]
    shape: ShapeOptions,
}

/// Its options besides `--on`: where a board file says it, they mean nothing.
pub const DESCRIBED: [&str; 15] = [
    "pin",
    "clock",
    "sysclk",
    "bus",
    "freq",
    "period",
    "duty",
    "pulse",
    "phase",
    "span",
    "min_bits",
    "active",
    "dead_time",
    "mode",
    "base",
];

impl DescribedSignal {
    /// Whether a timer is named.
    pub const fn is_given(&self) -> bool {
        self.place.is_given()
    }

    /// The part's name, and what is to be derived on it.
    ///
    /// # Errors
    /// [`Fault`] for texts that are no quantities, for a signal without a frequency, and for what the clock tree refuses.
    pub fn read(&self, catalogue: &PartLibrary) -> Result<(String, DeriveRequest)> {
        let (Location { part, timer, channel }, _) = self.place.read(catalogue)?;
        let (clock, _) = self.clock.of(catalogue, &part, &timer)?;
        let aim = self.target.aim()?.ok_or_else(|| Fault::Usage {
            message: "missing --freq or --period".to_owned(),
            hint: "give --freq or --period, and --pulse, --duty or --span".to_owned(),
        })?;
        let target = self.shape.of(self.target.target(aim)?)?;
        let request = DeriveRequest {
            mode: self.shape.mode.clone(),
            base: self.shape.base.clone(),
            ..DeriveRequest::plain(timer, channel, clock, target)
        };
        Ok((part, request))
    }
}

//! The arguments of `decode`.

use clap::Args;
use kairotic_core::decode::DecodeRequest;
use kairotic_core::part::{Assignment, TimerUse};
use kairotic_core::quantity::{Deviation, Frequency, FrequencyDimension};

use super::clock::ClockOptions;
use super::location::{Located, LocationOptions};
use super::routing::Routing;
use super::typed::{positive, text, tolerance};
use crate::fault::Result;
use crate::part_library::PartLibrary;

/// The arguments of `decode`.
///
/// Registers are given by the names that `derive` prints: a field (PSC=39, CTRLA.PRESCALER=0) or a whole register
/// (TCCR1A=0x82), which is taken apart. Registers that matter and are not given are
/// assumed, and listed.
#[derive(Debug, Args)]
#[command(after_help = EXAMPLES)]
#[command(mut_arg("on", |on| on.required(true)))]
pub struct DecodeArgs {
    #[command(flatten)]
    place: LocationOptions,
    #[command(flatten)]
    clock: ClockOptions,
    /// The register values, decimal, 0x or 0b
    #[arg(value_name = "NAME=VALUE", required = true, value_parser = text::<Assignment>)]
    registers: Vec<Assignment>,
    /// The frequency that was meant: the findings then say what to write for it
    #[arg(long, value_name = "FREQUENCY", allow_hyphen_values = true, value_parser = positive::<FrequencyDimension>)]
    expect: Option<Frequency>,
    /// How far the frequency may be off what was meant
    #[arg(long, value_name = "PPM", default_value = "100ppm", allow_hyphen_values = true, value_parser = tolerance)]
    within: Deviation,
    /// The base counter, where the timer can choose one and no register says which
    #[arg(long, value_name = "COUNTER")]
    base: Option<String>,
    /// Accept a clock above the timer's maximum
    #[arg(long)]
    allow_overclock: bool,
    /// Show the arithmetic, line by line
    #[arg(long, help_heading = "Output")]
    pub explain: bool,
}

const EXAMPLES: &str = "\
Examples:
  kairotic decode --on stm32f411/tim3 --clock 100MHz PSC=40 ARR=50000 CCR1=3750
      the shutter's servo in old firmware: two values are one too large
  kairotic decode --on atmega328p/timer1 --clock 16MHz TCCR1A=0x82 TCCR1B=0x1a ICR1=39999 OCR1A=2999
      whole registers, as they stand in the code
  kairotic decode --on stm32f411/tim3 --clock 50MHz PSC=39 ARR=49999 --expect 50Hz
      is it another clock that reaches the timer?";

impl DecodeArgs {
    /// What to decode, and what lies around the timer as far as it was asked.
    ///
    /// # Errors
    /// Names that are not there, and what the clock tree refuses.
    pub fn read<'c>(&self, catalogue: &'c PartLibrary) -> Result<(DecodeRequest<'c>, Routing)> {
        let Located { on, channel, pin } = self.place.one(catalogue)?;
        let (on, way) = self.clock.on(on, catalogue)?;
        let request = DecodeRequest {
            on: TimerUse { base: self.base.clone(), allow_overclock: self.allow_overclock, ..on },
            channel,
            assignments: self.registers.clone(),
            expect: self.expect,
            within: self.within,
        };
        Ok((request, Routing { way, pin, ..Routing::default() }))
    }
}

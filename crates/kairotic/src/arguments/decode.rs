//! The arguments of `decode`.

use std::path::PathBuf;

use clap::Args;
use kairotic_core::decode::{DecodeRequest, MemoryWord, registers_in};
use kairotic_core::part::{Assignment, TimerUse};
use kairotic_core::quantity::{Deviation, Frequency, FrequencyDimension};
use kairotic_formats::memory_dump::{self, AddressedWord, WordError};

use super::clock::ClockOptions;
use super::location::{Located, LocationOptions};
use super::routing::Routing;
use super::typed::{Refusal, positive, tolerance};
use crate::fault::{Fault, Result};
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
    /// The register values, decimal, 0x or 0b, by name or by address (0x40000428=0x27)
    #[arg(value_name = "NAME=VALUE", required_unless_present = "dump", value_parser = given)]
    registers: Vec<GivenRegister>,
    /// Memory as a debugger printed it, an address and its words a line: what the firmware left in the timer
    #[arg(long, value_name = "FILE")]
    dump: Option<PathBuf>,
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
      is it another clock that reaches the timer?
  kairotic decode --on stm32f411/tim3 --clock 100MHz 0x40000428=0x27 0x4000042c=0xc34f 0x40000434=0xea6
      the same by address, as a debugger shows them; --dump FILE takes a whole listing";

/// A register value as it is given.
#[derive(Debug, Clone)]
enum GivenRegister {
    Named(Assignment),
    At(MemoryWord),
}

fn given(text: &str) -> Result<GivenRegister, Refusal> {
    if text.starts_with("0x") {
        let AddressedWord(word) = text.parse().map_err(|error: WordError| {
            Refusal::new(
                error.to_string(),
                "for example 0x40000428=0x27: an address in hexadecimal and a value",
            )
        })?;
        return Ok(GivenRegister::At(word));
    }
    Ok(GivenRegister::Named(text.parse()?))
}

impl DecodeArgs {
    /// What to decode, what lies around the timer as far as it was asked, and the addresses of a dump that are not the
    /// timer's.
    ///
    /// # Errors
    /// Names and addresses that are not there, a dump that cannot be read, and what the clock tree refuses.
    pub fn read<'c>(&self, catalogue: &'c PartLibrary) -> Result<(DecodeRequest<'c>, Routing, Vec<u64>)> {
        let Located { on, channel, pin } = self.place.one(catalogue)?;
        let (on, way) = self.clock.on(on, catalogue)?;
        let on = TimerUse { base: self.base.clone(), allow_overclock: self.allow_overclock, ..on };
        let (assignments, elsewhere) = self.assignments(&on, catalogue)?;
        let request = DecodeRequest { on, channel, assignments, expect: self.expect, within: self.within };
        Ok((request, Routing { way, pin, ..Routing::default() }, elsewhere))
    }

    /// The register values by name, those that are given by address among them, and the addresses of a dump that are
    /// not the timer's.
    fn assignments(&self, on: &TimerUse<'_>, catalogue: &PartLibrary) -> Result<(Vec<Assignment>, Vec<u64>)> {
        let (mut assignments, mut given) = (Vec::new(), Vec::new());
        for register in &self.registers {
            match register {
                GivenRegister::Named(assignment) => assignments.push(assignment.clone()),
                GivenRegister::At(word) => given.push(*word),
            }
        }
        if given.is_empty() && self.dump.is_none() {
            return Ok((assignments, Vec::new()));
        }
        let part = catalogue.whole_part(&on.part.name)?;
        let found = registers_in(part, on, &given)?;
        if let Some(address) = found.elsewhere.first() {
            return Err(Fault::Usage {
                message: format!("there is no register of {} at {address:#010x}", on.path()),
                hint: "`kairotic derive --from-reset` on the timer shows the addresses of its registers"
                    .to_owned(),
            });
        }
        assignments.extend(found.assignments);
        let Some(file) = &self.dump else { return Ok((assignments, Vec::new())) };
        let words = memory_dump::read(&catalogue.file(file)?).map_err(|error| Fault::Usage {
            message: error.to_string(),
            hint: "a line holds an address and the words there, as in `0x40000400: 0x00000081 0x00000000`"
                .to_owned(),
        })?;
        let found = registers_in(part, on, &words)?;
        if found.assignments.is_empty() {
            return Err(Fault::Usage {
                message: format!("{} has no register of {}", file.display(), on.path()),
                hint: "`kairotic derive --from-reset` on the timer shows the addresses of its registers"
                    .to_owned(),
            });
        }
        assignments.extend(found.assignments);
        Ok((assignments, found.elsewhere))
    }
}

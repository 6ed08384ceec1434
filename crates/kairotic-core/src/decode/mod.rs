//! The way back: from register values to the signal, with what is probably wrong with them, and to another timer.
//!
//! ```
//! use kairotic_core::decode::{DecodeRequest, decode};
//! # use kairotic_core::part::TimerUse;
//! # use kairotic_core::quantity::units::{khz, mhz, percent};
//! # use kairotic_core::target::Target;
//! # let catalogue = kairotic_parts::Catalogue::embedded();
//! let timer_use = TimerUse::of(catalogue.part("stm32f411")?, "tim3").clocked(mhz(96).exactly());
//! let registers = ["PSC=0".parse()?, "ARR=3839".parse()?, "CCR1=1344".parse()?];
//! let reading = decode(&DecodeRequest::plain(timer_use, registers.to_vec()))?;
//! assert_eq!(reading.setting.frequency, khz(25));
//! assert_eq!(reading.setting.outputs[0].duty, percent(35));
//! # Ok::<(), kairotic_core::Error>(())
//! ```

mod clock_suspects;
mod expectation;
mod findings;
mod memory_words;
mod mode_inference;
mod off_by_one;
mod port;
mod reading;
mod single_change;

#[cfg(feature = "capture")]
pub(crate) use self::clock_suspects::clock_suspects;
pub use self::expectation::Expectation;
pub use self::memory_words::{MemoryWord, RegistersFound, registers_in};
pub use self::port::{ChangeVerdict, PropertyChange, port};
pub use self::reading::{DecodeRequest, Reading, decode};

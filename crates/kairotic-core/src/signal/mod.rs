//! One named signal: where it comes out, what is wanted of it, what it drives, and what is required of it.
//!
//! ```
//! use kairotic_core::signal::SignalSpec;
//! # use kairotic_core::part::TimerUse;
//! # use kairotic_core::quantity::units::{khz, mhz, percent};
//! # use kairotic_core::target::Target;
//! # let catalogue = kairotic_parts::Catalogue::embedded();
//! let timer_use = TimerUse::of(catalogue.part("stm32f411")?, "tim3").clocked(mhz(96).exactly());
//! let signal = SignalSpec::of(timer_use, Target::frequency(khz(25)).duty(percent(35)).on_channel("2"));
//! assert_eq!(signal.name, "tim3/2");
//! # Ok::<(), kairotic_core::Error>(())
//! ```

mod conditions;
mod needs;
mod spec;

pub use self::conditions::Conditions;
pub use self::needs::{Need, Needs};
pub use self::spec::SignalSpec;

//! What is required of a signal, and whether it is met.
//!
//! ```
//! use kairotic_core::requirement::{Verdict, check};
//! use kairotic_core::search::derive;
//! use kairotic_core::signal::Needs;
//! # use kairotic_core::part::TimerUse;
//! # use kairotic_core::quantity::units::{khz, mhz, percent};
//! # use kairotic_core::target::Target;
//! # let catalogue = kairotic_parts::Catalogue::embedded();
//! let timer_use = TimerUse::of(catalogue.part("stm32f411")?, "tim3").clocked(mhz(96).exactly());
//! let found = derive(&timer_use, &Target::frequency(khz(25)).duty(percent(35)))?;
//! let needs = Needs { steps: Some(4096), ..Needs::default() };
//! // There are 3840.
//! assert_eq!(check(&needs, &found, None, None)?[0].outcome, Verdict::Missed);
//! # Ok::<(), kairotic_core::Error>(())
//! ```

mod by_setting;
mod check;

pub use self::by_setting::check;
pub use self::check::{RequirementCheck, Verdict};

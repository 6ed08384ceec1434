//! The search for settings: every mode and divider of a timer, ranked, with what else is worth a look.
//!
//! ```
//! use kairotic_core::search::{Prefer, SearchOptions, derive_with};
//! # use kairotic_core::part::TimerUse;
//! # use kairotic_core::quantity::units::{khz, mhz, percent};
//! # use kairotic_core::target::Target;
//! # let catalogue = kairotic_parts::Catalogue::embedded();
//! let timer_use = TimerUse::of(catalogue.part("stm32f411")?, "tim3").clocked(mhz(96).exactly());
//! let exact = SearchOptions { prefer: Some(Prefer::Exact), ..SearchOptions::default() };
//! let found = derive_with(&timer_use, &Target::frequency(khz(25)).duty(percent(35)), exact)?;
//! // 96 MHz over 25 kHz are 3840 ticks, 35 % of which are 1344.
//! assert_eq!(found.best.setting.plan.top, 3839);
//! assert_eq!(found.best.setting.outputs[0].compare, Some(1344));
//! # Ok::<(), kairotic_core::Error>(())
//! ```

mod candidate;
mod candidates;
mod channels;
mod closest;
mod derive;
mod derived;
mod exact_top;
mod findings;
mod fit;
mod rank;
mod reach;
mod reasons;
mod shortlist;
mod time_base;
mod together;

pub(crate) use self::closest::{Closest, Goal, Near, RelativeError};
pub(crate) use self::derive::leading;
pub use self::derive::{Derivation, SearchOptions, derive, derive_with};
pub use self::derived::DerivedSignal;
pub use self::fit::{Fit, FitOf, RankedSetting, SpanFit};
pub use self::rank::Prefer;
pub(crate) use self::rank::compare_fractions as compare_errors;
pub use self::time_base::{TickSetting, TimeBase, TimeBaseRequest, derive_time_base};
pub(crate) use self::together::{counter_for, counters_of_one_divider};

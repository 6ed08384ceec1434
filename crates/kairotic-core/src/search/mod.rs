//! The search for settings: every mode and divider of a timer, ranked, with what else is worth a look.

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

pub(crate) use self::closest::{Closest, Goal, Near, RelativeError};
pub(crate) use self::derive::leading;
pub use self::derive::{Derivation, SearchOptions, derive, derive_with};
pub use self::derived::DerivedSignal;
pub use self::fit::{Fit, FitOf, RankedSetting, SpanFit};
pub use self::rank::Prefer;
pub(crate) use self::rank::compare_fractions as compare_errors;
pub use self::time_base::{TickSetting, TimeBase, TimeBaseRequest, derive_time_base};

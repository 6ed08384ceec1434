//! Settings: the search for register values that make a wanted signal, and the way back from values to a signal.

mod active;
mod channels;
mod closest;
mod decode;
mod derive;
mod divider;
mod evidence;
mod findings;
mod fit;
mod off_by_one;
mod rank;
mod reach;
mod realise;
mod reasons;
mod search;
mod shortlist;
mod target;
mod time_base;
mod timing;
mod view;
mod working;
mod write;

pub(crate) use self::closest::{Closest, Goal, Near};
pub use self::decode::{DecodeRequest, Expectation, Reading, decode};
pub(crate) use self::derive::leading;
pub use self::derive::{Derivation, DeriveRequest, derive};
pub use self::fit::{Choice, Fit, FitOf, SpanFit};
pub use self::rank::Prefer;
pub(crate) use self::rank::compare_fractions as compare_errors;
pub use self::reach::{Reach, Unreachable};
pub use self::realise::{Constant, Ends, Output, Plan, PlannedChannel, Setting};
pub use self::target::{Active, Aim, Ask, Level, Span, Target};
pub use self::time_base::{TimeBase, TimeBaseRequest, derive_time_base};
pub use self::timing::{ClockError, Jitter};
pub use self::working::Line;
pub use self::write::{FieldWrite, mixed};

//! One named signal: where it comes out, what is wanted of it, what it drives, and what is required of it.

mod conditions;
mod needs;
mod spec;

pub use self::conditions::Conditions;
pub use self::needs::{Need, Needs};
pub use self::spec::SignalSpec;

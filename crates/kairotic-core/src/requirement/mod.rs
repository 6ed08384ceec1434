//! What is required of a signal, and whether it is met.

mod check;
mod needs;

pub use self::check::{RequirementCheck, Verdict};
pub use self::needs::{Need, Needs, check};

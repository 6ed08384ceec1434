//! What is required of a signal, and whether it is met.

mod by_setting;
mod check;

pub use self::by_setting::check;
pub use self::check::{RequirementCheck, Verdict};

//! What is required of a signal, and whether it is met.

mod needs;

pub use self::needs::{Need, Needs, Verdict, verdicts};

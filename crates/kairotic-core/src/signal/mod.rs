//! What is wanted of a pin: how often, how long active, between which ends.

mod target;

pub use self::target::{Active, Aim, Ask, Level, Span, Target, rising};

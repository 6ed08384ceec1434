//! What was meant by the registers.

use serde::Serialize;

use crate::quantity::{Deviation, Frequency};

/// How a decoded frequency compares with what was meant.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct Expectation {
    /// What was meant.
    pub frequency: Frequency,
    /// Realised over meant, less one.
    pub error: Deviation,
}

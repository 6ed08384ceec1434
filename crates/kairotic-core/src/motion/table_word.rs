//! The smallest integer type that holds what a table needs.

use serde::Serialize;

/// An integer type of firmware.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
pub struct TableWord {
    /// Its width: 8, 16, 32 or 64.
    pub bits: u32,
    /// Whether it takes numbers below zero.
    pub signed: bool,
}

impl TableWord {
    /// The smallest type for numbers from `low` to `high`.
    pub fn of(low: i128, high: i128) -> Self {
        let signed = low < 0;
        let fits = |bits: u32| {
            let size = 1_i128 << if signed { bits - 1 } else { bits };
            high < size && (!signed || low >= -size)
        };
        let bits = [8, 16, 32].into_iter().find(|bits| fits(*bits)).unwrap_or(64);
        Self { bits, signed }
    }

    /// Bytes of so many of them.
    pub fn bytes(self, count: usize) -> u64 {
        u64::from(self.bits / 8).saturating_mul(count as u64)
    }
}

//! The usual product leaves the machine's word.

use super::{Finding, Severity};

/// The finding's name.
pub const NAME: &str = "map-overflow";

/// `product` leaves words of `bits` bits from these inputs on, unsigned and signed.
pub fn new(product: &str, bits: u32, unsigned: Option<i64>, signed: Option<i64>) -> Finding {
    let told = |sign: &str, from: Option<i64>| from.map(|from| format!("from {from} on as {sign}"));
    let from: Vec<String> =
        [told("unsigned", unsigned), told("signed", signed)].into_iter().flatten().collect();
    Finding {
        name: NAME,
        severity: Severity::Note,
        message: format!("{product} overflows words of {bits} bits {}", from.join(", ")),
        remedy: "the arithmetic above, of which every number fits".to_owned(),
    }
}

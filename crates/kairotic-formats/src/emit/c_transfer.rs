//! C for a part at the end of a bus.

use kairotic_core::program::CompareTransfer;

use super::Named;
use super::c_write::{CWriter, number, word};

/// A step of the program.
pub(super) fn step(c: &mut CWriter<'_>, named: &Named<'_>, bytes: &[u8]) {
    c.line(format!("    {{\n        static const uint8_t bytes[] = {{ {} }};", listed(bytes)));
    c.line(format!("        {}\n    }}", sent(c, named, "bytes", bytes.len())));
}

/// Bytes in an initialiser.
fn listed(bytes: &[u8]) -> String {
    bytes.iter().map(|byte| number(u64::from(*byte), 8)).collect::<Vec<_>>().join(", ")
}

/// The statement that sends an array of so many bytes.
fn sent(c: &CWriter<'_>, named: &Named<'_>, array: &str, count: usize) -> String {
    format!("{}_transfer({}_BUS_ADDRESS, {array}, {count}U);", named.board, c.macros)
}

/// The transfer of one compare value.
pub(super) fn put(c: &mut CWriter<'_>, named: &Named<'_>, transfer: &CompareTransfer) {
    let CompareTransfer { registers, zero, full, full_from, between, at, bits, start, period, .. } = transfer;
    c.comment(
        "    ",
        &[format!("{}: constantly inactive, constantly active, or so many counts", registers.join(", "))],
    );
    for (name, bytes) in [("inactive", zero), ("active", full)] {
        c.line(format!("    static const uint8_t {name}[] = {{ {} }};", listed(bytes)));
    }
    c.line(format!("    uint8_t bytes[] = {{ {} }};", listed(between)));
    for (condition, array) in [("== 0U".to_owned(), "inactive"), (format!(">= {full_from}U"), "active")] {
        let sent = sent(c, named, array, between.len());
        c.line(format!("    if (compare {condition}) {{\n        {sent}\n        return;\n    }}"));
    }
    if *start > 0 {
        let kind = word(transfer.full_from);
        c.line(format!("    compare = ({kind})((compare + {start}U) % {period}U);"));
    }
    for byte in 0..bits.div_ceil(8) {
        let (place, down) = (at + byte as usize, 8 * byte);
        let shifted = if down == 0 { "compare".to_owned() } else { format!("(compare >> {down})") };
        c.line(format!("    bytes[{place}] = (uint8_t)(bytes[{place}] | ({shifted} & 0xFFU));"));
    }
    c.line(format!("    {}", sent(c, named, "bytes", between.len())));
}

//! Rust for a part at the end of a bus.

use kairotic_core::program::CompareTransfer;

use super::words::type_bits;

/// Bytes in an array.
pub(super) fn listed(bytes: &[u8]) -> String {
    bytes.iter().map(|byte| format!("0x{byte:02X}")).collect::<Vec<_>>().join(", ")
}

/// The transfer of one compare value.
pub(super) fn put(transfer: &CompareTransfer) -> String {
    let CompareTransfer { registers, zero, full, full_from, between, at, bits, start, period, .. } = transfer;
    let count = match start {
        0 => String::new(),
        start => format!("    let compare = (compare + {start}) % {period};\n"),
    };
    let own = type_bits(*full_from);
    let bytes = between.iter().enumerate().map(|(place, byte)| {
        let number = place.checked_sub(*at).filter(|number| *number < bits.div_ceil(8) as usize);
        let part = match number {
            None => return format!("0x{byte:02X}"),
            Some(0) => "compare".to_owned(),
            Some(number) => format!("(compare >> {})", 8 * number),
        };
        let part = if own == 8 { part } else { format!("{part} as u8") };
        if *byte == 0 { part } else { format!("0x{byte:02X} | {part}") }
    });
    let bytes = bytes.collect::<Vec<_>>().join(", ");
    format!(
        "    // {}: constantly inactive, constantly active, or so many counts\n    \
             if compare == 0 {{\n        \
                 return S::transfer(BUS_ADDRESS, &[{}]);\n    \
             }}\n    \
             if compare >= {full_from} {{\n        \
                 return S::transfer(BUS_ADDRESS, &[{}]);\n    \
             }}\n{count}    \
             S::transfer(BUS_ADDRESS, &[{bytes}]);",
        registers.join(", "),
        listed(zero),
        listed(full)
    )
}

//! Words and numbers that code in every language has.

use kairotic_core::quantity::{Rational, Time};

/// What a number of levels counts, of which a power of ten makes a unit.
pub(super) fn part_of_unit(unit: &str, per_unit: u32) -> String {
    match per_unit.checked_ilog10() {
        None | Some(0) => format!("1 {unit}"),
        Some(places) => format!("0.{}1 {unit}", "0".repeat(places as usize - 1)),
    }
}

/// The bits of the narrowest type that holds numbers up to one.
pub(super) const fn type_bits(largest: u64) -> u32 {
    match largest {
        0..=0xFF => 8,
        0x100..=0xFFFF => 16,
        _ => 32,
    }
}

/// A time in microseconds, rounded up; as long as a wait can be for one that does not fit.
pub(super) fn microseconds(time: Time) -> u64 {
    nanoseconds(time).map_or(u32::MAX.into(), |time| time.div_ceil(1000))
}

/// A time in nanoseconds, rounded up; `None` for one that does not fit.
pub(super) fn nanoseconds(time: Time) -> Option<u64> {
    let exact = time.value().times(Rational::whole(1_000_000_000))?;
    u64::try_from(exact.ceiling()).ok()
}

/// What a function of Rust that calls what is supplied has behind its name, where it is defined and where it is called.
pub(super) const fn generics(calls: bool) -> (&'static str, &'static str) {
    if calls { ("<S: Supplied>", "::<S>") } else { ("", "") }
}

/// Whether a number of C or Rust adds nothing to what it is combined with.
pub(super) fn is_zero(number: &str) -> bool {
    number.trim_start_matches("0x").trim_end_matches(['U', 'L']).chars().all(|digit| digit == '0')
}

/// `flat_field` as `FlatField`.
pub(super) fn camel(name: &str) -> String {
    let capital = |part: &str| {
        let mut letters = part.chars();
        letters
            .next()
            .map(|first| first.to_ascii_uppercase().to_string() + letters.as_str())
            .unwrap_or_default()
    };
    name.split('_').map(capital).collect()
}

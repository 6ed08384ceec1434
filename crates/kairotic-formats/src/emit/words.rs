//! Words that code in every language has.

/// What a number of levels counts.
pub(super) fn part_of_unit(unit: &str, per_unit: u32) -> String {
    match per_unit {
        1 => format!("1 {unit}"),
        10 => format!("0.1 {unit}"),
        100 => format!("0.01 {unit}"),
        _ => format!("1/{per_unit} {unit}"),
    }
}

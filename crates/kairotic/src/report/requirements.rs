//! How requirements are shown: what is allowed, what there is, and whether that is met.

use kairotic_core::quantity::{Rational, show};
use kairotic_core::requirement::RequirementCheck;

use crate::format::{Cell, Line};
use crate::hints;

/// The columns of the block `needs`.
pub const NEEDS: &[&str] = &["requirement", "limit", "found", "verdict"];
/// The same for a budget, which has a worst and a likely case.
pub const CASES: &[&str] = &["requirement", "limit", "worst case", "likely, 95 %", "verdict"];
/// The same for a measurement.
pub const MEASURED: &[&str] = &["requirement", "limit", "measured", "95 %", "verdict"];

/// Requirements of a setting, one a row.
pub fn rows(checks: &[RequirementCheck]) -> Vec<Line> {
    let row = |check| named(check, [Cell::left(found(check)), Cell::left(verdict(check))]);
    checks.iter().map(row).collect()
}

/// Requirements of a budget, one a row.
pub fn cases(checks: &[RequirementCheck]) -> Vec<Line> {
    let row = |check: &RequirementCheck| {
        let likely = check.likely.map(|likely| likely.rounded(4)).unwrap_or_default();
        named(check, [Cell::left(found(check)), Cell::left(likely), Cell::left(verdict(check))])
    };
    checks.iter().map(row).collect()
}

/// Requirements that were measured, one a row.
pub fn measured(checks: &[RequirementCheck]) -> Vec<Line> {
    let row = |check: &RequirementCheck| {
        let uncertainty = check.uncertainty.map_or_else(|| "unknown".to_owned(), |off| off.rounded(4));
        let answer = match &check.would_tell {
            Some(remedy) => format!("{}: {} would", check.outcome.words(), hints::of_remedy(remedy)),
            None => check.outcome.words().to_owned(),
        };
        named(check, [Cell::point(found(check)), Cell::left(format!("± {uncertainty}")), Cell::left(answer)])
    };
    checks.iter().map(row).collect()
}

fn named<const N: usize>(check: &RequirementCheck, cells: [Cell; N]) -> Line {
    let plan = if check.implied { " (plan)" } else { "" };
    let limit = format!("{}{plan}", check.limit_words());
    Line::row([Cell::left(check.requirement.words()), Cell::left(limit)].into_iter().chain(cells))
}

fn found(check: &RequirementCheck) -> String {
    check.found.map_or_else(|| "not stated".to_owned(), |found| found.rounded(4))
}

fn verdict(check: &RequirementCheck) -> String {
    let word = check.outcome.words();
    match check.share.map(Rational::approx) {
        Some(share) if share > 1.0 => format!("{word} by a factor of {}", show::significant(share, 3)),
        Some(share) if share > 0.0 => format!("{word}, {} % used", show::significant(share * 100.0, 3)),
        _ => word.to_owned(),
    }
}

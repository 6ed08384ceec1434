//! What CSV shows: one header, and rows as long as it.

use kairotic_core::quantity::{Rational, show};

/// Digits after the point of a number that is written as it is.
const PLACES: u32 = 15;

/// Rows under one header.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Table {
    /// The columns' names: what a figure is, and its unit where it has one.
    pub header: Vec<String>,
    /// The rows.
    pub rows: Vec<Vec<String>>,
}

impl Table {
    /// Rows under a header.
    pub fn new(header: &[&str], rows: impl IntoIterator<Item = Vec<String>>) -> Self {
        Self { header: header.iter().copied().map(str::to_owned).collect(), rows: rows.into_iter().collect() }
    }
}

/// A number in a cell: as it is where it is a short decimal, else as near as a float comes.
pub fn decimal(value: Rational) -> String {
    show::decimal(value, PLACES).unwrap_or_else(|| value.approx().to_string())
}

/// The same for a number that may be missing.
pub fn decimal_or_none(value: Option<Rational>) -> String {
    value.map(decimal).unwrap_or_default()
}

/// The name of a column whose unit depends on what is shown.
pub fn column(name: &str, unit: Option<&str>) -> String {
    unit.map_or_else(|| name.to_owned(), |unit| format!("{name}_{}", unit.to_lowercase()))
}

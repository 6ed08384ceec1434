//! What CSV shows: one header, and rows as long as it.

/// Rows under one header.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Table {
    /// The columns' names.
    pub header: Vec<&'static str>,
    /// The rows.
    pub rows: Vec<Vec<String>>,
}

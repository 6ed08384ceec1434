//! Comma-separated values.

use super::Table;
use crate::fault::{Fault, Result};

/// The table with its header.
pub(super) fn render(table: &Table) -> Result<String> {
    let mut writer = csv::Writer::from_writer(Vec::new());
    writer.write_record(&table.header)?;
    for row in &table.rows {
        writer.write_record(row)?;
    }
    let bytes = writer.into_inner().map_err(|error| Fault::Write(error.into_error()))?;
    Ok(String::from_utf8_lossy(&bytes).into_owned())
}

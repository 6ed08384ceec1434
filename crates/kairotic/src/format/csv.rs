//! Comma-separated values.

use std::borrow::Cow;

use super::Table;
use crate::fault::{Fault, Result};

/// A cell that no spreadsheet takes for a formula: one that begins as such and is no number has an apostrophe before it.
fn inert(cell: &str) -> Cow<'_, str> {
    let begins = cell.starts_with(['=', '+', '-', '@', '\t', '\r']);
    if begins && cell.parse::<f64>().is_err() { Cow::Owned(format!("'{cell}")) } else { Cow::Borrowed(cell) }
}

/// The table with its header.
pub(super) fn render(table: &Table) -> Result<String> {
    let mut writer = csv::Writer::from_writer(Vec::new());
    writer.write_record(&table.header)?;
    for row in &table.rows {
        for cell in row {
            writer.write_field(inert(cell).as_bytes())?;
        }
        writer.write_record(None::<&[u8]>)?;
    }
    let bytes = writer.into_inner().map_err(|error| Fault::Write(error.into_error()))?;
    Ok(String::from_utf8_lossy(&bytes).into_owned())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_begins_a_formula_is_text() {
        let cells = ["=1+1", "+A1", "-cmd", "@SUM", "\tx", "-5", "+3.5e-9", "-45 deg", "a=b", ""];
        let rows = vec![cells.map(str::to_owned).to_vec()];
        let header = cells.map(|_| "h");
        let shown = render(&Table::new(&header, rows)).unwrap();
        assert_eq!(shown.lines().nth(1).unwrap(), "'=1+1,'+A1,'-cmd,'@SUM,'\tx,-5,+3.5e-9,'-45 deg,a=b,");
    }
}

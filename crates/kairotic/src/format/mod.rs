//! From a result to bytes: one file for each output format. None of them computes; each shows what it is given.

mod csv;
mod json;
mod markdown;
pub mod page;
mod table;
mod text;

pub use self::json::envelope;
pub use self::page::{Cell, Line, Page};
pub use self::table::{Table, column, decimal, decimal_or_none};
use crate::arguments::Format;
use crate::fault::Result;

/// A result that can be shown in every format.
pub trait Report {
    /// For text and Markdown.
    ///
    /// # Errors
    /// [`Fault`](crate::fault::Fault), where what is shown does not belong together.
    fn page(&self) -> Result<Page>;
    /// For CSV.
    ///
    /// # Errors
    /// As [`Report::page`].
    fn table(&self) -> Result<Table>;
    /// For JSON: one object.
    ///
    /// # Errors
    /// As [`Report::page`], and [`Fault::Format`](crate::fault::Fault::Format).
    fn json(&self) -> Result<String>;
}

/// A report in a format, ending in a newline. Only text has colours.
///
/// # Errors
/// [`Fault::Format`](crate::fault::Fault::Format) and [`Fault::Csv`](crate::fault::Fault::Csv).
pub fn render(report: &dyn Report, format: Format, coloured: bool) -> Result<String> {
    match format {
        Format::Text => Ok(text::render(&report.page()?, coloured)),
        Format::Markdown => Ok(markdown::render(&report.page()?)),
        Format::Csv => csv::render(&report.table()?),
        Format::Json => report.json().map(|json| json + "\n"),
    }
}

pub use self::text::complaint;

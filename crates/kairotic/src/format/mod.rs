//! From a result to bytes: one file for each output format. None of them computes; each shows what it is given.

mod csv;
mod json;
mod markdown;
pub mod page;
pub mod sarif;
mod table;
mod text;

pub use self::json::envelope;
pub use self::page::{Cell, Line, Page};
pub use self::table::{Table, column, decimal, decimal_or_none};
use crate::arguments::Format;
use crate::fault::{Fault, Result};

/// A result that can be shown in every format.
pub trait Report {
    /// For text and Markdown.
    ///
    /// # Errors
    /// [`Fault`], where what is shown does not belong together.
    fn page(&self) -> Result<Page>;
    /// For CSV.
    ///
    /// # Errors
    /// As [`Report::page`].
    fn table(&self) -> Result<Table>;
    /// For JSON: one object.
    ///
    /// # Errors
    /// As [`Report::page`], and [`Fault::Format`].
    fn json(&self) -> Result<String>;
    /// For SARIF: what is wrong with files.
    ///
    /// # Errors
    /// As [`Report::json`]; [`Fault::Usage`] for a result that is about no files.
    fn sarif(&self) -> Result<String> {
        Err(of_files_only(Format::Sarif))
    }
    /// For JUnit: what was tried, and how it went.
    ///
    /// # Errors
    /// As [`Report::sarif`].
    fn junit(&self) -> Result<String> {
        Err(of_files_only(Format::Junit))
    }
}

/// The fault of a result that is about no files.
pub fn of_files_only(format: Format) -> Fault {
    let word = if format == Format::Sarif { "sarif" } else { "junit" };
    Fault::Usage {
        message: format!("--format {word}: this command looks at no files of a repository"),
        hint: "check has it; here it is text, json, csv or markdown".to_owned(),
    }
}

/// A report in a format, ending in a newline. Only text has colours.
///
/// # Errors
/// [`Fault::Format`] and [`Fault::Csv`].
pub fn render(report: &dyn Report, format: Format, coloured: bool) -> Result<String> {
    match format {
        Format::Text => Ok(text::render(&report.page()?, coloured)),
        Format::Markdown => Ok(markdown::render(&report.page()?)),
        Format::Csv => csv::render(&report.table()?),
        Format::Json => report.json().map(|json| json + "\n"),
        Format::Sarif => report.sarif().map(|sarif| sarif + "\n"),
        Format::Junit => report.junit(),
    }
}

pub use self::text::complaint;

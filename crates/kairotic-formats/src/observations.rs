//! What was seen of a load, beside what it was given: single pairs, and files with one a line.

use kairotic_core::error::Error;
use kairotic_core::load::{Kind, ObservedValue};
use kairotic_core::quantity::parse;
use kairotic_core::target::Active;

use crate::lines::{LineError, lines};
use crate::text_file::Source;

/// What a load was given.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum LoadInput {
    /// A pulse, or a duty.
    Active(Active),
    /// A compare value of its signal.
    Compare(u64),
}

/// A pair of texts: a pulse, a duty, or without a unit a compare value, and what was seen in the load's unit.
///
/// # Errors
/// [`Error::Quantity`] for texts that are none.
pub fn pair(load: &Kind, given: &str, seen: &str) -> Result<(LoadInput, ObservedValue), Error> {
    let seen = load.read_observed(seen.trim())?;
    let given = given.trim();
    // A number without a unit is what was written to the compare register.
    let given = if let Ok(compare) = given.parse() {
        LoadInput::Compare(compare)
    } else if given.ends_with('%') {
        LoadInput::Active(Active::Duty(parse::quantity(given)?))
    } else {
        LoadInput::Active(Active::Pulse(parse::quantity(given)?))
    };
    Ok((given, seen))
}

/// The pairs of a file: CSV with what was given and what was seen in each line; a first line without digits names the
/// columns, and lines that begin with `#` are passed over.
///
/// # Errors
/// [`LineError`] for the first line that is no pair.
pub fn read(source: &Source, load: &Kind) -> Result<Vec<(LoadInput, ObservedValue)>, LineError> {
    let mut pairs = Vec::new();
    for line in lines(source) {
        let (line, text) = line?;
        let wrong = |message: String| LineError { file: source.file.clone(), line, message };
        let cells = cells(text)
            .ok_or_else(|| wrong(format!("expected cells with commas between, found `{text}`")))?;
        let [given, seen] = cells.as_slice() else {
            return Err(wrong(format!("expected what was given and what was seen, found `{text}`")));
        };
        let heading =
            pairs.is_empty() && !cells.iter().any(|cell| cell.contains(|c: char| c.is_ascii_digit()));
        if !heading {
            pairs.push(pair(load, given, seen).map_err(|error| wrong(error.to_string()))?);
        }
    }
    Ok(pairs)
}

/// The cells of a line. Each line has a reader of its own: the number of a line is then its own as well.
fn cells(text: &str) -> Option<Vec<String>> {
    let mut reader =
        csv::ReaderBuilder::new().has_headers(false).trim(csv::Trim::All).from_reader(text.as_bytes());
    let record = reader.records().next()?.ok()?;
    Some(record.iter().map(str::to_owned).collect())
}

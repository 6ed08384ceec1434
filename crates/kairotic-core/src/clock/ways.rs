//! The best way from a source, to the system clock or to a timer.

use super::arrange::Arrangement;
use super::reach::best_way;
use super::route::roads;
use super::source::{SourceAsk, known};
use crate::error::Result;
use crate::part::Part;
use crate::quantity::Frequency;

/// The best way from a source, any internal oscillator where none is named, that gives a node exactly a frequency;
/// `None` where there is none.
///
/// # Errors
/// [`Error::NoSource`](crate::Error::NoSource) for a source that the part does not have, and names that are not there.
pub fn way_to(
    part: &Part,
    node: &str,
    frequency: Frequency,
    source: Option<&SourceAsk>,
) -> Result<Option<Arrangement>> {
    let Some(tree) = &part.tree else { return Ok(None) };
    best_way(&roads(part, tree, node, source)?, frequency)
}

/// The sources of a part's clock tree in words; nothing where it has no tree.
pub fn sources_told(part: &Part) -> String {
    part.tree.as_ref().map(|tree| known(part, tree)).unwrap_or_default()
}

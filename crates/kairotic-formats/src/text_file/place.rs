//! Where in a text a value stands, and which value stands at a place.

use std::ops::Range;

use kairotic_core::part::check::{Path, Step};
use toml::Spanned;
use toml::de::{DeTable, DeValue};

/// Where the value at a path stands, or the last table on the way to it.
pub(super) fn span_of(root: &Spanned<DeTable<'_>>, path: &Path) -> Range<usize> {
    // The whole file is no place to point at.
    let mut at = 0..0;
    let mut table = Some(root.get_ref());
    let mut array: Option<&[Spanned<DeValue<'_>>]> = None;
    for step in &path.0 {
        let next = match step {
            Step::Key(key) => {
                table.and_then(|table| table.get_key_value(key.as_str())).map(|(key, value)| {
                    // A table has no text of its own to point at but its key.
                    (if value.get_ref().is_table() { key.span() } else { value.span() }, value.get_ref())
                })
            }
            Step::Index(index) => {
                array.and_then(|array| array.get(*index)).map(|value| (value.span(), value.get_ref()))
            }
        };
        let Some((span, value)) = next else { break };
        at = span;
        table = value.as_table();
        array = value.as_array().map(|array| array.iter().as_slice());
    }
    at
}

/// The way to the innermost value that holds a position.
pub(super) fn key_at(root: &Spanned<DeTable<'_>>, position: usize) -> String {
    let mut path = Path::default();
    let mut inside = within_table(root.get_ref(), position, &path);
    while let Some((deeper, value)) = inside {
        path = deeper;
        inside = match value {
            DeValue::Table(table) => within_table(table, position, &path),
            DeValue::Array(array) => array
                .iter()
                .enumerate()
                .find(|(_, value)| holds(value, position))
                .map(|(index, value)| (path.index(index), value.get_ref())),
            _ => None,
        };
    }
    path.to_string()
}

fn within_table<'t, 'i>(
    table: &'t DeTable<'i>,
    position: usize,
    path: &Path,
) -> Option<(Path, &'t DeValue<'i>)> {
    table
        .iter()
        .find(|(key, value)| key.span().contains(&position) || holds(value, position))
        .map(|(key, value)| (path.key(key.get_ref().as_ref()), value.get_ref()))
}

/// Whether a value's text, or that of anything in it, holds a position.
fn holds(value: &Spanned<DeValue<'_>>, position: usize) -> bool {
    value.span().contains(&position)
        || match value.get_ref() {
            DeValue::Table(table) => within_table(table, position, &Path::default()).is_some(),
            DeValue::Array(array) => array.iter().any(|value| holds(value, position)),
            _ => false,
        }
}

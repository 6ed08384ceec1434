//! The catalogue of microcontroller timers, embedded: what the family files of `parts/` say, validated when this crate is
//! built.
//!
//! ```
//! use kairotic_parts::Catalogue;
//!
//! let catalogue = Catalogue::embedded();
//! let part = catalogue.part("stm32f411")?;
//! assert!(part.timers.iter().any(|timer| timer.name == "tim3"));
//! # Ok::<(), kairotic_core::Error>(())
//! ```

use std::sync::OnceLock;

use kairotic_core::part::{OrderCode, Part};
use kairotic_core::{Error, Result};
use kairotic_formats::part_blob;
use kairotic_formats::text_file::Source;

/// An embedded family, or a variant of one.
struct Family {
    /// Whether it is a variant of another.
    variant: bool,
    /// The codes under which it is sold.
    order_codes: &'static [&'static str],
    /// With every fact.
    show: &'static [u8],
    /// With only the facts in doubt, which is read in half the time.
    compute: &'static [u8],
}

impl Family {
    fn is_sold_as(&self, code: &str) -> bool {
        let mut patterns = self.order_codes.iter().map(|pattern| OrderCode::try_from((*pattern).to_owned()));
        patterns.any(|pattern| pattern.is_ok_and(|pattern| pattern.means(code)))
    }
}

// `NAMES`, a line each: side by side, since every name that is compared elsewhere brings a page of the program into memory.
// `FAMILIES`, in the same order, and `BLOCK_FILES`, name and text of each block file, both sorted by name; `UNSUPPORTED`, what is in neither.
include!(concat!(env!("OUT_DIR"), "/families.rs"));

/// The embedded families and their variants. Each is read when it is first asked for.
#[derive(Debug, Clone)]
pub struct Catalogue {
    /// Those that have been read to compute with, in the order of [`FAMILIES`].
    read: Vec<OnceLock<Box<Part>>>,
    /// Those that have been read with everything that they say, in the same order.
    whole: Vec<OnceLock<Box<Part>>>,
}

impl Catalogue {
    /// All families; none of them is read yet.
    pub fn embedded() -> Self {
        let unread = || FAMILIES.iter().map(|_| OnceLock::new()).collect();
        Self { read: unread(), whole: unread() }
    }

    /// The part of that name or order code, to compute with: facts that are not in doubt are missing.
    ///
    /// # Errors
    /// [`Error::UnknownName`] with the nearest names.
    pub fn part(&self, name: &str) -> Result<&Part> {
        once(&self.read, name, |family| family.compute)
    }

    /// The part of that name or order code with everything that its family file says.
    ///
    /// # Errors
    /// As [`Catalogue::part`].
    pub fn whole_part(&self, name: &str) -> Result<&Part> {
        once(&self.whole, name, |family| family.show)
    }

    /// The names of all families, sorted; those of their variants are not among them.
    pub fn names(&self) -> impl Iterator<Item = &'static str> {
        NAMES.lines().zip(FAMILIES).filter(|(_, family)| !family.variant).map(|(name, _)| name)
    }

    /// All names that [`Catalogue::part`] takes besides order codes, sorted.
    pub fn names_and_variants(&self) -> impl Iterator<Item = &'static str> {
        NAMES.lines()
    }
}

/// The text of a block file that families share.
pub fn block_file(name: &str) -> Option<Source> {
    let (_, bytes) = BLOCK_FILES.iter().find(|(known, _)| *known == name)?;
    Some(Source { file: format!("built-in block file {name}"), bytes: bytes.to_vec() })
}

/// Timers that are not in the catalogue, each with what is missing for it.
pub const fn unsupported() -> &'static [(&'static str, &'static str)] {
    UNSUPPORTED
}

/// The part of that name or order code among those of one kind; read if it is asked for the first time.
fn once<'c>(
    cells: &'c [OnceLock<Box<Part>>],
    name: &str,
    blob: fn(&Family) -> &'static [u8],
) -> Result<&'c Part> {
    let unknown = || Error::unknown("part", name, "the catalogue", NAMES.lines());
    let named = || NAMES.lines().position(|known| known == name);
    let sold = || FAMILIES.iter().position(|family| family.is_sold_as(name));
    let place = named().or_else(sold).ok_or_else(unknown)?;
    let (family, cell) = FAMILIES.get(place).zip(cells.get(place)).ok_or_else(unknown)?;
    if let Some(part) = cell.get() {
        return Ok(part);
    }
    let part = part_blob::read(blob(family))
        .map_err(|error| Error::BrokenPart { part: name.to_owned(), what: error.to_string() })?;
    Ok(cell.get_or_init(|| Box::new(part)))
}

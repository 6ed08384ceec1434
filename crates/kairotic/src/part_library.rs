//! The parts that there are: those built in, and those in the user's own files.

use std::fs::{self, File};
use std::io::Read;
use std::path::{Path, PathBuf};

use kairotic_core::part::Part;
use kairotic_core::{Error, limits};
use kairotic_formats::part_file;
use kairotic_formats::text_file::Source;
use kairotic_parts::Catalogue;

use crate::fault::{Fault, Result};

/// The parts that there are. A user's part takes the place of a built-in one of the same name.
#[derive(Debug)]
pub struct PartLibrary {
    own: Vec<Part>,
    embedded: Catalogue,
    /// Files that the program brings along, by the names under which the tour uses them.
    brought: &'static [(&'static str, &'static [u8])],
}

impl PartLibrary {
    /// The built-in parts and those in `places`: family files, or folders of them.
    ///
    /// # Errors
    /// A place that cannot be read, a file that is no family file, and a part that is described twice.
    pub fn with(places: &[PathBuf]) -> Result<Self> {
        let mut own: Vec<(Part, PathBuf)> = Vec::new();
        for place in places {
            for file in files(place)? {
                let part = family_file(&file)?;
                if let Some((_, first)) = own.iter().find(|(known, _)| known.name == part.name) {
                    return Err(Fault::PartTwice { name: part.name, first: first.clone(), second: file });
                }
                own.extend(part.variant_parts().map(|variant| (variant, file.clone())));
                own.push((part, file));
            }
        }
        let own = own.into_iter().map(|(part, _)| part).collect();
        Ok(Self { own, embedded: Catalogue::embedded(), brought: &[] })
    }

    /// A file that the user names; the tour brings its own along.
    ///
    /// # Errors
    /// [`Fault::Read`].
    pub fn file(&self, file: &Path) -> Result<Source> {
        match self.brought(file) {
            Some(bytes) => Ok(Source { file: file.display().to_string(), bytes: bytes.to_vec() }),
            None => source(file),
        }
    }

    /// The texts in a folder, each with its name. What is no text is left out, and what is longer than one may be.
    ///
    /// # Errors
    /// [`Fault::Read`].
    pub fn texts_in(&self, folder: &Path) -> Result<Vec<(String, String)>> {
        let inside = |(name, bytes): &(&'static str, &'static [u8])| {
            let name = Path::new(name).strip_prefix(folder).ok()?.to_string_lossy().into_owned();
            Some((name, String::from_utf8_lossy(bytes).into_owned()))
        };
        let brought: Vec<(String, String)> = self.brought.iter().filter_map(inside).collect();
        if !brought.is_empty() {
            return Ok(brought);
        }
        let mut texts = Vec::new();
        for entry in fs::read_dir(folder).map_err(|error| Fault::read(folder, error))? {
            let path = entry.map_err(|error| Fault::read(folder, error))?.path();
            let short = |found: fs::Metadata| found.is_file() && !limits::TEXT_FILE.is_below(found.len());
            if !fs::metadata(&path).is_ok_and(short) {
                continue;
            }
            if let (Ok(text), Some(name)) = (fs::read_to_string(&path), path.file_name()) {
                texts.push((name.to_string_lossy().into_owned(), text));
            }
        }
        Ok(texts)
    }

    /// A file that the tour brings along.
    pub fn brought(&self, file: &Path) -> Option<&'static [u8]> {
        self.brought.iter().find(|(name, _)| Path::new(name) == file).map(|(_, bytes)| *bytes)
    }

    /// The same catalogue with files that need not be there.
    pub fn bringing(&self, files: &'static [(&'static str, &'static [u8])]) -> Self {
        Self { own: self.own.clone(), embedded: Catalogue::embedded(), brought: files }
    }

    /// The part of that name or order code, to compute with: facts that are not in doubt may be missing.
    ///
    /// # Errors
    /// [`Error::UnknownName`] with the nearest names.
    pub fn part(&self, name: &str) -> kairotic_core::Result<&Part> {
        if let Some(part) = self.own_part(name) {
            return Ok(part);
        }
        self.embedded.part(name).map_err(|error| self.or_unknown(name, error))
    }

    /// The part of that name or order code with everything that its family file says.
    ///
    /// # Errors
    /// As [`PartLibrary::part`].
    pub fn whole_part(&self, name: &str) -> kairotic_core::Result<&Part> {
        if let Some(part) = self.own_part(name) {
            return Ok(part);
        }
        self.embedded.whole_part(name).map_err(|error| self.or_unknown(name, error))
    }

    /// All names, sorted; those of the embedded families' variants are not among them.
    pub fn names(&self) -> Vec<String> {
        self.with_own(self.embedded.names())
    }

    fn with_own(&self, embedded: impl Iterator<Item = &'static str>) -> Vec<String> {
        let own = self.own.iter().map(|part| part.name.clone());
        let mut names: Vec<String> = embedded.map(ToOwned::to_owned).chain(own).collect();
        names.sort();
        names.dedup();
        names
    }

    fn own_part(&self, name: &str) -> Option<&Part> {
        let named = self.own.iter().find(|part| part.name == name);
        // A pattern of the user's takes no name away from a built-in part.
        let free = || self.embedded.names_and_variants().all(|known| known != name);
        let sold = || self.own.iter().find(|part| part.order_codes.iter().any(|code| code.means(name)));
        named.or_else(|| free().then(sold)?)
    }

    /// The user's own parts are among those that a slip may have meant.
    fn or_unknown(&self, name: &str, error: Error) -> Error {
        match error {
            Error::UnknownName { .. } => {
                let names = self.with_own(self.embedded.names_and_variants());
                Error::unknown("part", name, "the catalogue", names.iter().map(String::as_str))
            }
            other => other,
        }
    }
}

/// A text file, of which no more is read than one may have: it may be no file at all.
pub fn source(file: &Path) -> Result<Source> {
    let fault = |error| Fault::read(file, error);
    let mut bytes = Vec::new();
    let opened = File::open(file).map_err(fault)?;
    opened.take(limits::TEXT_FILE.most + 1).read_to_end(&mut bytes).map_err(fault)?;
    if limits::TEXT_FILE.is_below(bytes.len() as u64) {
        return Err(Fault::Usage {
            message: format!(
                "{} has more than {} bytes, and at most that many are read of a text file",
                file.display(),
                limits::TEXT_FILE.most
            ),
            hint: "docs/limits.md lists what input may cost".to_owned(),
        });
    }
    Ok(Source { file: file.display().to_string(), bytes })
}

/// A family file, with the block files that it draws on.
///
/// # Errors
/// A file that cannot be read, and one that is no family file.
pub fn family_file(file: &Path) -> Result<Part> {
    Ok(part_file::read(&source(file)?, &|name| block_file(file, name))?)
}

/// The block file of that name: in the folder `blocks` beside a family file, else the built-in one.
fn block_file(family: &Path, name: &str) -> Option<Source> {
    let plain = |c: char| c.is_ascii_lowercase() || c.is_ascii_digit() || c == '-';
    if !name.chars().all(plain) {
        return None;
    }
    let own = family.parent().unwrap_or(Path::new("")).join("blocks").join(format!("{name}.toml"));
    source(&own).ok().or_else(|| kairotic_parts::block_file(name))
}

/// The family files at a place: itself, or those in it, sorted.
fn files(place: &Path) -> Result<Vec<PathBuf>> {
    if !place.is_dir() {
        return Ok(vec![place.to_owned()]);
    }
    let read = |error| Fault::read(place, error);
    let mut files = Vec::new();
    for entry in fs::read_dir(place).map_err(read)? {
        let file = entry.map_err(read)?.path();
        if file.extension().is_some_and(|extension| extension == "toml") {
            files.push(file);
        }
    }
    files.sort();
    Ok(files)
}

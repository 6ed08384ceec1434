//! The parts that there are: those built in, and those in the user's own files.

use std::fs::{self, File};
use std::io::Read;
use std::path::{Path, PathBuf};
use std::sync::OnceLock;

use kairotic_core::limits;
use kairotic_core::part::Part;
use kairotic_formats::part_blob;
use kairotic_formats::part_file;
use kairotic_formats::text_file::Source;

use crate::fault::{Fault, Result};

/// A built-in family.
struct Family {
    name: &'static str,
    /// With every fact.
    show: &'static [u8],
    /// With only the facts in doubt, which is read in half the time.
    compute: &'static [u8],
}

// `BUILT_IN`, the built-in families, and `BLOCK_FILES`, name and text of each built-in block file, both sorted by name;
// `UNSUPPORTED`, what is in neither.
include!(concat!(env!("OUT_DIR"), "/families.rs"));

/// The parts that there are. A user's part takes the place of a built-in one of the same name.
#[derive(Debug)]
pub struct Catalogue {
    own: Vec<Part>,
    /// The built-in parts that have been read, in the order of [`BUILT_IN`].
    read: Vec<OnceLock<Part>>,
    /// Files that the program brings along, by the names under which the tour uses them.
    brought: &'static [(&'static str, &'static [u8])],
}

impl Catalogue {
    /// The built-in parts and those in `places`: family files, or folders of them.
    ///
    /// # Errors
    /// A place that cannot be read, a file that is no family file, and a part that is described twice.
    pub fn with(places: &[PathBuf]) -> Result<Self> {
        let mut own: Vec<(Part, PathBuf)> = Vec::new();
        for place in places {
            for file in files(place)? {
                let part = part_file::read(&source(&file)?, |name| block_file(&file, name))?;
                if let Some((_, first)) = own.iter().find(|(known, _)| known.name == part.name) {
                    return Err(Fault::PartTwice { name: part.name, first: first.clone(), second: file });
                }
                own.push((part, file));
            }
        }
        let read = BUILT_IN.iter().map(|_| OnceLock::new()).collect();
        Ok(Self { own: own.into_iter().map(|(part, _)| part).collect(), read, brought: &[] })
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

    /// A file that the tour brings along.
    pub fn brought(&self, file: &Path) -> Option<&'static [u8]> {
        self.brought.iter().find(|(name, _)| Path::new(name) == file).map(|(_, bytes)| *bytes)
    }

    /// The same catalogue with files that need not be there.
    pub fn bringing(&self, files: &'static [(&'static str, &'static [u8])]) -> Self {
        Self {
            own: self.own.clone(),
            read: BUILT_IN.iter().map(|_| OnceLock::new()).collect(),
            brought: files,
        }
    }

    /// The part of that name, to compute with: facts that are not in doubt may be missing.
    ///
    /// # Errors
    /// [`kairotic_core::Error::UnknownName`] with the nearest names.
    pub fn part(&self, name: &str) -> Result<&Part> {
        if let Some(part) = self.own_part(name) {
            return Ok(part);
        }
        let (family, cell) = BUILT_IN
            .iter()
            .zip(&self.read)
            .find(|(family, _)| family.name == name)
            .ok_or_else(|| self.unknown(name))?;
        if let Some(part) = cell.get() {
            return Ok(part);
        }
        let part = part_blob::read(family.compute)?;
        Ok(cell.get_or_init(|| part))
    }

    /// The part of that name with everything that its family file says.
    ///
    /// # Errors
    /// As [`Catalogue::part`].
    pub fn whole_part(&self, name: &str) -> Result<Part> {
        if let Some(part) = self.own_part(name) {
            return Ok(part.clone());
        }
        let family = BUILT_IN.iter().find(|family| family.name == name).ok_or_else(|| self.unknown(name))?;
        Ok(part_blob::read(family.show)?)
    }

    /// What is left out of the built-in catalogue, and what is missing for it.
    pub fn unsupported() -> &'static [(&'static str, &'static str)] {
        UNSUPPORTED
    }

    /// All names, sorted.
    pub fn names(&self) -> Vec<String> {
        let own = self.own.iter().map(|part| part.name.clone());
        let mut names: Vec<String> =
            BUILT_IN.iter().map(|family| family.name.to_owned()).chain(own).collect();
        names.sort();
        names.dedup();
        names
    }

    fn own_part(&self, name: &str) -> Option<&Part> {
        self.own.iter().find(|part| part.name == name)
    }

    fn unknown(&self, name: &str) -> Fault {
        let names = self.names();
        kairotic_core::Error::unknown("part", name, "the catalogue", names.iter().map(String::as_str)).into()
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

/// The block file of that name: in the folder `blocks` beside a family file, else the built-in one.
fn block_file(family: &Path, name: &str) -> Option<Source> {
    let plain = |c: char| c.is_ascii_lowercase() || c.is_ascii_digit() || c == '-';
    if !name.chars().all(plain) {
        return None;
    }
    let own = family.parent().unwrap_or(Path::new("")).join("blocks").join(format!("{name}.toml"));
    source(&own).ok().or_else(|| {
        let (_, bytes) = BLOCK_FILES.iter().find(|(known, _)| *known == name)?;
        Some(Source { file: format!("built-in block file {name}"), bytes: bytes.to_vec() })
    })
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

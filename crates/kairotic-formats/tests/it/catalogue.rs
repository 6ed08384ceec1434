//! The families.

use std::path::{Path, PathBuf};
use std::sync::LazyLock;

use kairotic_core::part::Part;
use kairotic_formats::text_file::Source;
use kairotic_formats::{part_blob, part_file};

/// A file as a source.
pub(crate) fn source(file: &Path) -> Source {
    Source { file: file.display().to_string(), bytes: std::fs::read(file).unwrap() }
}

/// The folder of the families.
pub(crate) fn folder() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../../parts")
}

/// A block file of the repository.
pub(crate) fn block_file(name: &str) -> Option<Source> {
    let file = folder().join(format!("blocks/{name}.toml"));
    file.exists().then(|| source(&file))
}

/// Every family of the repository.
pub(crate) static PARTS: LazyLock<Vec<Part>> = LazyLock::new(|| {
    let mut files: Vec<_> = folder().read_dir().unwrap().map(|entry| entry.unwrap().path()).collect();
    files.retain(|file| file.is_file());
    files.sort();
    let read = |file: &PathBuf| {
        part_file::read(&source(file), &block_file).unwrap_or_else(|error| panic!("{error}"))
    };
    files.iter().map(read).collect()
});

/// The family of that name.
pub(crate) fn part(name: &str) -> &'static Part {
    PARTS.iter().find(|part| part.name == name).unwrap()
}

#[test]
fn every_family_comes_back_from_its_blob() {
    for part in PARTS.iter() {
        assert_eq!(part_blob::read(&part_blob::write(part).unwrap()).unwrap(), *part);
    }
}

#[test]
fn a_blob_of_other_bytes_is_refused() {
    let blob = part_blob::write(&PARTS[0]).unwrap();
    assert!(part_blob::read(&blob[..blob.len() / 2]).is_err());
    assert!(part_blob::read(&[0xff; 64]).is_err());
}

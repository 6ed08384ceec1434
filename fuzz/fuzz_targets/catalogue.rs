//! Files of the repository's catalogue, for targets that need parts.

use kairotic_core::part::Part;
use kairotic_formats::part_file;
use kairotic_formats::text_file::Source;

/// A file below `parts/`, where there is one.
fn source(name: &str) -> Option<Source> {
    let file = format!("{}/../parts/{name}.toml", env!("CARGO_MANIFEST_DIR"));
    Some(Source { bytes: std::fs::read(&file).ok()?, file })
}

/// A block file by its name.
pub fn block(name: &str) -> Option<Source> {
    source(&format!("blocks/{name}"))
}

/// A part by its name.
#[allow(dead_code)]
pub fn part(name: &str) -> Part {
    part_file::read(&source(name).expect("a family file"), &block).expect("a sound family file")
}

/// Every part.
#[allow(dead_code)]
pub fn all() -> Vec<Part> {
    let folder = std::fs::read_dir(concat!(env!("CARGO_MANIFEST_DIR"), "/../parts")).expect("the catalogue");
    let names = folder.filter_map(|entry| entry.ok()?.file_name().into_string().ok());
    let mut names: Vec<String> =
        names.filter_map(|name| Some(name.strip_suffix(".toml")?.to_owned())).collect();
    names.sort();
    names.iter().map(|name| part(name)).collect()
}

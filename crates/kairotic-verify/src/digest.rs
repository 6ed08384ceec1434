//! The digest by which the page belongs to the catalogue: that of the list of digests of all family and block files, as
//! `sha256sum` prints it.

use std::fs;
use std::path::{Path, PathBuf};

use anyhow::Result;
use sha2::{Digest as _, Sha256};

/// The digest of the family files beside this crate.
///
/// # Errors
/// CrateFiles that cannot be read.
pub fn of_parts() -> Result<String> {
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("../..");
    let mut files = Vec::new();
    for folder in ["parts", "parts/blocks"] {
        for entry in fs::read_dir(root.join(folder))? {
            let name = PathBuf::from(folder).join(entry?.file_name());
            if name.extension().is_some_and(|ending| ending == "toml") {
                files.push(name);
            }
        }
    }
    files.sort_by_key(|name| name.display().to_string());
    let mut list = String::new();
    for name in files {
        let digest = hex(&Sha256::digest(fs::read(root.join(&name))?));
        list.push_str(&format!("{digest}  {}\n", name.display()));
    }
    Ok(hex(&Sha256::digest(list)))
}

fn hex(bytes: &[u8]) -> String {
    bytes.iter().map(|byte| format!("{byte:02x}")).collect()
}

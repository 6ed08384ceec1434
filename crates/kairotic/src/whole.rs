//! Files that are written whole or not at all.

use std::path::Path;

use tempfile::NamedTempFile;

use crate::fault::{Fault, Result};

/// A file that takes its name only when it is finished.
///
/// # Errors
/// [`Fault::Save`] for a folder that cannot be written.
pub fn file(path: &Path) -> Result<NamedTempFile> {
    let folder = path.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."));
    let mut builder = tempfile::Builder::new();
    #[cfg(unix)]
    {
        use std::os::unix::fs::PermissionsExt;
        // As any file that a program writes: who may read it is up to the system's mask.
        builder.permissions(std::fs::Permissions::from_mode(0o666));
    }
    builder.tempfile_in(folder).map_err(|error| Fault::Save { path: path.to_owned(), error })
}

/// Gives a finished file its name; what is there already is replaced.
///
/// # Errors
/// [`Fault::Save`].
pub fn keep(file: NamedTempFile, path: &Path) -> Result<()> {
    let kept = file.persist(path).map(|_| ());
    kept.map_err(|error| Fault::Save { path: path.to_owned(), error: error.error })
}

//! Files that are written whole or not at all.

use std::fs::{self, Permissions};
use std::io::{self, Write};
use std::path::{Path, PathBuf};

use tempfile::NamedTempFile;

use crate::fault::{Fault, Result};
use crate::interrupted;

/// Where a file goes: looked at before any work is done for it.
#[derive(Debug, Clone)]
pub struct Destination {
    path: PathBuf,
    force: bool,
}

impl Destination {
    /// The place that an option names. What is there already is only replaced by force, and an input never.
    ///
    /// # Errors
    /// [`Fault::Usage`] for a file that is there already, for one that is read, and for what is no file.
    pub fn of(option: &str, path: &Path, force: bool, read: Option<&Path>) -> Result<Self> {
        let shown = path.display();
        let refused = |message: String, hint: &str| Err(Fault::Usage { message, hint: hint.to_owned() });
        let same = |read: &Path| match (fs::canonicalize(path), fs::canonicalize(read)) {
            (Ok(path), Ok(read)) => path == read,
            _ => false,
        };
        if read.is_some_and(same) {
            return refused(format!("--{option}: {shown} is read by the same command"), "give another name");
        }
        match fs::metadata(path) {
            Ok(found) if !found.is_file() => {
                refused(format!("--{option}: {shown} is no file that could be replaced"), "give another name")
            }
            Ok(_) if !force => refused(
                format!("--{option}: {shown} is there already"),
                "another name, or --force to write over it",
            ),
            _ => Ok(Self { path: path.to_owned(), force }),
        }
    }

    /// An error of this place.
    pub fn fault(&self, error: io::Error) -> Fault {
        Fault::Save { path: self.path.clone(), error }
    }

    /// A file that takes its name only when it is finished. Until then it lies beside that, under a name that says what it is
    /// to become, and goes away when the program is told to stop.
    ///
    /// # Errors
    /// [`Fault::Save`] for a folder that cannot be written.
    pub fn begin(self) -> Result<Unfinished> {
        // A link stays one: what it leads to is replaced.
        let target = fs::canonicalize(&self.path).unwrap_or_else(|_| self.path.clone());
        let folder = target.parent().filter(|folder| !folder.as_os_str().is_empty());
        let name = target.file_name().map(|name| name.to_string_lossy().into_owned()).unwrap_or_default();
        let prefix = format!(".{name}.unfinished-");
        let mut builder = tempfile::Builder::new();
        builder.prefix(&prefix);
        let file = fs::metadata(&target).map(|found| found.permissions()).ok();
        if let Some(permissions) = file.or_else(usual) {
            builder.permissions(permissions);
        }
        let folder = folder.unwrap_or(Path::new("."));
        let file = interrupted::removes(|| builder.tempfile_in(folder)).map_err(|error| self.fault(error))?;
        Ok(Unfinished { file, target, destination: self })
    }
}

/// Who may read a new file is up to the system's mask, as with any that a program writes.
#[cfg(unix)]
fn usual() -> Option<Permissions> {
    Some(std::os::unix::fs::PermissionsExt::from_mode(0o666))
}

/// A new file has the system's usual permissions.
#[cfg(not(unix))]
fn usual() -> Option<Permissions> {
    None
}

/// A file without its name.
#[derive(Debug)]
pub struct Unfinished {
    file: NamedTempFile,
    target: PathBuf,
    destination: Destination,
}

impl Write for Unfinished {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        self.file.write(bytes)
    }

    fn flush(&mut self) -> io::Result<()> {
        self.file.flush()
    }
}

impl Unfinished {
    /// Gives it its name. Where two write the same one and neither may replace the other's, the first to finish has it.
    ///
    /// # Errors
    /// [`Fault::Save`].
    pub fn finish(self) -> Result<()> {
        let Self { file, target, destination } = self;
        let temporary = file.path().to_owned();
        let kept = if destination.force { file.persist(&target) } else { file.persist_noclobber(&target) };
        interrupted::keeps(&temporary);
        kept.map(|_| ()).map_err(|error| destination.fault(error.error))
    }
}

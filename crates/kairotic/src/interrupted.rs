//! What is left to do when the program is told to stop: unfinished files go away.

use std::path::{Path, PathBuf};
use std::sync::{Mutex, Once, PoisonError};
use std::{fs, io};

use tempfile::NamedTempFile;

/// The files that are being written.
static UNFINISHED: Mutex<Vec<PathBuf>> = Mutex::new(Vec::new());

/// Makes a file that is to be removed if the program is told to stop, at whatever moment that is: who is told waits until
/// the file that is being made is known.
///
/// # Errors
/// Those of `make`.
pub fn removes(make: impl FnOnce() -> io::Result<NamedTempFile>) -> io::Result<NamedTempFile> {
    static LISTENING: Once = Once::new();
    LISTENING.call_once(listen);
    let mut unfinished = UNFINISHED.lock().unwrap_or_else(PoisonError::into_inner);
    let file = make()?;
    unfinished.push(file.path().to_owned());
    Ok(file)
}

/// A file that has its name now, or is gone.
pub fn keeps(file: &Path) {
    UNFINISHED.lock().unwrap_or_else(PoisonError::into_inner).retain(|known| known != file);
}

/// Removes unfinished files when a signal comes that ends the program, and lets it end it.
#[cfg(unix)]
fn listen() {
    use signal_hook::consts::{SIGHUP, SIGINT, SIGTERM};
    use signal_hook::iterator::Signals;
    use signal_hook::low_level::emulate_default_handler;

    // Where signals cannot be listened to, they end the program as they would have anyway.
    let Ok(mut signals) = Signals::new([SIGHUP, SIGINT, SIGTERM]) else { return };
    std::thread::spawn(move || {
        if let Some(signal) = signals.forever().next() {
            let files = UNFINISHED.lock().unwrap_or_else(PoisonError::into_inner);
            for file in files.iter() {
                // One that is gone already is what is wanted.
                let _ = fs::remove_file(file);
            }
            let _ = emulate_default_handler(signal);
        }
    });
}

#[cfg(not(unix))]
const fn listen() {}

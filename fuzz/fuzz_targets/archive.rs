//! Session archives: whatever the bytes, a result or a complaint, and times that do not go back.
#![no_main]

#[path = "checked.rs"]
mod checked;

use std::io::{Seek, Write};

use kairotic_formats::capture::{Reader, TableHints};
use libfuzzer_sys::fuzz_target;

fuzz_target!(|bytes: &[u8]| {
    let mut file = tempfile::tempfile().unwrap();
    file.write_all(bytes).unwrap();
    file.rewind().unwrap();
    if let Ok(reader) = Reader::file(file, &TableHints::default()) {
        checked::read(reader);
    }
});

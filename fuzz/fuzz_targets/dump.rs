//! Value change dumps: whatever the bytes, a result or a complaint, and times that do not go back.
#![no_main]

#[path = "checked.rs"]
mod checked;

use std::io::Cursor;

use kairotic_formats::capture::{Reader, TableHints};
use libfuzzer_sys::fuzz_target;

fuzz_target!(|bytes: &[u8]| {
    let mut all = b"$var wire 1 ! a $end ".to_vec();
    all.extend_from_slice(bytes);
    if let Ok(reader) = Reader::pipe(Box::new(Cursor::new(all)), &TableHints::default()) {
        checked::read(reader);
    }
});

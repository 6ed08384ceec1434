//! Tables: whatever the bytes, a result or a complaint, and times that do not go back.
#![no_main]

#[path = "checked.rs"]
mod checked;

use std::io::Cursor;

use kairotic_formats::capture::{Reader, TableHints};
use libfuzzer_sys::fuzz_target;

fuzz_target!(|bytes: &[u8]| {
    for hints in [
        TableHints::default(),
        TableHints { rate: "1MHz".parse().ok(), thresholds: Some((1, 9)), ..TableHints::default() },
    ] {
        if let Ok(reader) = Reader::pipe(Box::new(Cursor::new(bytes.to_vec())), &hints) {
            checked::read(reader);
        }
    }
});

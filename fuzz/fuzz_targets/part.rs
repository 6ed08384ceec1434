//! Family files: whatever the bytes, a part or complaints.
#![no_main]

#[path = "catalogue.rs"]
mod catalogue;

use kairotic_formats::part_file;
use kairotic_formats::text_file::Source;
use libfuzzer_sys::fuzz_target;

fuzz_target!(|bytes: &[u8]| {
    let source = Source { file: "part.toml".to_owned(), bytes: bytes.to_vec() };
    let _ = part_file::read(&source, catalogue::block);
});

//! Family files and the block files that they draw on: whatever the bytes, a part or complaints.
#![no_main]

#[path = "catalogue.rs"]
mod catalogue;

use kairotic_formats::part_file;
use kairotic_formats::text_file::Source;
use libfuzzer_sys::fuzz_target;

fuzz_target!(|bytes: &[u8]| {
    // Behind a zero byte, a block file that stands for all.
    let (family, blocks) = match bytes.iter().position(|byte| *byte == 0) {
        None => (bytes, None),
        Some(end) => (&bytes[..end], Some(&bytes[end + 1..])),
    };
    let source = |file: &str, bytes: &[u8]| Source { file: file.to_owned(), bytes: bytes.to_vec() };
    let _ = part_file::read(&source("part.toml", family), &|name| match blocks {
        None => catalogue::block(name),
        Some(bytes) => Some(source("block.toml", bytes)),
    });
});

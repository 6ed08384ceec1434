//! A debugger's listing of memory: whatever the bytes, a complaint with its line, or words that a timer's registers are read of.
#![no_main]

#[path = "catalogue.rs"]
mod catalogue;

use std::sync::LazyLock;

use kairotic_core::decode::{DecodeRequest, decode, registers_in};
use kairotic_core::part::{Part, TimerUse};
use kairotic_formats::memory_dump::read;
use kairotic_formats::text_file::Source;
use libfuzzer_sys::fuzz_target;

static PART: LazyLock<Part> = LazyLock::new(|| catalogue::part("stm32f411"));

fuzz_target!(|bytes: &[u8]| {
    let source = Source { file: "timer.txt".to_owned(), bytes: bytes.to_vec() };
    let Ok(words) = read(&source) else { return };
    let on = TimerUse::of(&PART, "tim3");
    let Ok(found) = registers_in(&PART, &on, &words) else { return };
    let _ = decode(&DecodeRequest::plain(on, found.assignments));
});

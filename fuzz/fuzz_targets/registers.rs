//! Register values of any timer: refused, or decoded, and then decoded again from what the setting writes.
#![no_main]

#[path = "catalogue.rs"]
mod catalogue;

use std::sync::LazyLock;

use kairotic_core::part::{Assignment, Part, TimerUse};
use kairotic_core::quantity::{Deviation, Tolerance};
use kairotic_core::decode::{DecodeRequest, decode};
use libfuzzer_sys::fuzz_target;

static PARTS: LazyLock<Vec<Part>> = LazyLock::new(catalogue::all);

// Two bytes choose part and timer, three more each a register and what is written to it.
fuzz_target!(|bytes: &[u8]| {
    let [part, timer, values @ ..] = bytes else { return };
    let part = &PARTS[usize::from(*part) % PARTS.len()];
    let timer = &part.timers[usize::from(*timer) % part.timers.len()];
    let Ok(known) = part.timer(&timer.name, None) else { return };
    let registers: Vec<&String> = known.block.registers.keys().collect();
    let assignments = values.chunks_exact(3).map(|chunk| Assignment {
        name: registers[usize::from(chunk[0]) % registers.len()].clone(),
        value: u64::from(u16::from_le_bytes([chunk[1], chunk[2]])),
    });
    let clock = Tolerance { nominal: known.clock.default, deviation: Deviation::ZERO };
    let on = TimerUse { allow_overclock: true, ..TimerUse::of(part, &timer.name).clocked(clock) };
    let request = |assignments| DecodeRequest { within: Deviation::ZERO, ..DecodeRequest::plain(on.clone(), assignments) };
    let Ok(reading) = decode(&request(assignments.collect())) else { return };
    let Ok(writes) = reading.setting.writes(&reading.timer) else { return };
    let number = |write: &kairotic_core::setting::FieldWrite| {
        Some(Assignment { name: write.name(), value: write.written.number()? })
    };
    let _ = decode(&request(writes.iter().filter_map(number).collect()));
});

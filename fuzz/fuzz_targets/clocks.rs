//! Clock trees: any frequency from any source, alone or together with a timer, and registers back to clocks.
#![no_main]

#[path = "catalogue.rs"]
mod catalogue;

use std::sync::LazyLock;

use kairotic_core::clock::{JointRequest, ReachRequest, joint, reach, state};
use kairotic_core::part::{Assignment, Part};
use kairotic_core::quantity::{Deviation, Frequency, Rational};
use libfuzzer_sys::fuzz_target;

static PARTS: LazyLock<Vec<Part>> = LazyLock::new(catalogue::all);

fuzz_target!(|input: (u8, u8, u32, u16, &str)| {
    let (part, timer, numerator, denominator, text) = input;
    let part = &PARTS[usize::from(part) % PARTS.len()];
    let timer = part.timers[usize::from(timer) % part.timers.len()].name.clone();
    let wanted = Rational::new(i128::from(numerator), i128::from(denominator).max(1)).map(Frequency::new);
    let Some(frequency) = wanted.filter(|wanted| *wanted > Frequency::ZERO) else { return };
    let (first, rest) = text.split_once(' ').unwrap_or((text, ""));
    let source = first.parse().ok();
    let within = Rational::new(1, 100).map_or(Deviation::ZERO, Deviation::new);
    let _ =
        reach(part, &ReachRequest { timer: timer.clone(), source: source.clone(), reach: frequency, within });
    let _ = joint(part, &JointRequest { timer, base: None, source: source.clone(), frequency });
    let assignments: Vec<Assignment> = rest.split_whitespace().filter_map(|word| word.parse().ok()).collect();
    let _ = state(part, &assignments, source.as_ref());
});

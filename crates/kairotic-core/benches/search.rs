//! The search alone, over the full range of each kind of divider: 65536 whole divisions, five taps, 4080 fractions, a
//! product of two. `leading` may stop early where a bound proves that nothing better follows; `exhaustive` never does.
//!
//! Run with `cargo bench -p kairotic-core --bench search`.

#![allow(clippy::unwrap_used)]

use divan::{Bencher, black_box};
use kairotic_core::part::{Part, TimerUse};
use kairotic_core::search::{Prefer, SearchOptions, derive_with};
use kairotic_core::target::Target;
use kairotic_formats::part_file;
use kairotic_formats::text_file::Source;

fn main() {
    divan::main();
}

/// Kind of divider, family file, timer, clock, frequency.
const CASES: [(&str, &str, &str, &str, &str); 4] = [
    ("range", include_str!("../../../parts/stm32f411.toml"), "tim3", "100MHz", "50Hz"),
    ("taps", include_str!("../../../parts/atmega328p.toml"), "timer1", "16MHz", "50Hz"),
    ("fraction", include_str!("../../../parts/rp2040.toml"), "slice0", "125MHz", "50Hz"),
    ("product", include_str!("../tests/it/shrunken.toml"), "tapped", "1kHz", "10Hz"),
];

/// A part, and on it a timer with a target.
struct Case {
    part: Part,
    timer: &'static str,
    clock: &'static str,
    target: Target,
}

impl Case {
    fn of(kind: &str) -> Self {
        let (_, file, timer, clock, frequency) = CASES.iter().find(|(name, ..)| *name == kind).unwrap();
        let source = Source { file: "bench.toml".to_owned(), bytes: file.as_bytes().to_vec() };
        let part = part_file::read(&source, &kairotic_parts::block_file).unwrap();
        let target = Target::frequency(frequency.parse().unwrap()).duty("7.5%".parse().unwrap());
        Self { part, timer, clock, target }
    }

    fn measured(&self, bencher: Bencher<'_, '_>, prefer: Option<Prefer>) {
        let clock = kairotic_core::quantity::parse::tolerance(self.clock).unwrap();
        let on = TimerUse::of(&self.part, self.timer).clocked(clock);
        let options = SearchOptions { prefer, ..SearchOptions::default() };
        bencher.bench(|| derive_with(black_box(&on), black_box(&self.target), options));
    }
}

#[divan::bench(args = ["range", "taps", "fraction", "product"])]
fn leading(bencher: Bencher<'_, '_>, kind: &str) {
    Case::of(kind).measured(bencher, None);
}

#[divan::bench(args = ["range", "taps", "fraction", "product"])]
fn exhaustive(bencher: Bencher<'_, '_>, kind: &str) {
    Case::of(kind).measured(bencher, Some(Prefer::Exact));
}

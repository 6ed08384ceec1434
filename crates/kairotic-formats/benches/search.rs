//! The search alone, over the full range of each kind of divider: 65536 whole divisions, five taps, 4080 fractions, a
//! product of two. `leading` may stop early where a bound proves that nothing better follows; `exhaustive` never does.
//!
//! Run with `cargo bench --bench search`.

#![allow(clippy::unwrap_used)]

use divan::{Bencher, black_box};
use kairotic_core::part::Part;
use kairotic_core::search::{DeriveRequest, Prefer, derive};
use kairotic_core::signal::{Active, Aim, Ask, Level, Target};
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

/// A block file of the repository.
fn block_file(name: &str) -> Option<Source> {
    let file = format!("{}/../../parts/blocks/{name}.toml", env!("CARGO_MANIFEST_DIR"));
    Some(Source { bytes: std::fs::read(&file).ok()?, file })
}

fn prepared(kind: &str, prefer: Option<Prefer>) -> (Part, DeriveRequest) {
    let (_, file, timer, clock, frequency) = CASES.iter().find(|(name, ..)| *name == kind).unwrap();
    let source = Source { file: "bench.toml".to_owned(), bytes: file.as_bytes().to_vec() };
    let part = part_file::read(&source, block_file).unwrap();
    let request = DeriveRequest {
        timer: (*timer).to_owned(),
        base: None,
        channel: None,
        clock: Some(kairotic_core::quantity::parse::tolerance(clock).unwrap()),
        target: Target {
            aim: Aim::Frequency(frequency.parse().unwrap()),
            asks: vec![Ask { channel: None, active: Active::Duty("7.5%".parse().unwrap()), start: None }],
            span: None,
            within: "100ppm".parse().unwrap(),
            level: Level::High,
            dead_time: None,
            min_steps: 0,
        },
        mode: None,
        prefer,
        dither: false,
        all: false,
        allow_overclock: false,
    };
    (part, request)
}

#[divan::bench(args = ["range", "taps", "fraction", "product"])]
fn leading(bencher: Bencher<'_, '_>, kind: &str) {
    let (part, request) = prepared(kind, None);
    bencher.bench(|| derive(black_box(&part), black_box(&request)));
}

#[divan::bench(args = ["range", "taps", "fraction", "product"])]
fn exhaustive(bencher: Bencher<'_, '_>, kind: &str) {
    let (part, request) = prepared(kind, Some(Prefer::Exact));
    bencher.bench(|| derive(black_box(&part), black_box(&request)));
}

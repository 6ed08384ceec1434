//! Whole processes: what a `derive` costs next to `--version`, wall time from start to end.
//!
//! Run with `cargo bench --bench start_up`; the two medians are to be compared.

use std::process::{Command, ExitStatus, Stdio};

fn main() {
    divan::main();
}

fn run(line: &str) -> std::io::Result<ExitStatus> {
    Command::new(env!("CARGO_BIN_EXE_kairotic")).args(line.split(' ')).stdout(Stdio::null()).status()
}

#[divan::bench(sample_count = 500, args = [
    "--version",
    "derive --on stm32f411/tim3 --clock 100MHz --freq 50Hz --span 900us..2100us --pulse 1500us",
    "derive --on stm32f411/tim3 --clock 99.999MHz --freq 47.123Hz --duty 33%",
    "decode --on stm32f411/tim3 --clock 100MHz PSC=40 ARR=50000 CCR1=3750",
    "parts",
])]
fn process(line: &str) -> std::io::Result<ExitStatus> {
    run(line)
}

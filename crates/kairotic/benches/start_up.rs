//! Whole processes: what a `derive` costs next to `--version`, wall time from start to end.
//!
//! Run with `cargo bench --bench start_up`; the medians are to be compared.

use std::process::{Command, ExitStatus, Stdio};

fn main() {
    divan::main();
}

fn run(line: &str) -> std::io::Result<ExitStatus> {
    Command::new(env!("CARGO_BIN_EXE_kairotic")).args(line.split(' ')).stdout(Stdio::null()).status()
}

/// What may take ten and twenty times as long as a `derive`.
#[divan::bench(sample_count = 100, args = [
    "survey --freq 50Hz --span 900us..2100us",
    "survey --freq 44.1kHz --clock max",
    "clock --on stm32f411/tim3 --source 12MHz --reach-pwm 44.1kHz",
    "clock --on stm32f411/tim3 --reach-pwm 50Hz",
    "clock --on stm32h743/tim1 --source 8MHz --reach-pwm 44.1kHz",
])]
fn large(line: &str) -> std::io::Result<ExitStatus> {
    run(line)
}

/// One clock setting for six signals: what may take a hundred times as long as a `derive`.
#[divan::bench(sample_count = 100)]
fn whole_board() -> std::io::Result<ExitStatus> {
    run(concat!("clock --source 12MHz --board ", env!("CARGO_MANIFEST_DIR"), "/../../demo/dome.toml"))
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

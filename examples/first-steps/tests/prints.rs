//! What the program prints, against arithmetic done by hand.

// A test may panic: that is how it fails.
#![allow(clippy::unwrap_used, clippy::indexing_slicing)]

use std::process::Command;

#[test]
fn registers_edges_and_the_way_back() {
    let run = Command::new(env!("CARGO_BIN_EXE_first-steps")).output().unwrap();
    let printed = String::from_utf8(run.stdout).unwrap();
    let lines: Vec<&str> = printed.lines().collect();
    // 96 MHz / 25 kHz = 3840 ticks, 35 % of them 1344; a pulse of 14 us every 40 us.
    assert!(run.status.success() && lines[0].starts_with("PSC=0 ARR=3839 CCR1=1344 "), "{printed}");
    let edges =
        ["0 ns: High", "14000 ns: Low", "40000 ns: High", "54000 ns: Low", "80000 ns: High", "94000 ns: Low"];
    assert_eq!(lines[1..7], edges);
    assert_eq!(lines[7..], ["25 kHz"]);
}

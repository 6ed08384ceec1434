//! `budget`: what the program shows of it, and how it ends.

use serde_json::json as value;

use crate::run::{json, run};

const DOME: &str = concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/dome.toml");
const SERVO: &str = "budget --on atmega328p/timer1 --clock 16MHz+-1% --freq 50Hz --pulse 1500us";

#[test]
fn a_requirement_that_is_missed_ends_with_one() {
    let (missed, met) =
        (run(&format!("{SERVO} --need pulse=5us")), run(&format!("{SERVO} --need pulse=16us")));
    assert_eq!((missed.code, met.code), (1, 0));
    // 1500 us / 0.99 and / 1.01.
    assert!(met.stdout.contains("-14.85..+15.15 us"), "{met:?}");
    assert!(missed.stdout.contains("missed by a factor of 3.03"), "{missed:?}");
    assert!(missed.stdout.contains("a crystal within 100 ppm"), "{missed:?}");
}

#[test]
fn a_board_s_signal_is_judged_in_its_load_s_unit() {
    let budget = json(&format!("budget --board {DOME} --signal shutter"));
    let largest = &budget["contributions"][budget["largest"].as_u64().unwrap() as usize];
    assert_eq!((&budget["signal"], &largest["cause"]), (&value!("shutter"), &value!("load")));
    // 0.4 % of 120 degrees, and what 60 and 45 ppm of 1350 us do at 10 us a degree: 0.0081 and 0.00608.
    let level = &budget["totals"]["worst_level"]["high"];
    assert!((level["approx"].as_f64().unwrap() - 0.4881).abs() < 0.0001 && level["unit"] == "deg", "{level}");
    assert!(budget["checks"].as_array().unwrap().iter().all(|check| check["outcome"] == "met"));
}

#[test]
fn a_source_that_is_named_is_as_far_off_as_its_data_sheet_says() {
    let folder = tempfile::tempdir().unwrap();
    let file = folder.path().join("hsi.toml");
    let board = "schema = 1\npart = \"stm32f411\"\n[clock]\nsource = \"hsi\"\nsysclk = \"64MHz\"\n[[signal]]\nname = \"s\"\n\
                 on = \"tim3/1\"\nfreq = \"50Hz\"\npulse = \"1500us\"\nneeds = { clock = \"1%\" }\n";
    std::fs::write(&file, board).unwrap();
    let budget = json(&format!("budget --board {} --signal s", file.display()));
    let of_clock: Vec<_> = budget["contributions"]
        .as_array()
        .unwrap()
        .iter()
        .map(|one| {
            let reach = &one["reach"]["frequency"];
            (one["cause"].as_str().unwrap(), value!([reach["low"]["exact"], reach["high"]["exact"]]))
        })
        .collect();
    // -1 % to 1 % at 25 °C, -8 % to 4.5 % from -40 to 105 °C: the rest is temperature's.
    let wanted = [("tolerance", value!(["-1/100", "1/100"])), ("temperature", value!(["-7/100", "7/200"]))];
    assert_eq!(of_clock, wanted);
}

#[test]
fn the_same_seed_draws_the_same_boards() {
    let line = |seed: u32| format!("budget --board {DOME} --signal shutter --population 3000 --seed {seed}");
    assert_eq!(run(&line(5)).stdout, run(&line(5)).stdout);
    assert_ne!(run(&line(5)).stdout, run(&line(6)).stdout);
    let drawn = json(&line(5));
    let boards: u64 =
        drawn["spread"].as_array().unwrap().iter().map(|bin| bin["boards"].as_u64().unwrap()).sum();
    assert_eq!((boards, &drawn["mean"]["unit"]), (3000, &value!("deg")));
}

#[test]
fn what_was_measured_gives_new_registers() {
    let measured = json(&format!("budget --board {DOME} --signal shutter --measured 49.2Hz"));
    assert_eq!(
        (&measured["clock"]["exact"], &measured["error"]["exact"]),
        (&value!("94464000"), &value!("-2/125"))
    );
    // 0.05 of 49.2.
    assert_eq!(measured["uncertainty"]["exact"], value!("1/984"));
    let frequency = measured["after"]["best"]["frequency"]["exact"].as_str().unwrap();
    assert_eq!(frequency, "50");
}

#[test]
fn wrong_questions_are_answered_with_what_would_be_right() {
    for (line, says) in [
        (format!("{SERVO} --need plus=5us"), "unknown requirement `plus`"),
        (format!("{SERVO} --need pulse"), "expected NAME=LIMIT, found `pulse`"),
        (format!("{SERVO} --need pulse=5Hz"), "--need: "),
        (format!("{SERVO} --need level=5deg"), "there is no load"),
        (format!("{SERVO} --need steps=few"), "expected a whole number of steps, found `few`"),
        (format!("{SERVO} --temperature 1%..2%"), "expected a range around zero"),
        (format!("{SERVO} --latency 9us..2us"), "expected the shorter time first"),
        (format!("{SERVO} --measured 5V"), "--measured: "),
        (format!("{SERVO} --ageing -5ppm"), "relative deviation greater than zero"),
        ("budget --on atmega328p/timer1 --clock 16MHz --freq 50Hz".to_owned(), "makes no pulse"),
        ("budget --on atmega328p/timer1 --clock 16MHz --duty 5%".to_owned(), "missing --freq or --period"),
        (
            "budget --on atmega328p/timer1 --clock 16MHz --freq 50Hz --duty 5% --population 9".to_owned(),
            "there is nothing to draw",
        ),
    ] {
        let run = run(&line);
        assert!(run.code == 2 && run.stderr.contains(says), "{line}: {run:?}");
        assert!(run.stdout.is_empty());
    }
}

//! `sequence`: levels over time.

use std::fs;
use std::path::Path;

use serde_json::json as value;
use tempfile::tempdir;

use crate::run::{Run, json, run, run_words};

const DOME: &str = concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/dome.toml");

fn words(steps: &str) -> Vec<&str> {
    let place = ["--on", "atmega328p/timer1/a", "--clock", "16MHz", "--freq", "50Hz"];
    ["sequence"].into_iter().chain(place).chain(["--steps", steps]).collect()
}

fn here(line: &[&str]) -> Run {
    run_words(line.iter().copied(), Path::new("."), &[])
}

/// The rows of a table without its head.
fn rows(text: &str) -> Vec<Vec<String>> {
    text.lines().skip(1).map(|line| line.split(',').map(str::to_owned).collect()).collect()
}

#[test]
fn twelve_levels_are_72_73_us_apart() {
    let line = [words("from 1100us to 1900us over 6s in 12 levels"), vec!["--format", "csv"]].concat();
    let rows = rows(&here(&line).stdout);
    assert_eq!(rows.len(), 12);
    for (level, row) in (0_u64..).zip(&rows) {
        // Ticks of 0.5 us, and one that the mode adds: (1100 + 800 n / 11) us less that, to the nearest.
        let half_ticks = (11 * 1100 + 800 * level) * 2;
        let compare = (2 * half_ticks + 10) / 22 - 1;
        assert_eq!(
            row[2..6],
            [decimal(level), (25 * level).to_string(), "25".to_owned(), compare.to_string()]
        );
    }
}

/// A number of halves as the table has it.
fn decimal(halves: u64) -> String {
    format!("{}{}", halves / 2, if halves.is_multiple_of(2) { "" } else { ".5" })
}

#[test]
fn a_board_moves_several_signals_on_one_line() {
    let made = json(&format!("sequence opens --board {DOME}"));
    assert_eq!(made["length"]["exact"], value!("15"));
    let names: Vec<&str> =
        made["tracks"].as_array().unwrap().iter().map(|track| track["signal"].as_str().unwrap()).collect();
    assert_eq!(names, ["dome", "shutter", "vent"]);
    // The dome is armed for two seconds, and the shutter begins then.
    let ways = &made["tracks"][1]["ways"];
    assert_eq!((&ways[0]["begins"]["exact"], &ways[0]["over"]["exact"]), (&value!("2"), &value!("3")));
    assert_eq!(made["moves"][0]["begins"]["exact"], value!("5"));
    let text = run(&format!("sequence --board {DOME}")).stdout;
    assert!(text.contains("at 2 s: shutter and vent"), "the only sequence is taken: {text}");
}

#[test]
fn what_is_saved_is_what_is_shown() {
    let folder = tempdir().unwrap();
    let path = folder.path().join("levels.csv");
    let saved = path.display().to_string();
    let line = [words("from 1ms to 2ms over 1s and back 3 times"), vec!["--save", &saved]].concat();
    let shown = here(&[line.clone(), vec!["--format", "csv"]].concat()).stdout;
    assert_eq!(fs::read_to_string(&path).unwrap(), shown);
    // There and back in 50 periods each, three times: 1 ms is there twice where one ends and the next begins.
    assert_eq!(rows(&shown).len(), 3 * 98 + 1);
    let again = here(&line);
    assert!(again.code == 2 && again.stderr.contains("is there already"), "{again:?}");
}

#[test]
fn repeats_are_tables_gone_through_again() {
    let code = |steps: &str| {
        let line = [words(steps), vec!["--repeat", "40", "--code", "c", "--name", "blink"]].concat();
        here(&line).stdout
    };
    let even = code("1ms for 100ms, 2ms for 100ms");
    assert!(even.contains("blink_timer1_a_passes = 40u;"), "{even}");
    let odd = code("1ms for 100ms, 2ms for 105ms");
    assert!(!odd.contains("passes"), "205 ms are no whole number of periods, and each time differs");
}

#[test]
fn a_level_that_is_asked_of_a_coarse_timer_is_told() {
    let line = "sequence --on atmega328p/timer2/a --clock 16MHz --freq 61Hz --within 1% --steps".split(' ');
    let steps = "from 900us to 2100us over 4.8s in 240 levels and back";
    let found = here(&line.chain([steps]).collect::<Vec<_>>());
    assert!(found.code == 0 && found.stdout.contains("fewer-levels (warning)"), "{found:?}");
    assert!(found.stdout.contains("240 levels are asked of timer2/a in step 1, and there are"), "{found:?}");
}

#[test]
fn a_picture_shows_every_signal() {
    let folder = tempdir().unwrap();
    let path = folder.path().join("opens.svg");
    let found = run(&format!("sequence --board {DOME} --plot {}", path.display()));
    assert_eq!(found.code, 0, "{found:?}");
    let picture = fs::read_to_string(path).unwrap();
    for words in ["opens, 15 s", "dome, %", "shutter, deg", "vent, %", "slit, deg"] {
        assert!(picture.contains(words), "{words}");
    }
}

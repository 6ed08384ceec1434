//! Families in the user's own files.

use std::fs;
use std::path::Path;

use crate::run::{Run, run_words};

const SOUND: &str = include_str!("../../../kairotic-formats/tests/it/sound.toml");

fn run_in(folder: &Path, line: &str) -> Run {
    run_words(line.split(' '), folder, &[])
}

/// A folder with one family file: the built-in one under the name of the dome's own board chip.
fn folder_with(name: &str, text: &str) -> tempfile::TempDir {
    let folder = tempfile::tempdir().unwrap();
    fs::write(folder.path().join(name), text).unwrap();
    folder
}

#[test]
fn a_file_and_a_folder_add_a_part() {
    let folder = folder_with("domechip.toml", &SOUND.replace("name = \"rp2040\"", "name = \"domechip\""));
    for place in ["domechip.toml", "."] {
        let run = run_in(
            folder.path(),
            &format!("derive --parts {place} --on domechip/slice0 --clock 125MHz --freq 50Hz --pulse 1.5ms"),
        );
        assert!(run.code == 0 && run.stdout.contains("domechip/slice0/a"), "{run:?}");
        let list = run_in(folder.path(), &format!("parts --parts {place} --format csv"));
        assert!(list.stdout.contains("domechip,") && list.stdout.contains("stm32f411,"), "{list:?}");
    }
}

#[test]
fn a_part_of_one_s_own_takes_the_place_of_a_built_in_one() {
    let folder = folder_with("rp2040.toml", &SOUND.replace("maximum = \"133 MHz\"", "maximum = \"200 MHz\""));
    let line = "derive --on rp2040/slice0 --clock 200MHz --freq 50Hz";
    assert_eq!(run_in(folder.path(), line).code, 2);
    assert_eq!(run_in(folder.path(), &format!("{line} --parts rp2040.toml")).code, 0);
}

#[test]
fn a_doubt_about_a_divider_is_told_with_every_result() {
    let sure = "first-order accumulator\", document = \"registers\", trust = \"verified\"";
    assert!(SOUND.contains(sure));
    let folder = folder_with("rp2040.toml", &SOUND.replace(sure, &sure.replace("verified", "unsure")));
    let place = "--parts rp2040.toml --on rp2040/slice0 --clock 125MHz";
    for line in ["derive PLACE --freq 1kHz", "derive PLACE --tick 1us", "decode PLACE DIV=16 TOP=99"] {
        let run = run_in(folder.path(), &line.replace("PLACE", place));
        assert!(run.code == 0 && run.stdout.contains("catalogue-unsure (note)"), "{run:?}");
    }
}

#[test]
fn a_broken_file_is_pointed_at() {
    let folder = folder_with("domechip.toml", &SOUND.replacen("min = 1 }", "min = \"one\" }", 1));
    let line = SOUND.lines().position(|line| line.contains("min = 1 }")).unwrap() + 1;
    let run = run_in(folder.path(), "parts --parts domechip.toml");
    assert_eq!((run.code, run.stdout.as_str()), (2, ""));
    assert!(run.stderr.contains(&format!("domechip.toml:{line}:")), "{run:?}");
    assert!(run.stderr.contains("blocks.slice.modes[0].top.register.min"), "{run:?}");
    assert!(run.stderr.contains("docs/part-files.md"), "{run:?}");
}

#[test]
fn a_file_of_other_bytes_is_refused() {
    let folder = tempfile::tempdir().unwrap();
    fs::write(folder.path().join("noise.toml"), [0xff, 0xfe, 0x00, 0x41]).unwrap();
    let run = run_in(folder.path(), "parts --parts noise.toml");
    assert!(run.code == 2 && run.stderr.contains("noise.toml:1:1: expected text in UTF-8"), "{run:?}");
}

#[test]
fn a_part_that_stands_in_two_files_is_refused() {
    let folder = folder_with("one.toml", SOUND);
    fs::write(folder.path().join("two.toml"), SOUND).unwrap();
    let run = run_in(folder.path(), "parts --parts .");
    assert!(run.code == 2 && run.stderr.contains("rp2040 is described twice"), "{run:?}");
}

#[test]
fn a_family_draws_on_block_files_beside_it_and_on_those_built_in() {
    let family =
        include_str!("../../../../parts/rp2040.toml").replace("name = \"rp2040\"", "name = \"domechip\"");
    let folder = folder_with("domechip.toml", &family);
    let line = "derive --parts domechip.toml --on domechip/slice0 --clock 125MHz --freq 50Hz --pulse 1.5ms";
    let built_in = run_in(folder.path(), line);
    assert!(built_in.code == 0 && built_in.stdout.contains("63999"), "{built_in:?}");
    // One of the same name beside the family file takes the place of the built-in one.
    fs::create_dir(folder.path().join("blocks")).unwrap();
    fs::write(folder.path().join("blocks/rp-slices.toml"), "schema = 1\n").unwrap();
    let own = run_in(folder.path(), line);
    assert!(own.code == 2 && own.stderr.contains("rp-slices.toml:1:1"), "{own:?}");
}

#[test]
fn a_file_that_is_not_there_is_a_fault_of_its_own() {
    let folder = tempfile::tempdir().unwrap();
    let run = run_in(folder.path(), "parts --parts gone.toml");
    assert_eq!((run.code, run.stdout.as_str()), (3, ""));
    assert!(run.stderr.contains("cannot read gone.toml"), "{run:?}");
}

#[test]
fn a_family_file_is_tried_and_what_a_machine_could_decide_of_it_is_counted() {
    let folder = folder_with("domechip.toml", &SOUND.replace("name = \"rp2040\"", "name = \"domechip\""));
    let run = run_in(folder.path(), "parts check domechip.toml --format json");
    let result: serde_json::Value = serde_json::from_str(&run.stdout).unwrap();
    assert_eq!(result["result"]["part"], "domechip");
    // No register of it has a place, and it names no pins.
    let claims = &result["result"]["claims"];
    assert_eq!((&claims["addresses"], &claims["pins"]), (&serde_json::json!(0), &serde_json::json!(0)));
    // Of CSR five, of DIV and CC two each.
    assert_eq!(claims["fields"], 9, "{claims}");
    assert!(!result["result"]["without_place"].as_array().unwrap().is_empty());
    let broken = run_in(folder.path(), "parts check domechip.csv");
    assert!(broken.code == 3 && broken.stderr.contains("cannot read domechip.csv"), "{broken:?}");
}

#[test]
fn an_order_code_is_the_part_that_is_sold_under_it() {
    let folder = tempfile::tempdir().unwrap();
    for (code, part) in [
        ("STM32F411RET6", "stm32f411"),
        ("stm32f411ceu6", "stm32f411c"),
        ("ATSAMD21G18A-AU", "samd21g18"),
        ("ATtiny85-20PU", "attiny85"),
        ("ATtiny85V-10PU", "attiny85v"),
        ("atmega168", "atmega168"),
        ("STM32F401RET6", "stm32f401"),
    ] {
        let run = run_in(folder.path(), &format!("parts {code} --format json"));
        let result: serde_json::Value = serde_json::from_str(&run.stdout).unwrap();
        assert_eq!(result["result"]["name"], part, "{code}");
    }
    // A part of which no pins are described does not borrow those of another.
    let pins = run_in(folder.path(), "derive --on stm32h503c --pin PA8 --freq 50Hz --duty 5%");
    assert!(
        pins.code == 2 && pins.stderr.contains("the pins of stm32h503c are not in the catalogue"),
        "{pins:?}"
    );
    // A pattern of one's own takes a code, and no name of a built-in part.
    let own = SOUND.replace("name = \"rp2040\"", "name = \"domechip\"\norder_codes = [\"STM32F4*\"]");
    fs::write(folder.path().join("domechip.toml"), own).unwrap();
    for (name, part) in [("STM32F411RET6", "domechip"), ("stm32f411", "stm32f411")] {
        let run = run_in(folder.path(), &format!("parts {name} --parts domechip.toml --format json"));
        let result: serde_json::Value = serde_json::from_str(&run.stdout).unwrap();
        assert_eq!(result["result"]["name"], part, "{name}");
    }
    let unknown = run_in(folder.path(), "parts ATmega328PB-AU");
    assert!(unknown.code == 2 && unknown.stderr.contains("no part"), "{unknown:?}");
}

//! `check`: what it says of boards and of the code made from them, and how it ends.

use std::fs;
use std::path::Path;

use serde_json::{Value, json};
use tempfile::{TempDir, tempdir};

use crate::run::{Run, run_words};

const DOME: &str = include_str!("../../../../demo/dome.toml");
const SARIF: &str = include_str!("../sarif-2.1.0.schema.json");

/// A folder with the dome's board file, and the code made from it.
fn workshop() -> TempDir {
    let folder = tempdir().unwrap();
    fs::write(folder.path().join("dome.toml"), DOME).unwrap();
    let made = check(folder.path(), "emit dome.toml --to code");
    assert_eq!(made.code, 0, "{made:?}");
    folder
}

fn check(folder: &Path, line: &str) -> Run {
    run_words(line.split(' '), folder, &[])
}

/// Changes a file, in which the text has to be.
fn change(file: &Path, from: &str, to: &str) {
    let text = fs::read_to_string(file).unwrap();
    assert!(text.contains(from), "{from} is not in {text}");
    fs::write(file, text.replace(from, to)).unwrap();
}

/// The line of a file in which a text stands first.
fn line_of(file: &Path, text: &str) -> usize {
    fs::read_to_string(file).unwrap().lines().position(|line| line.contains(text)).unwrap() + 1
}

#[test]
fn a_board_that_is_met_is_silent_where_that_is_asked_for() {
    let folder = workshop();
    let told = check(folder.path(), "check dome.toml --against code");
    assert_eq!((told.code, told.stdout.matches("   met").count()), (0, 7), "{told:?}");
    let quiet = check(folder.path(), "check dome.toml --against code -q");
    assert_eq!((quiet.code, quiet.stdout.as_str(), quiet.stderr.as_str()), (0, "", ""));
}

#[test]
fn a_constant_that_was_changed_by_hand_is_told_by_its_line() {
    let folder = workshop();
    let header = folder.path().join("code/dome.h");
    let line = line_of(&header, "DOME_SHUTTER_TOP");
    change(&header, "DOME_SHUTTER_TOP 63999UL", "DOME_SHUTTER_TOP 63998UL");
    let told = check(folder.path(), "check dome.toml --against code");
    assert_eq!(told.code, 1, "{told:?}");
    assert!(told.stdout.contains(&format!("code/dome.h:{line}:1")), "{told:?}");
    assert!(told.stdout.contains("code/dome.h: changed by hand since it was made"), "{told:?}");
    assert!(told.stdout.contains("-#define DOME_SHUTTER_TOP 63998UL"), "{told:?}");
    assert!(told.stdout.contains("+#define DOME_SHUTTER_TOP 63999UL"), "{told:?}");
    assert!(told.stdout.contains("code/dome.c         as it would be made"), "{told:?}");
}

#[test]
fn another_crystal_is_a_plan_that_changed() {
    let folder = workshop();
    let board = folder.path().join("dome.toml");
    change(&board, "12MHz+-30ppm", "16MHz+-30ppm");
    let told = check(folder.path(), "check dome.toml --against code");
    assert_eq!(told.code, 1, "{told:?}");
    assert!(told.stdout.contains("plan changed since it was made"), "{told:?}");
    assert!(!told.stdout.contains("by hand"), "{told:?}");
    let clock = format!("the clock (dome.toml:{})", line_of(&board, "[clock]"));
    assert!(told.stdout.split_whitespace().collect::<Vec<_>>().join(" ").contains(&clock), "{told:?}");
    // And both at once.
    change(&folder.path().join("code/dome.c"), "void dome_start(void)", "void dome_begin(void)");
    let told = check(folder.path(), "check dome.toml --against code");
    assert!(told.stdout.contains("plan changed, and the code was changed by hand"), "{told:?}");
}

#[test]
fn another_signal_is_named_where_its_lines_differ() {
    let folder = workshop();
    let board = folder.path().join("dome.toml");
    change(&board, "at = \"45deg\"", "at = \"50deg\"");
    let told = check(folder.path(), "check dome.toml --against code --format json");
    let answer: Value = serde_json::from_str(&told.stdout).unwrap();
    let problem = answer["result"]["boards"][0]["problems"]
        .as_array()
        .unwrap()
        .iter()
        .find(|problem| problem["file"] == "code/dome.h")
        .unwrap();
    assert_eq!(problem["finding"]["change"], "plan", "{problem}");
    let from = problem["finding"]["from"].as_array().unwrap();
    assert!(
        from.len() == 1 && from[0].as_str().unwrap().starts_with("signal shutter (dome.toml:"),
        "{problem}"
    );
}

#[test]
fn a_comment_in_the_board_file_changes_no_code() {
    let folder = workshop();
    change(&folder.path().join("dome.toml"), "# A crystal", "# The crystal");
    let told = check(folder.path(), "check dome.toml --against code");
    assert_eq!(told.code, 0, "{told:?}");
    assert!(told.stdout.contains("the board file changed, and nothing in the code"), "{told:?}");
}

/// A file that lost what it says of itself is there, and was changed.
#[test]
fn code_without_its_head_is_no_missing_code() {
    let folder = workshop();
    let source = folder.path().join("code/dome.c");
    let text = fs::read_to_string(&source).unwrap();
    fs::write(&source, text.split_once("*/\n").unwrap().1).unwrap();
    let told = check(folder.path(), "check dome.toml --against code");
    assert_eq!(told.code, 1, "{told:?}");
    assert!(told.stdout.contains("code/dome.c: changed by hand since it was made"), "{told:?}");
}

#[test]
fn code_that_is_missing_is_told() {
    let folder = workshop();
    fs::remove_file(folder.path().join("code/dome.c")).unwrap();
    let told = check(folder.path(), "check dome.toml --against code");
    assert_eq!(told.code, 1, "{told:?}");
    assert!(told.stdout.contains("code/dome.c is missing"), "{told:?}");
    assert!(told.stdout.contains("emit BOARD --to FOLDER makes it"), "{told:?}");
    let nowhere = check(folder.path(), "check dome.toml --against elsewhere");
    assert_eq!(nowhere.code, 3, "{nowhere:?}");
    let file = check(folder.path(), "check dome.toml --against dome.toml");
    assert!(file.code == 2 && file.stderr.contains("--against: expected a folder"), "{file:?}");
}

/// A board on which two signals want one channel, and a third misses what is required.
fn clashing() -> String {
    let text = DOME.replace("on = \"tim3/2\"\npin = \"PA7\"", "on = \"tim3/1\"\npin = \"PB4\"");
    text.replace("needs = { step = \"100mW\" }", "needs = { step = \"1mW\", steps = 100000 }")
}

#[test]
fn lines_for_a_direction_are_told_to_be_supplied() {
    let folder = workshop();
    change(&folder.path().join("dome.toml"), "\"two-lines\"", "\"enable-and-direction\"");
    let told = check(folder.path(), "check dome.toml");
    assert!(told.stdout.contains("vent has two lines beside it"), "{told:?}");
    assert!(told.stdout.contains("vent_direction"), "{told:?}");
}

#[test]
fn what_cannot_stand_together_is_told_with_what_would_free_it() {
    let folder = tempdir().unwrap();
    fs::write(folder.path().join("dome.toml"), clashing()).unwrap();
    let told = check(folder.path(), "check dome.toml");
    assert_eq!(told.code, 1, "{told:?}");
    let text = told.stdout.split_whitespace().collect::<Vec<_>>().join(" ");
    assert!(text.contains("no place for all of `shutter` (tim3/1 on PA6), `dome` (tim3/1 on PB4)"), "{text}");
    assert!(text.contains("leave the place of `dome` open: it would be tim5/1 on PA0"), "{text}");
    // 96 MHz / 1500 / 64000: the heater has fewer steps than are asked for.
    assert!(text.contains("64000 steps (16 bit) are fewer than the 100000"), "{text}");
    let line = line_of(&folder.path().join("dome.toml"), "steps = 100000");
    assert!(text.contains(&format!("dome.toml:{line}:")), "{text}");
}

/// A board of hundreds of signals is answered like any other: a part that has not so many outputs is told by a few of them.
#[test]
fn a_board_of_far_too_many_signals_is_answered() {
    let folder = tempdir().unwrap();
    let signal =
        |at: usize| format!("[[signal]]\nname = \"s{at}\"\nfreq = \"{}Hz\"\nduty = \"5%\"\n", 50 + at % 40);
    let signals: String = (0..300).map(signal).collect();
    fs::write(folder.path().join("many.toml"), format!("schema = 1\npart = \"stm32f411\"\n{signals}"))
        .unwrap();
    let told = check(folder.path(), "check many.toml --format json");
    assert_eq!(told.code, 1, "{}", told.stderr);
    let answer: Value = serde_json::from_str(&told.stdout).unwrap();
    let conflict = answer["findings"][0]["conflict"]["signals"].as_array().unwrap();
    // Eight timers, and nine frequencies.
    assert_eq!(conflict.len(), 9, "{conflict:?}");
}

#[test]
fn a_file_that_is_no_board_does_not_keep_others_from_being_looked_at() {
    let folder = tempdir().unwrap();
    fs::write(folder.path().join("dome.toml"), DOME).unwrap();
    fs::write(folder.path().join("bad.toml"), "schema = 1\npart = \"stm32f41\"\n").unwrap();
    let told = check(folder.path(), "check bad.toml dome.toml");
    assert_eq!(told.code, 2, "{told:?}");
    assert!(told.stdout.contains("bad.toml:2:8") && told.stdout.contains("board-file-wrong"), "{told:?}");
    assert!(told.stdout.contains("camera-fan"), "{told:?}");
    let missing = check(folder.path(), "check dome.toml nowhere.toml");
    assert_eq!(missing.code, 3, "{missing:?}");
}

/// The tour shows code of the dome in which one line was changed; the rest of it is what is made today.
#[test]
fn the_code_of_the_tour_has_one_line_that_was_changed() {
    let demo = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo");
    let told = check(&demo, "check dome.toml --against generated");
    assert_eq!(told.code, 1, "{told:?}");
    assert!(told.stdout.contains("generated/dome.h: changed by hand"), "{told:?}");
    assert!(told.stdout.contains("generated/dome.c         as it would be made"), "{told:?}");
    let changed = told.stdout.lines().filter(|line| line.trim_start().starts_with("+#define"));
    assert_eq!(changed.count(), 1, "{told:?}");
}

#[test]
fn sarif_is_valid_and_points_into_the_board_file() {
    let folder = tempdir().unwrap();
    fs::write(folder.path().join("dome.toml"), clashing()).unwrap();
    fs::write(folder.path().join("bad one.toml"), "schema = 2").unwrap();
    let told = run_words(["check", "dome.toml", "bad one.toml", "--format", "sarif"], folder.path(), &[]);
    let log: Value = serde_json::from_str(&told.stdout).unwrap();
    let schema = jsonschema::validator_for(&serde_json::from_str(SARIF).unwrap()).unwrap();
    let wrong: Vec<String> = schema.iter_errors(&log).map(|error| error.to_string()).collect();
    assert!(wrong.is_empty(), "{wrong:?}");
    // That it can find something wrong.
    assert!(!schema.is_valid(&json!({ "version": "2.1.0", "runs": [{ "results": [] }] })));
    let results = log["runs"][0]["results"].as_array().unwrap();
    let rules = log["runs"][0]["tool"]["driver"]["rules"].as_array().unwrap();
    for result in results {
        assert!(rules.iter().any(|rule| rule["id"] == result["ruleId"]), "{result}");
    }
    let placed = results.iter().find(|result| result["ruleId"] == "signals-not-placed").unwrap();
    let region = |location: &Value| location["physicalLocation"]["region"]["startLine"].as_u64().unwrap();
    let lines: Vec<&str> =
        fs::read_to_string(folder.path().join("dome.toml")).unwrap().leak().lines().collect();
    assert_eq!(lines[region(&placed["locations"][0]) as usize - 1], "on = \"tim3/1\"");
    assert_eq!(lines[region(&placed["relatedLocations"][0]) as usize - 1], "on = \"tim3/1\"");
    let uri = &results.last().unwrap()["locations"][0]["physicalLocation"]["artifactLocation"]["uri"];
    assert_eq!(uri, "bad%20one.toml");
    let elsewhere = check(folder.path(), "survey --freq 50Hz --format sarif");
    assert_eq!(elsewhere.code, 2, "{elsewhere:?}");
}

#[test]
fn junit_is_read_by_others() {
    let folder = tempdir().unwrap();
    fs::write(folder.path().join("dome.toml"), clashing()).unwrap();
    let told = check(folder.path(), "check dome.toml --format junit");
    let report = junit_parser::from_reader(told.stdout.as_bytes()).unwrap();
    let suite = &report.suites[0];
    assert_eq!((suite.name.as_str(), suite.tests, suite.failures), ("dome.toml", 8, 2));
    let failed: Vec<&str> =
        suite.cases.iter().filter(|case| case.status.is_failure()).map(|case| case.name.as_str()).collect();
    assert_eq!(failed, ["dome.toml::board file", "dome.toml::dew-heater"]);
}

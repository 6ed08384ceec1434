//! Boards: signals in the units of what they drive, and what is required of them.

use std::fs;

use serde_json::json as value;
use tempfile::tempdir;

use crate::run::{Run, json, leading, result_of, run, run_words};

const DOME: &str = concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/dome.toml");

fn signal(name: &str) -> serde_json::Value {
    json(&format!("derive --board {DOME} --signal {name}"))
}

/// Derives a signal of a board that is written here.
fn derived(board: &str, words: &str) -> Run {
    let folder = tempdir().unwrap();
    fs::write(folder.path().join("mine.toml"), board).unwrap();
    run_words(format!("derive --board mine.toml --signal {words}").split(' '), folder.path(), &[])
}

const SERVO: &str = "\
schema = 1
[[load]]
name = \"shutter\"
kind = \"servo\"
span = \"900us..2100us\"
travel = \"0deg..120deg\"
[[signal]]
name = \"shutter\"
load = \"shutter\"
";

#[test]
fn an_angle_becomes_a_pulse_and_a_step_an_angle() {
    let shutter = signal("shutter");
    assert_eq!(shutter["timer"], "stm32f411/tim3");
    // 900 us and 45 times 10 us.
    assert_eq!(leading(&shutter)["outputs"][0]["pulse"]["exact"], "27/20000");
    let load = &shutter["signal"]["driven"];
    assert_eq!((&load["outputs"][0]["exact"], &load["kind"]), (&value!("45"), &value!("servo")));
    // 312.5 ns of 10 us a degree, and 1200 us of them.
    assert_eq!((&load["step"]["exact"], &load["steps"]), (&value!("1/32"), &value!(3840)));
    // 5 us of 10 us a degree.
    assert_eq!(load["dead_band"]["level"]["exact"], "1/2");
    let checks = shutter["signal"]["checks"].as_array().unwrap();
    let met = checks.iter().all(|check| check["outcome"] == "met");
    assert!(met && checks.len() == 4, "{shutter}");
}

#[test]
fn a_speed_controller_wants_to_be_armed() {
    let dome = signal("dome");
    let load = &dome["signal"]["driven"];
    let arming = &load["arming"];
    assert_eq!((&arming["pulse"]["exact"], &arming["hold"]["exact"]), (&value!("3/2000"), &value!("2")));
    // 35 % of the way from 1500 us down to 1000 us.
    assert_eq!(leading(&dome)["outputs"][0]["pulse"]["exact"], "53/40000");
    assert_eq!(load["outputs"][0]["exact"], "-7/20");
}

#[test]
fn a_motor_keeps_below_its_rating() {
    let vent = signal("vent");
    // 60 % of the way from 14 % to 9/24.
    assert_eq!(leading(&vent)["outputs"][0]["duty"]["exact"], "281/1000");
    assert_eq!(vent["signal"]["driven"]["average"]["exact"], "843/125");
    assert!(vent["findings"].as_array().unwrap().is_empty(), "{vent}");
    let board = "schema = 1\npart = \"stm32f411\"\n[[load]]\nname = \"vent\"\nkind = \"motor\"\nsupply = \"24V\"\nrated = \"9V\"\n\
                 start = \"14%\"\nfull = \"100%\"\nwiring = \"two-lines\"\nquiet = \"18kHz\"\n[[signal]]\nname = \"vent\"\non = \"tim1/1\"\n\
                 freq = \"400Hz\"\nload = \"vent\"\n";
    let full = derived(&format!("{board}at = \"100%\"\n"), "vent");
    for finding in ["volts-above-rating", "audible-frequency", "reversal-without-pause"] {
        assert!(full.stdout.contains(finding), "{finding}: {full:?}");
    }
    // The duty that gives 9 V of 24 V.
    assert!(full.code == 1 && full.stdout.contains("at most 37.5 % at this supply"), "{full:?}");
    let humming = derived(&format!("{board}duty = \"10%\"\n"), "vent");
    assert!(humming.stdout.contains("duty-below-start") && humming.stdout.contains("14 %"), "{humming:?}");
}

#[test]
fn too_few_steps_inside_the_span_say_who_has_enough() {
    // 1 MHz / 4 / 16 / 256 = 61 Hz: the fastest clock that a power of two below it gives for 50 Hz is 500 kHz.
    let board = format!(
        "{SERVO}freq = \"50Hz\"\non = \"ccp1\"\nneeds = {{ step = \"0.5deg\", frequency = \"1%\" }}\n"
    );
    let board = board.replacen(
        "schema = 1\n",
        "schema = 1\npart = \"pic18f4550\"\n[clock]\nfrequency = \"800kHz\"\n",
        1,
    );
    let run = derived(&board, "shutter");
    assert_eq!(run.code, 1, "{run:?}");
    // 800 kHz / (4 * 16 * 250): a quarter tick is 20 us, two degrees; 60 of them in 1200 us where 240 are needed.
    let told = run.stdout.split_whitespace().collect::<Vec<_>>().join(" ");
    let missing = "there are 60 steps of 2 deg: 180 too few for steps of 0.5 deg, which take 240";
    assert!(told.contains(missing) && told.contains("makes 2400 steps from 16 MHz"), "{told}");
    assert!(run.stdout.contains("missed by a factor of 4"), "{run:?}");
}

#[test]
fn what_a_load_does_not_tolerate_is_told() {
    let lamp = "schema = 1\npart = \"rp2040\"\n[[load]]\nname = \"lamp\"\nkind = \"lamp\"\nflicker-free = \"400Hz\"\n[[signal]]\nname = \"lamp\"\n\
                freq = \"90Hz\"\nload = \"lamp\"\nat = \"50%\"\n";
    assert!(derived(lamp, "lamp").stdout.contains("visible-flicker"));
    let servo = SERVO.replacen("schema = 1\n", "schema = 1\npart = \"rp2040\"\n", 1).replacen(
        "travel",
        "frame = \"40Hz..60Hz\"\ntravel",
        1,
    );
    let fast = derived(&format!("{servo}freq = \"300Hz\"\nat = \"10deg\"\n"), "shutter");
    assert!(fast.code == 1 && fast.stdout.contains("frame-rate-outside-load"), "{fast:?}");
    let long = derived(&format!("{servo}freq = \"50Hz\"\npulse = \"2200us\"\n"), "shutter");
    assert!(long.code == 1 && long.stdout.contains("pulse-outside-load"), "{long:?}");
}

#[test]
fn a_survey_takes_the_target_of_a_board() {
    let survey = json(&format!("survey --board {DOME} --signal shutter --part stm32* --clock max"));
    let rows = survey["rows"].as_array().unwrap();
    assert!(
        rows.len() > 10 && rows.iter().any(|row| row["timer"].as_str().unwrap().starts_with("stm32h743/")),
        "{survey}"
    );
}

#[test]
fn a_board_says_what_options_would_say() {
    for line in ["--on stm32f411/tim3", "--freq 50Hz", "--clock 8MHz", "--duty 5%", "--pin PB6"] {
        let run = run(&format!("derive --board {DOME} --signal shutter {line}"));
        assert!(run.code == 2 && run.stderr.contains("cannot be used with"), "{line}: {run:?}");
    }
    for (line, says) in [
        (format!("derive --board {DOME} --signal shuter"), "did you mean shutter?"),
        (format!("derive --board {DOME}"), "name one of shutter, dome"),
        ("derive --board nowhere.toml --signal x".to_owned(), "cannot read nowhere.toml"),
    ] {
        let run = run(&line);
        assert!(run.code >= 2 && run.stderr.contains(says), "{line}: {run:?}");
    }
}

#[test]
fn every_problem_of_a_board_is_told_with_its_line() {
    let run = derived("schema = 1\npart = \"rp2041\"\n[[signal]]\nname = \"x\"\nfrq = \"1kHz\"\n", "x");
    assert_eq!((run.code, run.stdout.as_str()), (2, ""));
    for text in ["mine.toml:2:8: at part:", "mine.toml:5:7: at signal[0].frq:", "missing `freq` or `period`"]
    {
        assert!(run.stderr.contains(text), "{text}: {run:?}");
    }
}

#[test]
fn the_tour_saves_its_files_once() {
    let folder = tempdir().unwrap();
    let run = |line: &str| run_words(line.split(' '), folder.path(), &[]);
    let told = "saved    here/dome.toml\nsaved    here/night.vcd\nsaved    here/fan.vcd\nsaved    here/software.csv\nsaved    here/timer.txt\nsaved    here/generated/dome.h\nsaved    here/generated/dome.c\nsaved    here/generated/dome_opens.h\nsaved    here/generated/dome_opens.c\n";
    assert_eq!(run("demo --save here").stdout, told);
    assert_eq!(fs::read(folder.path().join("here/dome.toml")).unwrap(), fs::read(DOME).unwrap());
    assert_eq!(run("derive --board here/dome.toml --signal dew-heater").code, 0);
    let again = run("demo --save here");
    assert!(again.code == 3 && again.stderr.contains("cannot save here/dome.toml"), "{again:?}");
}

/// The findings of the one signal of a board with one load, besides what the catalogue is unsure of.
fn findings_of(load: &str, signal: &str) -> Vec<String> {
    let board = format!(
        "schema = 1\npart = \"stm32f411\"\n[clock]\nfrequency = \"96MHz\"\n[[load]]\nname = \"one\"\n{load}\n\
         [[signal]]\nname = \"one\"\non = \"tim3/1\"\nload = \"one\"\n{signal}\n"
    );
    let run = derived(&board, "one --format json");
    let result: serde_json::Value = result_of(&run.stdout);
    let names =
        result["findings"].as_array().unwrap().iter().map(|one| one["name"].as_str().unwrap().to_owned());
    names.filter(|name| name != "catalogue-unsure").collect()
}

#[test]
fn what_a_load_allows_it_allows_to_the_last() {
    let lamp = "kind = \"lamp\"\nflicker-free = \"400Hz\"";
    let fan = "kind = \"fan\"\nlowest = \"20%\"\nslowest = \"15%\"";
    let motor = "kind = \"motor\"\nsupply = \"9V\"\nrated = \"9V\"\nstart = \"14%\"\nwiring = \"one-switch\"\nquiet = \"18kHz\"";
    let servo =
        "kind = \"servo\"\nspan = \"900us..2100us\"\ntravel = \"0deg..120deg\"\nframe = \"40Hz..60Hz\"";
    for (load, signal, expected) in [
        (lamp, "freq = \"400Hz\"\nduty = \"50%\"", None),
        (lamp, "freq = \"399Hz\"\nduty = \"50%\"", Some("visible-flicker")),
        (fan, "freq = \"25kHz\"\nduty = \"20%\"", None),
        (fan, "freq = \"25kHz\"\nduty = \"19%\"", Some("duty-below-start")),
        // A fan that is to stand may have less than what starts it.
        (fan, "freq = \"25kHz\"\nduty = \"0%\"", None),
        (motor, "freq = \"18kHz\"\nduty = \"50%\"", None),
        (motor, "freq = \"17.9kHz\"\nduty = \"50%\"", Some("audible-frequency")),
        (motor, "freq = \"18kHz\"\nduty = \"14%\"", None),
        (motor, "freq = \"18kHz\"\nduty = \"13%\"", Some("duty-below-start")),
        (servo, "freq = \"50Hz\"\npulse = \"2100us\"", None),
        (servo, "freq = \"50Hz\"\npulse = \"2110us\"", Some("pulse-outside-load")),
        (servo, "freq = \"50Hz\"\npulse = \"900us\"", None),
        (servo, "freq = \"50Hz\"\npulse = \"890us\"", Some("pulse-outside-load")),
        (servo, "freq = \"60Hz\"\npulse = \"1500us\"", None),
        (servo, "freq = \"61Hz\"\npulse = \"1500us\"", Some("frame-rate-outside-load")),
        (servo, "freq = \"40Hz\"\npulse = \"1500us\"", None),
        (servo, "freq = \"39Hz\"\npulse = \"1500us\"", Some("frame-rate-outside-load")),
    ] {
        let found = findings_of(load, signal);
        assert_eq!(found.first().map(String::as_str), expected, "{load} {signal}: {found:?}");
    }
}

/// The board file that the lines for a clock setting make is one whose signals have just those clocks.
#[test]
fn a_clock_for_the_whole_board_is_what_its_lines_say() {
    let folder = tempdir().unwrap();
    let signals = [("high", "tim1", "44.1kHz"), ("low", "tim2", "48kHz"), ("slow", "tim3", "50Hz")];
    let signals = signals.map(|(name, timer, frequency)| {
        format!("[[signal]]\nname = \"{name}\"\non = \"{timer}/1\"\nfreq = \"{frequency}\"\nduty = \"25%\"\n")
    });
    // The second part's answer is by registers: a timer's clock passes the system clock by.
    for (part, source) in [("stm32f411", "12MHz"), ("stm32g071", "8MHz")] {
        let written = |clock: &str| {
            let head = format!("schema = 1\npart = \"{part}\"\n[clock]\nsource = \"{source}\"\n{clock}\n");
            fs::write(folder.path().join("mine.toml"), head + &signals.concat()).unwrap();
        };
        let run = |line: &str| run_words(line.split(' '), folder.path(), &[]);
        written("");
        let found = run(&format!("clock --board mine.toml --source {source} --format json"));
        let found = &result_of(&found.stdout);
        let lines = found["board_lines"][0].as_array().unwrap().iter().filter_map(|line| line.as_str());
        written(&lines.collect::<Vec<_>>().join("\n"));
        for signal in found["settings"][0]["signals"].as_array().unwrap() {
            let name = signal["name"].as_str().unwrap();
            let made = run(&format!("derive --board mine.toml --signal {name} --format json"));
            let made = result_of(&made.stdout);
            assert_eq!(made["clock"]["nominal"], signal["clock"], "{part} {name}");
            assert_eq!(leading(&made)["frequency"], signal["setting"]["frequency"]);
        }
    }
}

#[test]
fn a_board_of_a_stepper_alone_is_checked_and_says_what_it_has_not() {
    let folder = tempdir().unwrap();
    let stepper = "kind = \"stepper\"\nsteps-per-turn = 200\ndrive = \"four-wire\"\nmode = \"half\"\nfastest = \"800steps/s\"\nacceleration = \"2000steps/s2\"\n";
    let signal = "name = \"slit\"\non = \"tim10\"\nload = \"slit\"\nlines = [\"PB12\", \"PB13\", \"PB14\", \"PB15\"]\n";
    let board =
        format!("schema = 1\npart = \"stm32f411\"\n[[load]]\nname = \"slit\"\n{stepper}[[signal]]\n{signal}");
    fs::write(folder.path().join("slit.toml"), &board).unwrap();
    let told = |line: &str| run_words(line.split(' '), folder.path(), &[]);
    // A turn of 400 half steps: 0.4 s and 160 steps up, the same down, and 80 steps at 800 steps/s between.
    let checked = told("check slit.toml");
    let row = checked.stdout.split_whitespace().collect::<Vec<_>>().join(" ");
    assert!(checked.code == 0 && row.contains("slit tim10 400 900 ms"), "{checked:?}");
    let wave = told("wave --board slit.toml");
    assert!(wave.code == 2 && wave.stderr.contains("steppers only"), "{wave:?}");
    // What is wrong with a signal behind it is told at that signal's line.
    let lamp = "[[signal]]\nname = \"lamp\"\nfreq = \"1kHz\"\nduty = \"30%\"\nneeds = { steps = 99999999 }\n";
    fs::write(folder.path().join("slit.toml"), board.clone() + lamp).unwrap();
    let line = board.lines().count() + 5;
    let missed = told("check slit.toml");
    assert!(missed.code == 1 && missed.stdout.contains(&format!("slit.toml:{line}:")), "{missed:?}");
}

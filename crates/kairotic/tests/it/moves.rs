//! `move`: steps, ramps and their time.

use std::fs;
use std::path::Path;

use serde_json::json as value;
use tempfile::tempdir;

use crate::run::{json, run, run_words};

const DOME: &str = concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/dome.toml");
const FROM_REST: &str = "move --tick 1us --fastest 2000steps/s --acceleration 1000steps/s2";

#[test]
fn the_first_intervals_from_rest_are_those_of_roots() {
    // sqrt(2 n / 1000) s: 44721.36, 63245.55, 77459.67 us, rounded, and then their differences.
    let rows = run(&format!("{FROM_REST} --steps 400 --format csv")).stdout;
    let rows: Vec<Vec<&str>> = rows.lines().map(|line| line.split(',').collect()).collect();
    assert_eq!(rows[0], ["step", "tick", "interval_ticks", "time_s", "off_ticks"]);
    let intervals: Vec<&str> = rows[1..4].iter().map(|row| row[2]).collect();
    assert_eq!((rows.len(), intervals), (401, vec!["44721", "18525", "14214"]));
    let made = json(&format!("{FROM_REST} --steps 400"));
    assert_eq!((&made["intervals"][2], &made["ramp"]["shape"]), (&value!(14_214), &value!("triangle")));
}

#[test]
fn half_steps_through_a_gear_of_64_are_25_600_a_turn() {
    let line = "move --tick 1us --phases half --gear 64 --fastest 9000steps/s --acceleration 9000steps/s2";
    let made = json(&format!("{line} --to 360deg"));
    assert_eq!(
        (&made["travel"]["steps"], &made["travel"]["left_steps"]["exact"]),
        (&value!(25_600), &value!("0"))
    );
}

#[test]
fn what_is_left_over_is_dropped_or_carried() {
    // 75 degrees are 200 * 25792/405 * 75/360 = 2653.498 steps; 2653 are made, and 1000 times 0.498 steps of 360/12736.79
    // degrees are dropped.
    let line = format!("{FROM_REST} --gear 25792/405 --by 75deg --moves 1000");
    let made = json(&line);
    let again = &made["travel"]["repeated"];
    let dropped = again["dropped"]["approx"].as_f64().unwrap();
    let rest = 200.0 * 25_792.0 / 405.0 * 75.0 / 360.0 - 2653.0;
    assert!((dropped - 1000.0 * rest * 360.0 * 405.0 / 200.0 / 25_792.0).abs() < 1e-9, "{again}");
    let half_a_step = 180.0 * 405.0 / 200.0 / 25_792.0;
    assert!(again["carried"]["approx"].as_f64().unwrap().abs() <= half_a_step, "{again}");
}

#[test]
fn a_move_in_a_time_goes_as_slowly_as_that_allows() {
    // 0.5 s up to 500 steps/s at 1000 steps/s2 are 125 steps, and 750 more take 1.5 s: 1000 steps in 2.5 s.
    let made = json(&format!("{FROM_REST} --steps 1000 --in 2500ms"));
    let rate = made["rates"]["fastest"]["approx"].as_f64().unwrap();
    assert!((500.0..500.001).contains(&rate), "{rate}");
    assert!(made["time"]["approx"].as_f64().unwrap() <= 2.5);
    let late = run(&format!("{FROM_REST} --steps 1000 --in 1s"));
    assert!(late.code == 1 && late.stdout.contains("move-too-slow (error)"), "{late:?}");
}

#[test]
fn a_rate_is_one_of_steps_or_of_what_is_turned() {
    // 30 deg/s of a gear of 64 and 200 steps: 30/360 * 12800 = 1066.67 steps/s; so are 5 rpm.
    for rate in ["30deg/s", "5rpm", "3200/3steps/s"] {
        let made = json(&format!("{FROM_REST} --gear 64 --to 90deg --rate {rate}"));
        assert_eq!(made["rates"]["fastest"]["exact"], "3200/3", "{rate}");
    }
}

#[test]
fn a_board_s_stepper_has_its_timer_and_its_clock() {
    let made = json(&format!("move --board {DOME} --signal slit --from 10deg --to 85deg"));
    assert_eq!(
        (&made["name"], &made["counter"]["timer"], &made["counter"]["clock"]["nominal"]["approx"]),
        (&value!("slit"), &value!("stm32f411/tim10"), &value!(96e6))
    );
    // 1600 steps a turn through 32/11 * 26/9: 13446.46; 85 degrees are step 3175, 10 degrees step 374.
    assert_eq!(made["travel"]["steps"], 3175 - 374);
    let back = json(&format!("move --board {DOME} --signal slit --from 85deg --to 10deg"));
    assert_eq!(back["travel"]["steps"], 374 - 3175);
}

#[test]
fn every_step_is_saved_and_drawn_whole_or_not_at_all() {
    let folder = tempdir().unwrap();
    let line = format!("{FROM_REST} --steps 30000 --save steps.csv --plot steps.svg");
    let ran = run_words(line.split(' '), folder.path(), &[]);
    assert_eq!(ran.code, 0, "{ran:?}");
    let saved = fs::read_to_string(folder.path().join("steps.csv")).unwrap();
    assert_eq!(
        (saved.lines().count(), saved.lines().nth(1)),
        (30_001, Some("1,44721,44721,0.044721,-0.3594"))
    );
    assert!(fs::read_to_string(folder.path().join("steps.svg")).unwrap().contains("30000 steps"));
    let again = run_words(line.split(' '), folder.path(), &[]);
    assert!(again.code == 2 && again.stderr.contains("--force"), "{again:?}");
    // More steps than a table shows are for a file.
    let many = run(&format!("{FROM_REST} --steps 200000 --format csv"));
    assert!(many.code == 2 && many.stderr.contains("--save"), "{many:?}");
}

#[test]
fn code_of_a_board_s_move_has_its_name() {
    let code = |line: &str| run_words(line.split(' '), Path::new("."), &[]).stdout;
    let c = code(&format!("move --board {DOME} --signal slit --to 85deg --code c"));
    assert!(c.contains("uint32_t slit_next(void);") && c.contains("3175 steps"), "{c}");
    let rust = code(&format!("{FROM_REST} --steps 40 --code rust --name opens"));
    assert!(rust.contains("pub struct Opens") && rust.contains("impl Iterator for Opens"), "{rust}");
}

#[test]
fn sixty_degrees_at_140_rpm_in_whole_milliseconds() {
    // 840 degrees a second: 71.4286 ms, and 71 ms turn 59.64 degrees; half a tick is 0.42 degrees.
    let line = "move --tick 1ms --speed 140rpm --by 60deg --need 5deg --moves 100";
    let text = run(line).stdout.split_whitespace().collect::<Vec<_>>().join(" ");
    for said in [
        "run 71 ticks, 71 ms",
        "ideal 71.4286 ms",
        "rounding to a tick -0.36 deg the same each time",
        "dropped 36 deg after 100 moves 5 deg from move 14 on",
        "carried 0.42 deg after 100 moves never more than 5 deg",
    ] {
        assert!(text.contains(said), "`{said}` is not in: {text}");
    }
    // 1 % of 60 degrees adds up to five with the ninth move, half a tick besides with the eighth: 0.42 + 8 * 0.6.
    let late = run(&format!("{line} --clock-error 1%"));
    assert!(late.code == 1 && late.stdout.contains("from move 8 of 100 on"), "{late:?}");
    let table = run(&format!("{line} --format csv")).stdout;
    assert_eq!(table, "contribution,each_deg,kind\nrounding to a tick,-0.36,the same each time\n");
}

#[test]
fn a_servo_arrives_when_its_slew_or_the_rate_lets_it() {
    // 75 degrees at 60 degrees in 240 ms are 300 ms, and a value waits for a frame of 20 ms.
    let line = format!("move --board {DOME} --signal shutter --to 120deg");
    let at_once = json(&line);
    assert_eq!(
        (&at_once["turns"]["exact"], &at_once["arrives"]["exact"]),
        (&value!("3/10"), &value!("8/25"))
    );
    assert_eq!((&at_once["compare"], &at_once["pulse"]["exact"]), (&value!(6720), &value!("21/10000")));
    // At 60 degrees a second the way takes 1.25 s, which are 62.5 frames.
    let slow = json(&format!("{line} --rate 60deg/s"));
    assert_eq!((&slow["over"]["exact"], &slow["arrives"]["exact"]), (&value!("5/4"), &value!("127/100")));
    let holds = slow["plan"]["tracks"][0]["holds"].as_array().unwrap().len();
    assert!((62..=63).contains(&holds), "{holds}");
    // A slew that is slower than the rate is told.
    let fast = run(&format!("{line} --rate 600deg/s"));
    assert!(fast.stdout.contains("faster-than-slew (warning)"), "{fast:?}");
}

#[test]
fn four_wires_are_shown_with_the_words_of_their_port() {
    let folder = tempdir().unwrap();
    let board = "schema = 1\npart = \"stm32f411\"\n[[load]]\nname = \"slit\"\nkind = \"stepper\"\nsteps-per-turn = 200\ndrive = \"four-wire\"\nmode = \"full\"\nfastest = \"900steps/s\"\nacceleration = \"900steps/s2\"\n[[signal]]\nname = \"slit\"\non = \"tim10\"\nlines = [\"PB12\", \"PB13\", \"PB14\", \"PB15\"]\nload = \"slit\"\n";
    fs::write(folder.path().join("slit.toml"), board).unwrap();
    let line = "move --board slit.toml --signal slit --to 90deg --from 0deg";
    let text = run_words(line.split(' '), folder.path(), &[]).stdout;
    // Both of two lines that follow one another: PB12 and PB13, then PB13 and PB14.
    assert!(text.contains("1100       PB 0x3000   PB 0xc000"), "{text}");
    assert!(text.contains("0110       PB 0x6000   PB 0x9000"), "{text}");
    let code = run_words(format!("{line} --code c").split(' '), folder.path(), &[]).stdout;
    assert!(
        code.contains("uint8_t slit_phase(int32_t position);") && code.contains("3, 6, 12, 9,"),
        "{code}"
    );
}

/// A board whose stepper has two windings, each driven by a signal that counts to 1000.
const WINDINGS: &str = r#"
schema = 1
part = "stm32f411"
[clock]
sysclk = "20MHz"
[[load]]
name = "slit"
kind = "stepper"
steps-per-turn = 200
drive = "two-windings"
microsteps = 8
fastest = "900steps/s"
acceleration = "900steps/s2"
[[signal]]
name = "slit"
on = "tim10"
windings = ["first", "second"]
load = "slit"
[[signal]]
name = "first"
on = "tim3/1"
freq = "20kHz"
[[signal]]
name = "second"
on = "tim3/2"
freq = "20kHz"
duty = "50%"
"#;

#[test]
fn two_windings_have_the_compare_values_of_their_signals() {
    let folder = tempdir().unwrap();
    let board = |text: &str| fs::write(folder.path().join("slit.toml"), text).unwrap();
    let move_line = "move --board slit.toml --signal slit --to 90deg";
    let run = |line: &str| run_words(line.split(' '), folder.path(), &[]);
    board(WINDINGS);
    let shown: serde_json::Value =
        serde_json::from_str(&run(&format!("{move_line} --format json")).stdout).unwrap();
    let tables = &shown["result"]["microsteps"];
    // 1000 cos 11.25 deg is 980.79; half of the period is 500, and 500 sin 11.25 deg is 97.55.
    assert_eq!((&tables["first"][1], &tables["second"][1]), (&value!(981), &value!(98)));
    assert_eq!((&tables["first"][16], &tables["second"][24]), (&value!(-1000), &value!(-500)));
    let code = run(&format!("{move_line} --code c")).stdout;
    assert!(
        code.contains("int16_t slit_second(int32_t position)") && code.contains("slit_seconds[32]"),
        "{code}"
    );
    // What is told of its lines, and of names that fit nothing.
    let played = run("wave --board slit.toml --signal slit --move 0deg..9deg --save slit.vcd");
    assert_eq!(played.code, 2, "{played:?}");
    assert!(played.stderr.contains("levels of its two windings"), "{played:?}");
    let wrong = [
        ("\"second\"]", "\"secnod\"]", "did you mean second"),
        ("\"second\"]", "\"first\"]", "both windings are one signal"),
        ("\"first\", \"second\"", "\"first\"", "expected two signals in `windings`, found 1"),
        ("microsteps = 8", "microsteps = 8\nstep-pulse = \"2us\"", "is for `drive = \"step-direction\"`"),
    ];
    for (from, to, told) in wrong {
        board(&WINDINGS.replacen(from, to, 1));
        let refused = run("check slit.toml");
        assert!(refused.code == 2 && refused.stdout.contains(told), "{refused:?}");
    }
}

#[test]
fn microsteps_that_no_count_tells_apart_are_found() {
    let line = "move --tick 1us --fastest 900steps/s --acceleration 900steps/s2 --steps 40 --windings 30 --microsteps 64";
    let text = run(line).stdout;
    assert!(text.contains("microsteps-alike (warning)"), "{text}");
    let fine = run(&line.replace("--windings 30", "--windings 1000")).stdout;
    assert!(!fine.contains("microsteps-alike"), "{fine}");
}

#[test]
fn a_direction_that_stands_too_late_is_found() {
    let board = fs::read_to_string(DOME).unwrap();
    let folder = tempdir().unwrap();
    // The first step comes after some 4.5 ms.
    fs::write(folder.path().join("dome.toml"), board.replace("\"5us\"\nstart", "\"5ms\"\nstart")).unwrap();
    let line = "move --board dome.toml --signal slit --to 85deg";
    let text = run_words(line.split(' '), folder.path(), &[]).stdout;
    assert!(
        text.contains("direction-too-late (warning)") && text.contains("set the direction 5 ms before"),
        "{text}"
    );
}

#[test]
fn a_motor_of_a_board_is_timed_at_its_level() {
    // 140 rpm are 840 degrees a second: 60 degrees take 71.43 ms, and at 60 % of that 119.05 ms.
    let line = format!("move --tick 1ms --board {DOME} --signal vent --by 60deg");
    let full = json(&format!("{line} --level 100%"));
    assert_eq!((&full["ticks"], &full["ideal"]["exact"]), (&value!(71), &value!("1/14")));
    let asked = json(&line);
    assert_eq!((&asked["ticks"], &asked["ideal"]["exact"]), (&value!(119), &value!("5/42")));
    // Its 30 ms until it turns so fast take half of them.
    let lost = asked["contributions"].as_array().unwrap();
    assert!(lost.iter().any(|one| one["source"] == "spin_up"), "{asked}");
}

#[test]
fn what_was_seen_of_a_motor_is_its_full_speed() {
    let line = format!("scale --observed 20%=30rpm,40%=140rpm --board {DOME} --signal vent");
    let found = run(&line);
    assert!(found.stdout.contains("full-speed = \"140rpm\""), "{found:?}");
}

//! `wave --sequence` and `--move`, and `measure` of what they play.

use std::fmt::Write as _;
use std::fs;
use std::path::Path;

use serde_json::{Value, json as value};
use tempfile::{TempDir, tempdir};

use crate::run::{Run, result_of, run_words};

const DOME: &str = include_str!("../../../../demo/dome.toml");

/// A board on four wires.
const WIRED: &str = r#"
schema = 1
part = "stm32f411"
[[load]]
name = "slit"
kind = "stepper"
steps-per-turn = 200
drive = "four-wire"
mode = "half"
start = "100steps/s"
fastest = "900steps/s"
acceleration = "900steps/s2"
[[signal]]
name = "slit"
on = "tim10"
lines = ["PB12", "PB13", "PB14", "PB15"]
load = "slit"
"#;

/// A folder with the demo's board, and one that is changed.
fn boards(changes: &[(&str, &str)]) -> TempDir {
    let folder = tempdir().unwrap();
    fs::write(folder.path().join("dome.toml"), DOME).unwrap();
    let mut other = DOME.to_owned();
    for (from, to) in changes {
        assert!(other.contains(from), "{from}");
        other = other.replacen(from, to, 1);
    }
    fs::write(folder.path().join("other.toml"), other).unwrap();
    folder
}

fn ran(folder: &Path, line: &str) -> Run {
    run_words(line.split(' '), folder, &[])
}

/// What `measure` says of each pin, and how it ends.
fn measured(folder: &Path, line: &str) -> (Value, i32) {
    let found = ran(folder, &format!("measure {line} --format json"));
    assert!(found.stderr.is_empty(), "{found:?}");
    (result_of(&found.stdout), found.code)
}

fn pin<'r>(result: &'r Value, name: &str) -> &'r Value {
    result["pins"].as_array().unwrap().iter().find(|pin| pin["name"] == name).unwrap_or(&Value::Null)
}

#[test]
fn a_sequence_is_what_it_plays() {
    let folder = boards(&[]);
    let played = ran(folder.path(), "wave --board dome.toml --sequence opens --save opens.vcd");
    assert_eq!(played.code, 0, "{played:?}");
    let (result, code) = measured(folder.path(), "opens.vcd --board dome.toml --sequence opens");
    assert_eq!(code, 0, "{result}");
    let names: Vec<&Value> = result["pins"].as_array().unwrap().iter().map(|pin| &pin["name"]).collect();
    assert_eq!(names, ["dome", "shutter", "vent", "slit"]);
    for pin in result["pins"].as_array().unwrap() {
        assert_eq!(
            (&pin["verdict"], &pin["missing"], &pin["extra"]),
            (&value!("met"), &value!(0), &value!(0)),
            "{pin}"
        );
    }
    // 85 degrees of 200 * 8 * 32/11 * 26/9 steps in a turn are 3174.86.
    assert_eq!(
        (&pin(&result, "slit")["position"], &pin(&result, "slit")["seen"]),
        (&value!(3175), &value!(3175))
    );
    // 15 s of 50 Hz; the one that is under way when the capture begins has no beginning.
    assert_eq!(pin(&result, "shutter")["seen"], value!(749));
}

#[test]
fn a_sequence_of_a_slow_clock_is_followed() {
    let folder = boards(&[]);
    ran(folder.path(), "wave --board dome.toml --sequence opens --clock-error -0.8% --save opens.vcd");
    let (result, code) = measured(folder.path(), "opens.vcd --board dome.toml --sequence opens");
    assert_eq!(code, 0, "{result}");
    for name in ["shutter", "vent", "slit"] {
        let clock = pin(&result, name)["clock"]["approx"].as_f64().unwrap();
        assert!((clock + 0.008).abs() < 1e-6, "{name}: {clock}");
    }
}

#[test]
fn a_capture_that_began_before_is_lined_up() {
    let folder = boards(&[]);
    ran(folder.path(), "wave --board dome.toml --sequence opens --save opens.csv");
    // Ten periods of the shutter's first pulse, and then the sequence.
    let text = fs::read_to_string(folder.path().join("opens.csv")).unwrap();
    let mut lines = text.lines();
    let head = lines.next().unwrap();
    let place = head.split(',').position(|name| name.trim() == "shutter").unwrap();
    let mut moved = format!("{}\n", ["time", "shutter"].join(","));
    let mut level = String::from("0");
    moved.push_str("0,0\n");
    for n in 0..10 {
        write!(moved, "{:.9},1\n{:.9},0\n", 0.01 + f64::from(n) * 0.02, 0.0109 + f64::from(n) * 0.02)
            .unwrap();
    }
    for line in lines {
        let cells: Vec<&str> = line.split(',').collect();
        let at: f64 = cells[0].parse().unwrap();
        if cells[place] != level {
            level = cells[place].to_owned();
            writeln!(moved, "{:.9},{level}", at + 0.21).unwrap();
        }
    }
    fs::write(folder.path().join("moved.csv"), moved).unwrap();
    let (result, code) = measured(folder.path(), "moved.csv --board dome.toml --sequence opens");
    let shutter = pin(&result, "shutter");
    assert_eq!((code, &shutter["verdict"], &shutter["seen"]), (0, &value!("met"), &value!(750)), "{shutter}");
}

#[test]
fn a_level_that_is_another_is_seen() {
    let folder = boards(&[("to = \"120deg\"", "to = \"119deg\"")]);
    ran(folder.path(), "wave --board other.toml --sequence opens --save opens.vcd");
    let (result, code) = measured(folder.path(), "opens.vcd --board dome.toml --sequence opens");
    let shutter = pin(&result, "shutter");
    assert_eq!(
        (code, &shutter["verdict"], &pin(&result, "vent")["verdict"]),
        (1, &value!("missed"), &value!("met"))
    );
    // From the first pulses that are half a step shorter on, to the end.
    assert!(shutter["wrong"].as_u64().unwrap() > 500, "{shutter}");
}

#[test]
fn a_level_that_stays_too_long_is_seen() {
    let folder = boards(&[(
        "at = \"14s\", to = \"0%\", over = \"1s\"",
        "at = \"14s\", to = \"0%\", over = \"990ms\"",
    )]);
    ran(folder.path(), "wave --board other.toml --sequence opens --save opens.vcd");
    let (result, code) = measured(folder.path(), "opens.vcd --board dome.toml --sequence opens");
    assert_eq!((code, &pin(&result, "vent")["verdict"]), (1, &value!("missed")), "{}", pin(&result, "vent"));
}

#[test]
fn steps_that_are_lost_and_doubled_are_counted() {
    let folder = boards(&[]);
    let line = "wave --board dome.toml --signal slit --move 85deg..0deg --missing 90,200 --doubled 3000 --save slit.vcd";
    assert_eq!(ran(folder.path(), line).code, 0);
    let (result, code) =
        measured(folder.path(), "slit.vcd --board dome.toml --signal slit --move 85deg..0deg");
    let slit = pin(&result, "slit");
    let counts = ["planned", "seen", "missing", "extra"].map(|key| slit[key].as_u64().unwrap());
    assert_eq!((code, counts), (1, [3175, 3173, 2, 1]));
    // Two less and one more, towards smaller angles.
    assert_eq!(slit["position"], value!(-3174));
}

#[test]
fn a_clock_that_is_off_is_no_fault_of_the_steps() {
    let folder = boards(&[]);
    let line = "wave --board dome.toml --signal slit --move 0deg..85deg --clock-error -0.8% --save slit.vcd";
    ran(folder.path(), line);
    let (result, code) =
        measured(folder.path(), "slit.vcd --board dome.toml --signal slit --move 0deg..85deg");
    let slit = pin(&result, "slit");
    assert_eq!((code, &slit["verdict"]), (0, &value!("met")), "{slit}");
    let clock = slit["clock"]["approx"].as_f64().unwrap_or_else(|| slit["clock"].as_f64().unwrap());
    assert!((clock + 0.008).abs() < 1e-6, "{slit}");
    // Edges that jitter by more than a tick of 72.9 ns are seen.
    ran(folder.path(), &format!("{} --jitter 200ns --force", line.replace(" --clock-error -0.8%", "")));
    let (result, code) =
        measured(folder.path(), "slit.vcd --board dome.toml --signal slit --move 0deg..85deg");
    assert_eq!((code, &pin(&result, "slit")["missing"]), (1, &value!(0)));
}

#[test]
fn a_direction_that_is_wrong_is_seen() {
    let folder = boards(&[]);
    ran(folder.path(), "wave --board dome.toml --signal slit --move 0deg..85deg --save slit.vcd");
    let line = "slit.vcd --board dome.toml --signal slit --move 85deg..0deg";
    let (result, code) = measured(folder.path(), line);
    assert_eq!((code, &pin(&result, "slit")["misdirected"]), (1, &value!(3175)));
}

#[test]
fn a_direction_that_changes_too_late_is_seen() {
    let there = "{ signal = \"slit\", at = \"5s\", to = \"85deg\" },";
    let back = format!("{there}\n    {{ signal = \"slit\", to = \"0deg\" }},");
    let folder = boards(&[(there, &back), ("direction-setup = \"5us\"", "direction-setup = \"20ms\"")]);
    ran(folder.path(), "wave --board other.toml --sequence opens --save opens.vcd");
    // The board's driver wants 20 ms, and the first step back comes 4.5 ms after the direction.
    let (result, code) = measured(folder.path(), "opens.vcd --board other.toml --sequence opens");
    let slit = pin(&result, "slit");
    // Steps of the ramp from 200 steps/s with 10000 steps/s2 in 20 ms: 200 t + 5000 t^2 = 6.
    assert_eq!((code, &slit["misdirected"], &slit["position"]), (1, &value!(5), &value!(0)), "{slit}");
}

#[test]
fn four_wires_are_followed_one_by_one() {
    let folder = tempdir().unwrap();
    fs::write(folder.path().join("wired.toml"), WIRED).unwrap();
    let line = "wave --board wired.toml --signal slit --move 0deg..90deg --save slit.csv";
    assert_eq!(ran(folder.path(), line).code, 0);
    let plan = "slit.csv --board wired.toml --signal slit --move 0deg..90deg";
    let (result, code) = measured(folder.path(), plan);
    assert_eq!((code, result["pins"].as_array().unwrap().len()), (0, 4), "{result}");
    // Half steps of a quarter of a turn are 100; each wire is on for three of eight.
    let seen: u64 = ["slit_1", "slit_2", "slit_3", "slit_4"]
        .map(|name| pin(&result, name)["seen"].as_u64().unwrap())
        .iter()
        .sum();
    assert!((45..=50).contains(&seen), "{result}");
    // Two wires of the capture changed about.
    let mapped = format!("{plan} --map slit_2=slit_3,slit_3=slit_2");
    assert_eq!(measured(folder.path(), &mapped).1, 1);
}

#[test]
fn a_capture_that_is_too_short_cannot_tell() {
    let folder = boards(&[]);
    ran(folder.path(), "wave --board dome.toml --sequence opens --for 9s --save opens.vcd");
    let (result, code) = measured(folder.path(), "opens.vcd --board dome.toml --sequence opens");
    assert_eq!((code, &pin(&result, "vent")["verdict"]), (0, &value!("cannot_tell")));
}

#[test]
fn a_table_of_samples_is_followed() {
    let folder = boards(&[]);
    // Steps at 1 MHz, each sample a row, from the table of the move.
    let rows = ran(folder.path(), "move --board dome.toml --signal slit --to 1deg --format csv").stdout;
    let mut text = "time,slit,slit_direction\n0,0,1\n".to_owned();
    for row in rows.lines().skip(1) {
        let at: f64 = row.split(',').nth(3).unwrap().parse().unwrap();
        write!(text, "{at:.9},1,1\n{:.9},0,1\n", at + 3e-6).unwrap();
    }
    fs::write(folder.path().join("steps.csv"), text).unwrap();
    let (result, code) =
        measured(folder.path(), "steps.csv --board dome.toml --signal slit --move 0deg..1deg");
    // 1 degree is 37.35 steps.
    assert_eq!((code, &pin(&result, "slit")["position"]), (0, &value!(37)), "{result}");
}

//! `wave` and `measure`: what was put into a capture is found in it again.

use std::fs;
use std::path::Path;

use serde_json::{Value, json as value};
use tempfile::tempdir;

use crate::run::{Run, result_of, run_words};

const DOME: &str = concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/dome.toml");

fn at(folder: &Path, line: &str) -> Run {
    let run = run_words(line.split(' '), folder, &[]);
    assert!(run.code == 0 || line.starts_with("measure"), "{line}: {run:?}");
    run
}

fn json_at(folder: &Path, line: &str) -> (i32, Value) {
    let run = at(folder, &format!("{line} --format json"));
    (run.code, result_of(&run.stdout))
}

/// Where the dome's timers are, and what the signals of one of them are called.
const ON: &str = "--on stm32f411/tim3/1 --clock 96MHz+-30ppm";

/// What is measured of a wave of one frequency against a plan of another.
fn against(made: &str, planned: &str) -> (i32, Value) {
    let folder = tempdir().unwrap();
    at(folder.path(), &format!("wave {ON} {made} --periods 400 --time-resolution 1ns --save pin.vcd"));
    let (code, found) = json_at(folder.path(), &format!("measure pin.vcd {ON} {planned}"));
    (code, found["signals"][0]["plan"].clone())
}

fn names(plan: &Value) -> Vec<&str> {
    plan["findings"].as_array().unwrap().iter().map(|finding| finding["name"].as_str().unwrap()).collect()
}

#[test]
fn a_pin_as_planned_passes() {
    let plan = "--freq 20kHz --duty 25%";
    let (code, found) =
        against(plan, &format!("{plan} --need frequency=10ppm --need pulse=5ns --need jitter=10ns"));
    assert_eq!((code, &found["cause"], names(&found)), (0, &value!("as_planned"), vec!["below-the-floor"]));
    let answers: Vec<&Value> =
        found["checks"].as_array().unwrap().iter().map(|check| &check["outcome"]).collect();
    assert_eq!(answers, ["met", "met", "met"]);
}

#[test]
fn one_count_too_many_is_told_from_a_clock_that_is_off() {
    // 96 MHz / 4800; with one tick more 96 MHz / 4801, which is 208 ppm slow.
    let plan = "--freq 20kHz --duty 25%";
    let (code, found) = against("--freq 96/4801MHz --duty 25%", plan);
    assert_eq!((code, &found["cause"], names(&found)), (1, &value!("registers"), vec!["top-off-by-one"]));
    let says = found["findings"][0]["message"].as_str().unwrap();
    assert!(says.contains("as with ARR=4800 instead of ARR=4799"), "{says}");
    // 50 Hz is 30 times 64000 ticks; by 31 instead.
    let (code, found) = against("--freq 1500/31Hz --duty 25%", "--freq 50Hz --duty 25%");
    assert_eq!((code, names(&found)), (1, vec!["divider-off-by-one"]));
    assert!(
        found["findings"][0]["message"].as_str().unwrap().contains("PSC=30 instead of PSC=29"),
        "{found}"
    );
    // 150 ppm slow is no count of 4800, and more than the crystal may be.
    let (code, found) = against(&format!("{plan} --clock-error -150ppm"), plan);
    assert_eq!((code, &found["cause"], names(&found)), (1, &value!("clock"), vec!["clock-off"]));
    // 20 ppm slow is what the crystal may be.
    let (code, found) = against(&format!("{plan} --clock-error -20ppm"), plan);
    assert_eq!((code, &found["cause"], names(&found)), (0, &value!("clock"), Vec::new()));
}

#[test]
fn another_clock_is_named() {
    let plan = "--freq 20kHz --duty 25%";
    let (code, found) = against("--freq 10kHz --duty 25%", plan);
    assert_eq!(
        (code, &found["cause"], names(&found)),
        (1, &value!("registers"), vec!["bus-clock-suspected"])
    );
    assert!(
        found["findings"][0]["message"].as_str().unwrap().contains("from 48 MHz (half of that)"),
        "{found}"
    );
    // The oscillator after reset, 16 of 96 MHz.
    let (_, found) = against("--freq 10/3kHz --duty 25%", plan);
    assert!(found["findings"][0]["message"].as_str().unwrap().contains("from 16 MHz"), "{found}");
    let (code, found) = against("--freq 13kHz --duty 25%", plan);
    assert_eq!(
        (code, &found["cause"], names(&found)),
        (1, &value!("unexplained"), vec!["frequency-unexplained"])
    );
}

#[test]
fn what_all_signals_are_off_by_is_the_clock() {
    let folder = tempdir().unwrap();
    at(folder.path(), &format!("wave --board {DOME} --for 400ms --clock-error -0.8% --save off.vcd"));
    let (code, found) =
        json_at(folder.path(), &format!("measure off.vcd --board {DOME} --fit-clock --recorder 1GHz+-2ppm"));
    // The shutter needs 200 ppm.
    assert_eq!(code, 1);
    let clock = &found["clock"];
    let (error, uncertainty) =
        (clock["error"]["approx"].as_f64().unwrap(), clock["uncertainty"]["approx"].as_f64().unwrap());
    assert!((error + 0.008).abs() <= uncertainty && uncertainty < 3e-6, "{clock}");
    assert_eq!((&clock["agree"], &clock["signals"]), (&value!(true), &value!(5)));
    for signal in found["signals"].as_array().unwrap() {
        let plan = &signal["plan"];
        let wanted = if signal["signal"] == "dew-heater" { "missing" } else { "clock" };
        assert_eq!(plan["cause"], wanted, "{signal}");
    }
    // 95.232 MHz: the registers for it make 50 Hz again, to half a tick of the period.
    let shutter = &clock["derived"][0];
    let frequency = shutter["setting"]["frequency"]["approx"].as_f64().unwrap();
    assert!(shutter["signal"] == "shutter" && (frequency / 50.0 - 1.0).abs() < 2e-5, "{shutter}");
}

#[test]
fn one_signal_s_registers_say_nothing_of_the_clock() {
    let folder = tempdir().unwrap();
    // The shutter is slow by 0.8 %, and the dome has half its frequency.
    let pin = |period: u64, high: u64| -> Vec<u64> {
        (0..40).flat_map(|n| [n * period, n * period + high]).collect()
    };
    let (shutter, dome) = (pin(20_161_290, 1_360_887), pin(40_000_000, 2_650_000));
    let mut changes: Vec<(u64, String)> = Vec::new();
    for (code, edges) in [("!", shutter), ("\"", dome)] {
        changes.extend(edges.iter().enumerate().map(|(n, at)| (*at + 1000, format!("{}{code}", 1 - n % 2))));
    }
    changes.sort();
    let body: String = changes.iter().map(|(at, change)| format!("#{at}\n{change}\n")).collect();
    let head = "$timescale 1ns $end $var wire 1 ! shutter $end $var wire 1 \" dome $end $enddefinitions $end\n#0\n0!\n0\"\n";
    fs::write(folder.path().join("two.vcd"), format!("{head}{body}")).unwrap();
    let (_, found) = json_at(folder.path(), &format!("measure two.vcd --board {DOME} --fit-clock"));
    assert_eq!(names(&found["signals"][1]["plan"]), ["bus-clock-suspected"]);
    let clock = &found["clock"];
    assert_eq!(clock["signals"], 1);
    assert!((clock["error"]["approx"].as_f64().unwrap() + 0.008).abs() < 1e-6, "{clock}");
}

#[test]
fn the_samples_of_a_table_count_in_its_uncertainty() {
    let folder = tempdir().unwrap();
    at(
        folder.path(),
        &format!(
            "wave {ON} --freq 900Hz --duty 50% --clock-error 37ppm --time-resolution 10us --periods 50 --save c.csv"
        ),
    );
    let (_, found) = json_at(folder.path(), "measure c.csv");
    let timing = &found["signals"][0]["timing"];
    let (frequency, uncertainty) =
        (&timing["frequency"]["approx"], &timing["frequency_uncertainty"]["approx"]);
    let (off, room) = ((frequency.as_f64().unwrap() / 900.0333 - 1.0).abs(), uncertainty.as_f64().unwrap());
    // Half a step of 10 us either way over 48 periods of 1.1 ms, and as much again by how those steps fall.
    assert!(off <= room && room > 1e-4 && room < 2e-3, "{off} {room}");
}

#[test]
fn what_the_samples_cannot_tell_is_said_with_what_could() {
    let folder = tempdir().unwrap();
    // 25 kHz with 20 ns of jitter, a sample every microsecond.
    at(
        folder.path(),
        &format!(
            "wave {ON} --freq 25kHz --duty 50% --jitter 20ns --time-resolution 1us --periods 4000 --save slow.csv"
        ),
    );
    let (code, found) =
        json_at(folder.path(), &format!("measure slow.csv {ON} --freq 25kHz --duty 50% --need jitter=50ns"));
    let signal = &found["signals"][0];
    assert_eq!((code, &signal["timing"]["below_the_floor"]), (0, &value!(true)));
    let checks = signal["plan"]["checks"].as_array().unwrap();
    let check = checks.iter().find(|check| check["implied"].is_null()).unwrap();
    assert_eq!((&check["requirement"], &check["outcome"]), (&value!("jitter"), &value!("cannot_tell")));
    // Four samples in what is allowed.
    let rate = &check["would_tell"];
    let hertz = rate["value"]["approx"].as_f64().unwrap();
    assert!(rate["kind"] == "sample_faster" && (hertz / 80e6 - 1.0).abs() < 1e-9, "{rate}");
    assert_eq!(names(&signal["plan"]), ["below-the-floor"]);
}

#[test]
fn pulses_that_software_loses_are_told() {
    let folder = tempdir().unwrap();
    let made = format!(
        "wave {ON} --freq 50Hz --pulse 1500us --for 2s --missing 7,30 --doubled 50 --jitter 3us --save soft.vcd"
    );
    at(folder.path(), &made);
    let plan = format!("measure soft.vcd {ON} --freq 50Hz --pulse 1500us --need jitter=2us");
    let (code, found) = json_at(folder.path(), &plan);
    let signal = &found["signals"][0];
    assert_eq!((code, &signal["missing"]["count"], &signal["doubled"]["count"]), (1, &value!(2), &value!(1)));
    // The eighth pulse would have come at 140 ms.
    let time = signal["missing"]["first"][0]["at"]["approx"].as_f64().unwrap();
    assert!((time - 0.14).abs() < 50e-6, "{signal}");
    assert_eq!(names(&signal["plan"]), ["pulses-wrong", "jitter-unplanned"]);
    let checks = signal["plan"]["checks"].as_array().unwrap();
    assert!(checks.iter().any(|check| check["requirement"] == "jitter" && check["outcome"] == "missed"));
    let text = at(folder.path(), &plan).stdout;
    assert!(text.contains("pulses missing") && text.contains("at 140.0") && text.contains("===="), "{text}");
}

#[test]
fn a_pair_is_held_against_one_another() {
    let folder = tempdir().unwrap();
    let board = "schema = 1\npart = \"stm32f411\"\n[clock]\nfrequency = \"100MHz\"\n[[signal]]\nname = \"half\"\non = \"tim1/1\"\n\
                 freq = \"20kHz\"\nduty = \"25%\"\ndead-time = \"500ns\"\n";
    fs::write(folder.path().join("half.toml"), board).unwrap();
    at(folder.path(), "wave --board half.toml --save half.vcd");
    let (_, found) = json_at(folder.path(), "measure half.vcd --between half,halfn");
    let pair = &found["pairs"][0];
    assert_eq!(pair["overlap"], Value::Null);
    for dead in ["dead_after_first", "dead_after_second"] {
        let mean = pair[dead]["mean"]["approx"].as_f64().unwrap();
        assert!((mean - 500e-9).abs() < 1e-12, "{pair}");
    }
    // The complement rises 500 ns after the first falls: 12 us of 50 us after its rise.
    let phase = pair["phase"]["approx"].as_f64().unwrap();
    assert!((phase - 12.5 / 50.0 * 360.0).abs() < 1e-6, "{pair}");
}

#[test]
fn signals_are_chosen_by_name_pattern_and_map() {
    let folder = tempdir().unwrap();
    at(folder.path(), &format!("wave --board {DOME} --for 100ms --save dome.csv"));
    let chosen = |line: &str| -> Vec<String> {
        let (_, found) = json_at(folder.path(), &format!("measure dome.csv {line}"));
        found["signals"]
            .as_array()
            .unwrap()
            .iter()
            .map(|one| one["signal"].as_str().unwrap().to_owned())
            .collect()
    };
    assert_eq!(chosen("--signals SHUTTER,d*"), ["shutter", "dome", "dew-heater"]);
    fs::write(folder.path().join("d.csv"), "time_ms,D0\n0,1\n1.35,0\n20,1\n21.35,0\n40,1\n41.35,0\n60,1\n")
        .unwrap();
    let (code, found) = json_at(folder.path(), &format!("measure d.csv --board {DOME} --map D0=shutter"));
    assert_eq!((code, &found["signals"][0]["plan"]["cause"]), (0, &value!("as_planned")), "{found}");
    // What is planned and not there is said.
    assert!(
        found["notes"].as_array().unwrap().iter().any(|note| note == "vent: planned, but not in the capture")
    );
}

#[test]
fn a_capture_comes_through_a_pipe_and_goes_over_no_file() {
    let folder = tempdir().unwrap();
    at(folder.path(), &format!("wave {ON} --freq 1kHz --duty 50% --save a.vcd"));
    let again =
        run_words(format!("wave {ON} --freq 2kHz --duty 50% --save a.vcd").split(' '), folder.path(), &[]);
    assert!(again.code == 2 && again.stderr.contains("is there already"), "{again:?}");
    at(folder.path(), &format!("wave {ON} --freq 2kHz --duty 50% --save a.vcd --force"));
    let bytes = fs::read(folder.path().join("a.vcd")).unwrap();
    let piped = crate::run::piped("measure - --format json", &bytes);
    let found: Value = result_of(&piped.stdout);
    assert!((found["signals"][0]["timing"]["frequency"]["approx"].as_f64().unwrap() - 2000.0).abs() < 1e-6);
    // The same seed, the same edges.
    for name in ["b.vcd", "c.vcd"] {
        at(folder.path(), &format!("wave {ON} --freq 2kHz --duty 50% --jitter 1us --seed 5 --save {name}"));
    }
    assert_eq!(
        fs::read(folder.path().join("b.vcd")).unwrap(),
        fs::read(folder.path().join("c.vcd")).unwrap()
    );
}

#[test]
fn a_picture_has_its_five_panels() {
    let folder = tempdir().unwrap();
    at(folder.path(), &format!("wave {ON} --freq 1kHz --duty 30% --jitter 300ns --periods 400 --save j.vcd"));
    let plan = format!("{ON} --freq 1kHz --duty 30%");
    at(folder.path(), &format!("measure j.vcd {plan} --plot j.svg"));
    let svg = fs::read_to_string(folder.path().join("j.svg")).unwrap();
    // 400 periods: the rising edges of the first and of the last are at the ends of the capture.
    for words in [
        "398 cycles; the line is as planned",
        "period, ",
        "high, us",
        "time interval error, ",
        "Allan deviation",
        "time, ms",
    ] {
        assert!(svg.contains(words), "{words}");
    }
    let strict = format!("{plan} --need pulse=1us --need frequency=0.1%");
    at(folder.path(), &format!("measure j.vcd {strict} --plot k.svg"));
    let svg = fs::read_to_string(folder.path().join("k.svg")).unwrap();
    assert!(svg.contains("black: nominal, orange: limits"));
    // Two limits and what was planned, in each of both histograms.
    let thick = svg.matches(r#"stroke-width="3""#).count();
    assert_eq!(thick, 6);
    // A name that cannot be drawn is refused before anything is read, or written.
    let early = run_words("measure none.vcd --plot a.gif".split(' '), folder.path(), &[]);
    assert!(early.code == 2 && early.stderr.contains(".svg or .png"), "{early:?}");
    let line = format!("wave {ON} --freq 1kHz --duty 30% --save late.vcd --plot a.gif");
    assert_eq!(run_words(line.split(' '), folder.path(), &[]).code, 2);
    assert!(!folder.path().join("late.vcd").exists());
    fs::write(folder.path().join("flat.csv"), "time,D0\n0,0\n1,0\n2,0\n").unwrap();
    let flat = at(folder.path(), "measure flat.csv --plot flat.png");
    assert!(flat.code == 2 && flat.stderr.contains("no signal has a period"), "{flat:?}");
}

#[test]
fn wrong_questions_are_answered_with_what_would_be_right() {
    let folder = tempdir().unwrap();
    fs::write(folder.path().join("a.csv"), "time,D0\n0,0\n1,1\n2,0\n").unwrap();
    fs::write(folder.path().join("bad.vcd"), "$var wire 1 ! a $end\n$enddefinitions $end\n#2\n1!\n#1\n")
        .unwrap();
    for (line, code, says) in [
        ("measure none.vcd", 3, "none.vcd"),
        ("measure bad.vcd", 2, "line 5: expected a time from #2 on"),
        ("measure a.csv --signals D7", 2, "it has D0"),
        ("measure a.csv --between D0", 2, "two signals with a comma"),
        ("measure a.csv --glitch 5", 2, "--glitch"),
        ("measure a.csv --threshold 2..1", 2, "two rising levels"),
        ("measure a.csv --separator ab", 2, "one character"),
        ("measure a.csv --time-column volts", 2, "found time, D0"),
        ("measure a.csv --map D0=shutter", 2, "without a plan"),
        ("measure a.csv --fit-clock", 2, "without a plan"),
        ("wave --on stm32f411/tim3 --clock 96MHz --freq 50Hz", 2, "no pulse to draw"),
        (
            "wave --on stm32f411/tim3 --clock 96MHz --freq 50Hz --duty 5% --time-resolution 3ns",
            2,
            "1, 10 or 100",
        ),
        ("wave --on stm32f411/tim3 --clock 96MHz --freq 50Hz --duty 5% --save a.txt", 2, ".vcd or .csv"),
        ("wave --on stm32f411/tim3 --clock 96MHz --duty 5%", 2, "--freq or --period"),
        ("wave --on stm32f411/tim3 --clock 96MHz --freq 1kHz --duty 5% --missing 9..2", 2, "two rising ones"),
        ("wave --on stm32f411/tim3 --clock 96MHz --freq 1kHz --duty 5% --plot a.gif", 2, ".svg or .png"),
    ] {
        let run = run_words(line.split(' '), folder.path(), &[]);
        assert!(run.code == code && run.stderr.contains(says), "{line}: {run:?}");
    }
}

#[test]
fn a_wave_is_drawn_with_its_counters() {
    let folder = tempdir().unwrap();
    let drawn = |line: &str| {
        at(folder.path(), &format!("wave {line} --plot wave.svg --force"));
        fs::read_to_string(folder.path().join("wave.svg")).unwrap()
    };
    // Complementary outputs of a centred mode: one counter, both pins, marks with the registers' names.
    let svg = drawn(
        "--on stm32f411/tim1/1 --clock 96MHz --freq 20kHz --duty 35% --mode centre --dead-time 3us --periods 2",
    );
    // 35 % of 50 us less 3 us, and what is left of the period less twice that.
    for words in
        ["2 pins, 100 us", "ARR 2400", "CCR1 840", "period 50 us", "high 14.5 us", "high 29.5 us", "tim1/1n"]
    {
        assert!(svg.contains(words), "{words}");
    }
    assert_eq!(svg.matches("ARR 2400").count(), 1);
    // A staggered pulse has two marks; many edges become a band that says so.
    let svg = drawn("--on pca9685/pwm --freq 200Hz --duty led1=30% --phase led1=120deg");
    assert!(svg.contains("LED1_ON.COUNT 1365") && svg.contains("LED1_OFF.COUNT 2594"));
    assert!(
        drawn("--on rp2040/slice0 --clock 125MHz --freq 25kHz --duty 40% --for 1s")
            .contains("too many edges")
    );
}

#[test]
fn complementary_outputs_are_measured_with_their_dead_time() {
    let folder = tempdir().unwrap();
    let plan = "--on stm32f411/tim1/1 --clock 96MHz --freq 20kHz --duty 35% --mode centre --dead-time 3us";
    at(folder.path(), &format!("wave {plan} --periods 40 --save legs.vcd"));
    let (code, found) = json_at(folder.path(), "measure legs.vcd --between tim1/1,tim1/1n");
    let pair = &found["pairs"][0];
    let always = |what: &str, seconds: f64| {
        let ends = ["least", "most"].map(|end| pair[what][end]["approx"].as_f64().unwrap());
        assert!(ends.iter().all(|end| (end - seconds).abs() < 1.5e-9), "{what}: {ends:?}");
    };
    always("dead_after_first", 3e-6);
    always("dead_after_second", 3e-6);
    assert_eq!((code, &pair["overlap"]), (0, &Value::Null));
    // Against the plan: 17.5 us less the dead time, from which the pulse starts later.
    let (code, found) =
        json_at(folder.path(), &format!("measure legs.vcd --signals tim1/1 {plan} --need frequency=10ppm"));
    assert_eq!((code, &found["signals"][0]["plan"]["cause"]), (0, &value!("as_planned")));
    let high = found["signals"][0]["timing"]["high"]["mean"]["approx"].as_f64().unwrap();
    assert!((high - 14.5e-6).abs() < 1e-9, "{high}");
}

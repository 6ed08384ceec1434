//! `tach`: a timer set up, and a speed read from a capture that `wave` made.

use serde_json::Value;
use tempfile::tempdir;

use crate::run::{json, result_of, run, run_words};

const ON: &str = "tach --on stm32f411/tim9 --clock 96MHz --pulses-per-turn 2";

#[test]
fn a_speed_that_was_put_in_is_read_again() {
    let folder = tempdir().unwrap();
    let at = |line: &str| {
        let run = run_words(line.split(' '), folder.path(), &[]);
        assert_eq!(run.code, 0, "{line}: {run:?}");
        run.stdout
    };
    // 40 Hz with four pulses a turn: ten turns a second, from a clock that is 1 % fast; pulses 100 to 139 do not come.
    at("wave --on stm32f411/tim9 --clock 96MHz --freq 40Hz --duty 30% --clock-error 1% --missing 100..139 \
        --for 10s --time-resolution 1us --save wheel.vcd");
    let line = "tach wheel.vcd --pulses-per-turn 4 --speed-range 100rpm..900rpm --recorder 1MHz+-20ppm --plot wheel.svg";
    let found: Value = result_of(&at(&format!("{line} --format json")));
    let signal = &found["signals"][0];
    let speed = signal["speed"]["approx"].as_f64().unwrap();
    // A turn of 99 ms in steps of 1 us.
    assert!((speed / 606.0 - 1.0).abs() < 1e-5, "{speed}");
    assert_eq!((&signal["stops"], &signal["accuracy"]["approx"]), (&1.into(), &2e-5.into()));
    // From the pulse 99 to the pulse 140, of 25 ms less 1 %.
    let stood = &signal["stood"][0];
    let near = |key: &str, seconds: f64| (stood[key]["approx"].as_f64().unwrap() - seconds).abs() < 2e-6;
    assert!(near("at", 99.0 * 0.025 / 1.01) && near("lasts", 41.0 * 0.025 / 1.01), "{stood}");
    let svg = std::fs::read_to_string(folder.path().join("wheel.svg")).unwrap();
    assert!(svg.contains("stopped once") && svg.contains("speed, rpm"));
    // Standing for longer than at 20 rpm only: forty pulses less are slow, then.
    let slow: Value =
        result_of(&at("tach wheel.vcd --pulses-per-turn 4 --speed-range 1rpm..900rpm --format json"));
    assert_eq!(slow["signals"][0]["stops"], 0);
    let slowest = slow["signals"][0]["slowest"]["approx"].as_f64().unwrap();
    // A turn with that gap takes 44 pulses' time instead of four.
    assert!((slowest / (606.0 / 11.0) - 1.0).abs() < 1e-5, "{slowest}");
}

#[test]
fn requirements_decide_the_exit_code() {
    for (line, code, name) in [
        ("--speed-range 300rpm..3000rpm --resolve 5rpm", 0, None),
        ("--speed-range 300rpm..3000rpm --resolve 0.1rpm --window 1s", 1, Some("speed-step-too-coarse")),
        ("--speed-range 0.01rpm..3000rpm", 1, Some("counter-overflows")),
    ] {
        let run = run(&format!("{ON} {line} --format json"));
        assert_eq!(run.code, code, "{line}: {run:?}");
        let found: Value = result_of(&run.stdout);
        assert_eq!(found["findings"][0]["name"].as_str(), name, "{line}");
    }
    // 300 rpm with two pulses a turn are 9.6 million clocks: divided by 147 they fit 16 bits.
    let period = &json(&format!("{ON} --speed-range 300rpm..3000rpm"))["interval"];
    assert_eq!(
        (&period["counter"]["writes"][0]["written"], &period["counter"]["divider"]["exact"]),
        (&146.into(), &"147".into())
    );
}

#[test]
fn what_makes_no_sense_is_refused() {
    let dome = "--board ../../demo/dome.toml --signal camera-fan";
    for (line, says) in [
        (format!("{ON} --speed-range 3000rpm..300rpm"), "LOW..HIGH with LOW < HIGH"),
        (format!("{ON} --speed-range 0rpm..300rpm"), "expected a speed greater than zero"),
        (format!("{ON} --speed-range 5Hz..300Hz"), "units that fit"),
        (
            format!("tach --on stm32f411/tim3 {dome} --speed-range 3rpm..300rpm"),
            "tim3 makes the signal shutter",
        ),
        (format!("tach --on rp2040/slice0 {dome} --speed-range 3rpm..300rpm"), "the board has a stm32f411"),
        (
            "tach --on stm32f411/tim9 --board ../../demo/dome.toml --signal vent --speed-range 3rpm..300rpm"
                .to_owned(),
            "missing --pulses-per-turn",
        ),
        (
            "tach --on pca9685/pwm --pulses-per-turn 2 --speed-range 3rpm..300rpm".to_owned(),
            "takes no pulses",
        ),
        ("tach ../../demo/fan.vcd --pulses-per-turn 2 --resolve 5rpm".to_owned(), "cannot be used with"),
        (format!("{ON} --speed-range 3rpm..300rpm --plot here.svg"), "cannot be used with"),
        ("tach ../../demo/fan.vcd".to_owned(), "--pulses-per-turn"),
        ("tach ../../demo/fan.vcd --pulses-per-turn 2 --signals D7".to_owned(), "no signal `D7`"),
    ] {
        let run = run(&line);
        assert!(run.code == 2 && run.stderr.contains(says), "{line}: {run:?}");
    }
}

#[test]
fn what_a_timer_does_with_pulses_is_told_with_its_source() {
    for (timer, says) in [
        ("stm32f411/tim9", "can time pulses and count them"),
        ("stm32f411/tim10", "can time pulses"),
        ("rp2040/slice0", "can count pulses; what can time them: a state machine of the PIO"),
        ("pca9685/pwm", "none; what can time them: a timer of the microcontroller"),
    ] {
        let shown = run(&format!("parts {timer}")).stdout;
        let line = shown.lines().find(|line| line.contains("inputs ")).unwrap();
        assert!(line.trim_end().ends_with(says), "{line}");
    }
    let facts = json("parts stm32f411/tim9")["block"]["inputs"].to_string();
    assert!(facts.contains("TI1 or TI2 can clock the counter"), "{facts}");
}

#[test]
fn a_part_that_says_nothing_of_its_inputs_is_taken_to_have_them() {
    let document = include_str!("../../../../docs/part-files.md");
    let example = document.split("```toml\n").nth(1).unwrap().split("```").next().unwrap();
    let folder = tempdir().unwrap();
    let at = |line: &str| run_words(line.split(' '), folder.path(), &[]);
    let line = "tach --parts domechip.toml --on domechip/tim1 --pulses-per-turn 1 --speed-range 60rpm..600rpm --format json";
    std::fs::write(folder.path().join("domechip.toml"), example).unwrap();
    let found: Value = result_of(&at(line).stdout);
    // 8 MHz between pulses of a second: by 64, since by 8 a million counts would not fit. A window of a second sees one.
    assert_eq!(
        (&found["interval"]["counter"]["divider"]["exact"], found["findings"].as_array().unwrap().len()),
        (&"64".into(), 2)
    );
    let names: Vec<&str> =
        found["findings"].as_array().unwrap().iter().map(|one| one["name"].as_str().unwrap()).collect();
    // 125 000 counts a second are too many for 16 bits even so.
    assert_eq!(names, ["counter-overflows", "catalogue-unsure"]);
    let said = "counter_bits = 16\ninputs = { capture = true, count = true, counter_bits = 24, facts = [{ says = \"captures\", \
                document = \"manual\", trust = \"verified\" }] }";
    std::fs::write(folder.path().join("domechip.toml"), example.replace("counter_bits = 16", said)).unwrap();
    let found: Value = result_of(&at(line).stdout);
    // 24 bits hold 8 000 000 counts.
    assert_eq!(
        (&found["interval"]["counter"]["divider"]["exact"], &found["interval"]["counter_bits"]),
        (&"1".into(), &24.into())
    );
    assert_eq!(found["findings"], serde_json::json!([]));
    let wrong = said.replace("counter_bits = 24", "counter_bits = 99").replace("facts = [", "facts = [] } #");
    std::fs::write(folder.path().join("domechip.toml"), example.replace("counter_bits = 16", &wrong))
        .unwrap();
    let refused = at(line);
    for says in ["expected at least one fact", "expected 1 to 64 bits", "domechip.toml:"] {
        assert!(refused.code != 0 && refused.stderr.contains(says), "{says}: {refused:?}");
    }
}

//! `scale`: inputs to compare values.

use serde_json::json as value;

use crate::run::{json, run};

const DOME: &str = concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/dome.toml");

#[test]
fn ten_bits_to_a_servo_in_words_of_16_bits() {
    let map = json("scale --from 0..1023 --to 1800..4200 --word 16");
    assert_eq!(
        (&map["met"], &map["proof"]["every_input"], &map["request"]["word"]),
        (&value!(true), &value!(1024), &value!(16))
    );
    assert!(map["widest"].as_u64().unwrap() < 65_536);
    // Every point shown is the exact line, rounded: 1800 + 2400 x / 1023.
    for point in map["points"].as_array().unwrap() {
        let x: f64 = point["input"]["approx"].as_f64().unwrap();
        let exact = 1800.0 + 2400.0 * x / 1023.0;
        assert!((point["compare"].as_f64().unwrap() - exact).abs() <= 0.5, "{point}");
    }
    let text = run("scale --from 0..1023 --to 1800..4200 --word 16").stdout;
    let text = text.split_whitespace().collect::<Vec<_>>().join(" ");
    // 65535 / 2400 = 27.3 and 32767 / 2400 = 13.7; 2 for 2400/1023 misses 354 steps.
    assert!(
        text.contains("overflows words of 16 bits from 28 on as unsigned, from 14 on as signed"),
        "{text}"
    );
    assert!(text.contains("x * 2 354 compare steps too few at the highest input"), "{text}");
}

#[test]
fn a_timer_s_span_gives_the_ends() {
    // 100 MHz / 40: 2.5 MHz; 900 us are 2250 ticks, 2100 us are 5250.
    let map = json("scale --from 8bit --on stm32f411/tim3 --clock 100MHz --freq 50Hz --span 900us..2100us");
    assert_eq!(
        (&map["request"]["map"]["to"], &map["points"][4]["input"]["exact"]),
        (&value!(255), &value!("255"))
    );
    let pulse = |point: usize| map["points"][point]["output"]["pulse"]["exact"].as_str().unwrap().to_owned();
    let near = |text: &str, wanted: f64| (fraction(text) - wanted).abs() < 0.2e-6;
    assert!(near(&pulse(0), 900e-6) && near(&pulse(4), 2100e-6), "{map}");
}

/// What a fraction in the output is worth.
fn fraction(text: &str) -> f64 {
    let (numerator, denominator) = text.split_once('/').unwrap();
    numerator.parse::<f64>().unwrap() / denominator.parse::<f64>().unwrap()
}

#[test]
fn inputs_in_the_load_s_unit_are_its_levels() {
    let map = json(&format!(
        "scale --from 30deg..60deg --board {DOME} --signal shutter --every 15 --read-back 4320"
    ));
    let levels: Vec<&str> = map["points"]
        .as_array()
        .unwrap()
        .iter()
        .map(|point| point["level"]["exact"].as_str().unwrap())
        .collect();
    assert_eq!(levels, ["30", "45", "60"]);
    // 1350 us of 312.5 ns are 4320 steps, which are 45 degrees.
    assert_eq!(
        (&map["back"][0]["input"]["exact"], &map["back"][0]["level"]["exact"]),
        (&value!("45"), &value!("45"))
    );
    let both = json(&format!("scale --from -100%..100% --board {DOME} --signal dome --points -100,0,100"));
    let pulses: Vec<&str> = both["points"]
        .as_array()
        .unwrap()
        .iter()
        .map(|point| point["output"]["pulse"]["exact"].as_str().unwrap())
        .collect();
    assert_eq!(pulses, ["1/1000", "3/2000", "1/500"]);
    let vent = run(&format!("scale --from 0%..100% --board {DOME} --signal vent")).stdout;
    assert!(vent.contains("throttle 0 is the start duty here"), "{vent}");
}

#[test]
fn code_stands_alone() {
    let c = run("scale --from -100..100 --to 250..1250 --word 16 --code c --name valve_compare");
    assert!(c.code == 0 && c.stdout.starts_with("#include <stdint.h>\n"), "{c:?}");
    assert!(c.stdout.contains("uint16_t valve_compare(int16_t input)\n{"), "{c:?}");
    // Sixteen bits to 34 898 steps in 16 bits: nothing rounds exactly, and the exit code says so.
    let missed = run("scale --from 16bit --to 4109..39007 --word 16 --code rust");
    assert!(
        missed.code == 1 && missed.stdout.contains("pub fn compare_of(input: u16) -> u16 {"),
        "{missed:?}"
    );
    // 12 bits times 256/273: two multiplications do what one does not.
    let halves = run("scale --from 12bit --to 2880..6720 --word 16 --code rust");
    assert!(halves.code == 0 && halves.stdout.contains("(input & 15)"), "{halves:?}");
}

#[test]
fn a_servo_is_calibrated_from_pairs_or_from_a_file() {
    // 0.1 degrees a microsecond, zero at 930 us; the fourth was read off wrongly.
    let pairs = "1000us=7deg,1200us=27deg,1400us=47deg,1600us=99deg,1800us=87deg,2000us=107deg";
    let found = json(&format!("scale --observed {pairs} --board {DOME} --signal shutter"));
    assert_eq!(
        found["write"][0],
        value!({ "key": "span", "value": "930us..2.13ms", "exact": "93/100000..213/100000" })
    );
    let out: Vec<bool> =
        found["points"].as_array().unwrap().iter().map(|one| one["taken"] == "far").collect();
    assert_eq!(out, [false, false, false, true, false, false]);
    let folder = tempfile::tempdir().unwrap();
    let file = folder.path().join("seen.csv");
    std::fs::write(&file, format!("pulse,angle\n{}\n", pairs.replace('=', ", ").replace("deg,", "deg\n")))
        .unwrap();
    let read = json(&format!("scale --observed {} --board {DOME} --signal shutter", file.display()));
    assert_eq!(read["write"], found["write"]);
    // What was written to the compare register tells as much: 3.2 ticks are a microsecond here.
    let compares = "3200=7deg,3840=27deg,1400us=47deg,5120=99deg,5760=87deg,6400=107deg";
    let written = json(&format!("scale --observed {compares} --board {DOME} --signal shutter"));
    assert_eq!(written["write"], found["write"]);
    // The span can be pasted: it is read again as it is written.
    let text = run(&format!("scale --observed {pairs} --board {DOME} --signal shutter")).stdout;
    assert!(text.contains("span = \"930us..2.13ms\"") && text.contains("left out"), "{text}");
}

#[test]
fn what_a_calibration_writes_goes_into_the_board_file() {
    let board = std::fs::read_to_string(DOME).unwrap();
    let folder = tempfile::tempdir().unwrap();
    // Signal, its load's keys that are replaced, observations, a level, and the duty or pulse for it by hand.
    for (signal, keys, observed, level, key, active) in [
        // 50 rpm a per cent from 16 %: half way from 16 % to 46 %.
        ("vent", &["start", "full-speed"][..], "20%=200rpm,26%=500rpm,46%=1500rpm", "50%", "duty", "31/100"),
        // From 1520 us forward, 1480 us back; the neutral between: 40 % of the way from 1500 us to 2020 us.
        (
            "dome",
            &["span", "neutral"],
            "1200us=-70%,1400us=-20%,1620us=20%,1920us=80%",
            "40%",
            "pulse",
            "427/250000",
        ),
    ] {
        let observations = format!("scale --observed {observed} --board {DOME} --signal {signal}");
        let write = json(&observations)["write"].clone();
        let lines: Vec<String> = write
            .as_array()
            .unwrap()
            .iter()
            .map(|key| format!("{} = {}", key["key"].as_str().unwrap(), key["value"]))
            .collect();
        let (before, rest) = board.split_once(&format!("name = \"{signal}\"\n")).unwrap();
        let (load, after) = rest.split_once("\n\n").unwrap();
        let kept = load.lines().filter(|line| !keys.iter().any(|key| line.starts_with(&format!("{key} "))));
        let load = kept.map(str::to_owned).chain(lines).collect::<Vec<_>>().join("\n");
        let path = folder.path().join(format!("{signal}.toml"));
        std::fs::write(&path, format!("{before}name = \"{signal}\"\n{load}\n\n{after}")).unwrap();
        let scale = format!(
            "scale --from 0%..100% --points {} --board {} --signal {signal}",
            level.trim_end_matches('%'),
            path.display()
        );
        let point = json(&scale)["points"][0].clone();
        let (found, wanted) = (fraction(point["output"][key]["exact"].as_str().unwrap()), fraction(active));
        assert!((found / wanted - 1.0).abs() < 1e-3, "{signal}: {point}");
    }
}

/// One test for each line: arguments => what the complaint says.
macro_rules! refused {
    ($($name:ident: $line:expr => $says:literal;)*) => {
        $(#[test]
        fn $name() {
            let run = run(&$line);
            assert!(run.code == 2 && run.stdout.is_empty() && run.stderr.contains($says), "{run:?}");
        })*
    };
}

refused! {
    no_ends: "scale --from 12bit" => "one of --to, --on, --board";
    words_for_inputs: "scale --from a..b --to 0..9" => "expected a range of whole numbers";
    too_many_bits: "scale --from 40bit --to 0..9" => "expected a range of whole numbers";
    half_a_degree: format!("scale --from 0deg..10.5deg --board {DOME} --signal shutter") => "expected a range of whole numbers";
    compares_below_zero: "scale --from 0..9 --to -5..9" => "from zero on";
    compares_without_dots: "scale --from 0..9 --to 99" => "two whole numbers with two dots";
    inputs_that_fall: "scale --from 9..0 --to 0..99" => "do not rise";
    inputs_wider_than_the_word: "scale --from -100..40000 --to 0..99 --word 16" => "do not fit words of 16 bits";
    a_word_of_24_bits: "scale --from 0..9 --to 0..99 --word 24" => "16, 32";
    no_error_allowed: "scale --from 0..9 --to 0..99 --max-error 0" => "greater than zero";
    a_name_that_is_none: "scale --from 0..9 --to 0..99 --code c --name 9x" => "no digit first";
    a_point_outside: "scale --from 0..9 --to 0..99 --points 12" => "the input 12 is outside 0..9";
    a_timer_without_span: "scale --from 8bit --on stm32f411/tim3 --freq 50Hz" => "there is none";
    a_timer_without_frequency: "scale --from 8bit --on stm32f411/tim3" => "give --freq or --period";
    a_motor_both_ways: format!("scale --from -100%..100% --board {DOME} --signal vent") => "of a motor turn back";
    a_table_that_is_too_long: format!("scale --from 16bit --board {DOME} --signal flat-field") => "the brightness of a lamp is no straight line";
    a_span_besides_compares: "scale --from 0..9 --to 0..99 --span 1ms..2ms" => "cannot be used with";
    a_clock_besides_a_board: format!("scale --from 12bit --board {DOME} --signal shutter --clock 8MHz") => "cannot be used with";
    one_observation: format!("scale --observed 1500us=60deg --board {DOME} --signal shutter") => "at least two different pulses";
    an_observation_in_another_unit: format!("scale --observed 1500us=60W --board {DOME} --signal shutter") => "units that fit here: deg";
    an_observation_of_a_lamp: format!("scale --observed 1ms=60% --board {DOME} --signal flat-field") => "a lamp load has no numbers";
    an_observation_in_amperes: format!("scale --observed 20%=1A --board {DOME} --signal vent") => "units that fit here: %, rpm, V";
    observations_in_two_units: format!("scale --observed 20%=1V,30%=7% --board {DOME} --signal vent") => "not all in one unit";
    half_an_observation: format!("scale --observed 1500us=60deg,7 --board {DOME} --signal shutter") => "what was seen, found `7`";
    a_level_the_load_has_not: format!("scale --from 0deg..130deg --board {DOME} --signal shutter") => "between 0 deg and 120 deg";
}

#[test]
fn a_lamp_s_brightness_is_a_table() {
    let map = json(&format!("scale --from 8bit --board {DOME} --signal flat-field --every 1"));
    let points = map["points"].as_array().unwrap();
    assert_eq!((points.len(), &map["arithmetic"]), (256, &value!("a table of all values")));
    for point in points {
        let lightness: f64 = point["input"]["approx"].as_f64().unwrap() / 2.55;
        // CIE 1976, from L* back to the share of the light; 96 MHz make 96000 steps of a millisecond.
        let light =
            if lightness <= 8.0 { lightness * 27.0 / 24389.0 } else { ((lightness + 16.0) / 116.0).powi(3) };
        let compare = point["compare"].as_f64().unwrap();
        assert!((compare - light * 96_000.0).abs() < 0.51, "{point}: {}", light * 96_000.0);
    }
    // Halfway up the inputs is half as bright to the eye, and far from half the duty.
    let text = run(&format!("scale --from 0%..100% --board {DOME} --signal flat-field --points 50")).stdout;
    assert!(text.contains("50%       17682"), "{text}");
}

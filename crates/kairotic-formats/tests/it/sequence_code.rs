//! Code of sequences, compiled with the system's compilers and run: every compare value is the one that was planned.

use std::fmt::Write as _;
use std::fs;

use kairotic_core::load::{Kind, Load, Motor, PhaseMode, StepDrive, StepRates, Stepper, Wiring};
use kairotic_core::motion::{Coding, StepTimer};
use kairotic_core::part::TimerUse;
use kairotic_core::quantity::{Frequency, LoadLevel, Rational, Tolerance};
use kairotic_core::search::DerivedSignal;
use kairotic_core::sequence::{
    LevelTrack, Member, Sequence, SequencePlan, SequencedStepper, Setpoint, steps,
};
use kairotic_core::signal::SignalSpec;
use kairotic_core::target::Target;
use kairotic_formats::map_code::Language;
use kairotic_formats::sequence_code::module;

use super::catalogue::part;
use super::map_code::run;

/// A signal that perhaps drives a motor which turns both ways, from a clock of 1 MHz.
fn signal(name: &str, frequency: &str, is_motor: bool) -> DerivedSignal<'static> {
    let part = part("stm32f411");
    let clock: Frequency = "1MHz".parse().unwrap();
    let on =
        TimerUse::of(part, "tim2").clocked(Tolerance { nominal: clock, deviation: "0%".parse().unwrap() });
    let motor = Motor {
        supply: "24V".parse().unwrap(),
        rated: "24V".parse().unwrap(),
        start: "10%".parse().unwrap(),
        full: None,
        wiring: Wiring::TwoLines,
        quiet: None,
        pause: Some("20ms".parse().unwrap()),
        kick: None,
        turning: Default::default(),
    };
    let load = is_motor.then(|| Load { name: "vent".to_owned(), kind: Kind::Motor(motor), tolerance: None });
    let target = Target::frequency(frequency.parse().unwrap()).on_channel("1");
    let spec = SignalSpec { name: name.to_owned(), load, ..SignalSpec::of(on, target) };
    DerivedSignal::of(spec).unwrap()
}

/// Sequences of one signal and of two, with every way to hold their tables.
fn plans() -> Vec<SequencePlan> {
    let one = |frequency: &str, is_motor: bool, text: &str, repeat: u32| {
        let signal = signal("vent", frequency, is_motor);
        let load = signal.spec.load.clone();
        let read = |text: &str| Setpoint::read(load.as_ref().map(|load| &load.kind), text);
        let steps = steps("vent", text, &read).unwrap();
        let sequence = Sequence { name: "test".to_owned(), steps, repeat };
        SequencePlan::of(&[Member::Signal(Box::new(signal))], &sequence).unwrap()
    };
    let read = |text: &str| Setpoint::read(None, text);
    let two = [
        steps("shutter", "from 1ms to 2ms over 1s and back", &read).unwrap(),
        steps("dew-heater", "from 0% 5% for 30ms", &read).unwrap(),
    ];
    let members = [signal("shutter", "50Hz", false), signal("dew-heater", "1kHz", false)]
        .map(|signal| Member::Signal(Box::new(signal)));
    let two = Sequence { name: "two".to_owned(), steps: two.concat(), repeat: 3 };
    vec![
        one("50Hz", false, "from 1100us to 1900us over 6s in 12 levels", 1),
        one("50Hz", false, "1ms for 100ms, 2ms for 200ms", 4),
        one("50Hz", false, "from 1ms to 2ms over 2s smooth and back", 2),
        one("1000/3Hz", false, "500us for 10ms, 1ms for 10ms", 7),
        // A hold of more periods than most of the others: it stands in the table more than once.
        one("1kHz", false, "from 0us to 90us over 900ms, hold 2s, to 0us over 500ms", 1),
        one("1kHz", true, "from 0% to 80% over 300ms, to -80% over 300ms, 0% for 50ms", 2),
        one("1kHz", true, "-100% for 5ms", 1),
        SequencePlan::of(&members, &two).unwrap(),
    ]
}

/// A sequence with a stepper that goes there, on, and back again, all of it twice.
fn stepping() -> SequencePlan {
    let stepper = Stepper {
        steps_per_turn: Rational::whole(200),
        gear: Rational::ONE,
        drive: StepDrive::FourWire { mode: PhaseMode::Half },
        rates: StepRates {
            start: "200steps/s".parse().unwrap(),
            fastest: "900steps/s".parse().unwrap(),
            acceleration: "2000steps/s2".parse().unwrap(),
            jerk: None,
        },
        travel: None,
        backlash: None,
    };
    let on = TimerUse::of(part("stm32f411"), "tim10")
        .clocked(Tolerance { nominal: "96MHz".parse().unwrap(), deviation: "0%".parse().unwrap() });
    let timer = StepTimer { on, channel: None };
    let read = |text: &str| Ok(Setpoint::Level(LoadLevel::Angle(text.parse()?)));
    let steps = steps("slit", "to 90deg, to 300deg over 2s, to 0deg", &read).unwrap();
    let sequence = Sequence { name: "turns".to_owned(), steps, repeat: 2 };
    let member = SequencedStepper { name: "slit".to_owned(), stepper, timer };
    SequencePlan::of(&[Member::Stepper(Box::new(member))], &sequence).unwrap()
}

#[test]
fn compiled_moves_of_a_sequence_have_every_interval() {
    let folder = tempfile::tempdir().unwrap();
    let plan = stepping();
    assert_eq!((plan.moves.len(), plan.tracks.len()), (6, 0));
    let mut wanted = String::new();
    let (mut c_calls, mut rust_calls) = (String::new(), String::new());
    for made in &plan.moves {
        made.made.ramp.ways[0].walk.intervals().for_each(|interval| write!(wanted, "{interval} ").unwrap());
        let own = format!("turns_slit_{}", made.step);
        writeln!(
            c_calls,
            "    {own}_begin();\n    while ((ticks = {own}_next()) != 0) printf(\"%lu \", ticks);"
        )
        .unwrap();
        writeln!(rust_calls, "    for ticks in TurnsSlit{}::new() {{ print!(\"{{ticks}} \"); }}", made.step)
            .unwrap();
    }
    let c = module(Language::C, "turns", &plan);
    let c = format!(
        "#include <stdio.h>\n{c}int main(void)\n{{\n    unsigned long ticks;\n{c_calls}    return 0;\n}}\n"
    );
    let rust = module(Language::Rust, "turns", &plan).replacen("//! ", "// ", 1);
    fs::write(folder.path().join("turns.c"), c).unwrap();
    fs::write(folder.path().join("turns.rs"), format!("{rust}fn main() {{\n{rust_calls}}}\n")).unwrap();
    let strict =
        ["-std=c99", "-pedantic", "-Wall", "-Wextra", "-Wconversion", "-Wmissing-prototypes", "-Werror"];
    run("cc", &[&strict[..], &["-o", "turns", "turns.c"]].concat(), folder.path());
    assert!(run("./turns", &[], folder.path()) == wanted);
    run("rustc", &["--edition", "2024", "-D", "warnings", "-o", "turns", "turns.rs"], folder.path());
    assert!(run("./turns", &[], folder.path()) == wanted);
}

/// The compare value of every period.
fn values(track: &LevelTrack) -> Vec<i64> {
    let value = |compare: u64, backward: bool| compare as i64 * if backward { -1 } else { 1 };
    let holds = track.holds.iter();
    holds.flat_map(|hold| vec![value(hold.compare, hold.backward); hold.periods as usize]).collect()
}

/// What each signal prints, a line each: the value of every period, and the last again.
fn wanted(plans: &[SequencePlan]) -> String {
    let mut text = String::new();
    for track in plans.iter().flat_map(|plan| &plan.tracks) {
        let values = values(track);
        values.iter().chain(values.last()).for_each(|value| write!(text, "{value} ").unwrap());
        text.push('\n');
    }
    text
}

#[test]
fn every_way_to_hold_a_table_is_among_them() {
    let plans = plans();
    let tables: Vec<_> = plans.iter().flat_map(|plan| &plan.tracks).map(LevelTrack::table).collect();
    assert!(tables.iter().any(|table| matches!(table.coding, Coding::Plain(_))));
    assert!(tables.iter().any(|table| matches!(table.coding, Coding::Differences(_))));
    assert!(tables.iter().any(|table| table.count.is_none() && table.periods.len() > 1));
    assert!(tables.iter().any(|table| table.passes > 1 && matches!(table.coding, Coding::Differences(_))));
    assert!(tables.iter().any(|table| table.value.signed));
    let again = |values: &[i64]| values.windows(2).any(|pair| pair[0] == pair[1]);
    assert!(tables.iter().any(|table| again(&table.values)), "a long hold stands there more than once");
}

#[test]
fn compiled_c_gives_every_compare_value() {
    let folder = tempfile::tempdir().unwrap();
    let plans = plans();
    let mut text = String::from("#include <stdio.h>\n");
    let mut calls = String::new();
    for (index, plan) in plans.iter().enumerate() {
        text.push_str(&module(Language::C, &format!("sequence{index}"), plan));
        writeln!(calls, "    for (int again = 0; again < 2; again++) {{\n        sequence{index}_begin();")
            .unwrap();
        writeln!(calls, "        if (sequence{index}_is_over()) return 1;").unwrap();
        for track in &plan.tracks {
            let name = track.signal.replace('-', "_");
            writeln!(
                calls,
                "        for (long left = {}; left >= 0; left--) {{\n            long value = sequence{index}_{name}_next();\n            if (again) printf(\"%ld \", value);\n        }}\n        if (again) printf(\"\\n\");",
                track.periods
            )
            .unwrap();
        }
        writeln!(calls, "        if (!sequence{index}_is_over()) return 2;\n    }}").unwrap();
    }
    write!(text, "int main(void)\n{{\n{calls}    return 0;\n}}\n").unwrap();
    fs::write(folder.path().join("sequences.c"), text).unwrap();
    let strict = ["-pedantic", "-Wall", "-Wextra", "-Wconversion", "-Wmissing-prototypes", "-Werror"];
    let words: Vec<&str> =
        std::iter::once("-std=c99").chain(strict).chain(["-O1", "-o", "sequences", "sequences.c"]).collect();
    run("cc", &words, folder.path());
    assert!(run("./sequences", &[], folder.path()) == wanted(&plans));
}

#[test]
fn compiled_rust_gives_every_compare_value() {
    let folder = tempfile::tempdir().unwrap();
    let plans = plans();
    let (mut text, mut calls) = (String::new(), String::new());
    for (index, plan) in plans.iter().enumerate() {
        let module = module(Language::Rust, &format!("sequence_{index}"), plan);
        writeln!(text, "mod sequence_{index} {{\n{module}}}").unwrap();
        for track in &plan.tracks {
            let kind = if track.signal == "dew-heater" {
                "DewHeater"
            } else if track.signal == "vent" {
                "Vent"
            } else {
                "Shutter"
            };
            writeln!(
                calls,
                "    let mut track = sequence_{index}::Sequence{index}{kind}::new();\n    for _ in 0..={} {{ print!(\"{{}} \", track.next_compare()); }}\n    assert!(track.is_over());\n    println!();",
                track.periods
            )
            .unwrap();
        }
    }
    write!(text, "fn main() {{\n{calls}}}\n").unwrap();
    fs::write(folder.path().join("sequences.rs"), text).unwrap();
    let words = [
        "--edition",
        "2024",
        "-D",
        "warnings",
        "-C",
        "overflow-checks=on",
        "-O",
        "-o",
        "sequences",
        "sequences.rs",
    ];
    run("rustc", &words, folder.path());
    assert!(run("./sequences", &[], folder.path()) == wanted(&plans));
}

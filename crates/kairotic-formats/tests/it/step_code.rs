//! Code of moves, compiled with the system's compilers and run: every interval is the one that was proved.

use std::fmt::Write as _;
use std::fs;

use kairotic_core::load::{PhaseMode, StepRates};
use kairotic_core::motion::{Climb, Coding, MicrostepTables, RampRequest, RampWay, StepRamp, Walk, Winding};
use kairotic_core::quantity::units::{ns, us};
use kairotic_core::quantity::{Rational, Time};
use kairotic_formats::map_code::Language;
use kairotic_formats::step_code::{module, phases, windings};

use super::map_code::run;

fn ramp(steps: u64, rates: [&str; 3], jerk: Option<&str>, tick: Time, most: i64) -> StepRamp {
    let [start, fastest, acceleration] = rates;
    let rates = StepRates {
        start: start.parse().unwrap(),
        fastest: fastest.parse().unwrap(),
        acceleration: acceleration.parse().unwrap(),
        jerk: jerk.map(|jerk| jerk.parse().unwrap()),
    };
    StepRamp::of(&RampRequest { steps, rates, tick, most: Rational::whole(most) }).unwrap()
}

/// Ramps of every shape, long and short, each with every way to make it.
fn ramps() -> Vec<StepRamp> {
    let usual = ["200steps/s", "4000steps/s", "10000steps/s2"];
    vec![
        ramp(3175, usual, None, ns(73), 20),
        ramp(400, ["0steps/s", "2000steps/s", "1000steps/s2"], None, us(1), 40),
        ramp(401, ["0steps/s", "2000steps/s", "1000steps/s2"], None, us(1), 1),
        ramp(1, usual, None, us(1), 1),
        ramp(2, usual, None, us(1), 1),
        ramp(3, usual, None, us(1), 1),
        // Intervals so much alike that differences of them are smaller.
        ramp(900, ["3000steps/s", "4000steps/s", "10000steps/s2"], None, ns(500), 1),
        ramp(700, ["0steps/s", "4000steps/s", "20000steps/s2"], Some("200000steps/s3"), us(1), 3),
        // One rate all the way, and one of which an interval is a whole number of ticks.
        ramp(500, ["700steps/s", "700steps/s", "1steps/s2"], None, us(1), 1),
        ramp(500, ["500steps/s", "500steps/s", "1steps/s2"], None, us(1), 1),
        // The first interval has more than 32 bits.
        ramp(20, ["0steps/s", "1steps/s", "0.001steps/s2"], None, ns(10), 1),
    ]
}

fn ways(ramps: &[StepRamp]) -> Vec<(&StepRamp, &RampWay)> {
    ramps.iter().flat_map(|ramp| ramp.ways.iter().map(move |way| (ramp, way))).collect()
}

/// What every way prints, a line each: its intervals.
fn wanted(ways: &[(&StepRamp, &RampWay)]) -> String {
    let mut text = String::new();
    for (_, way) in ways {
        way.walk.intervals().for_each(|interval| write!(text, "{interval} ").unwrap());
        text.push('\n');
    }
    text
}

#[test]
fn every_way_is_among_them() {
    let ramps = ramps();
    let ways = ways(&ramps);
    let has = |which: fn(&Walk) -> bool| ways.iter().any(|(_, way)| which(&way.walk));
    assert!(has(|walk| matches!(walk, Walk::Listed { .. })));
    assert!(has(|walk| matches!(walk, Walk::Ramped { climb: None, .. })));
    let climbs = |which: fn(&Climb) -> bool| {
        ways.iter()
            .any(|(_, way)| matches!(&way.walk, Walk::Ramped { climb: Some(climb), .. } if which(climb)))
    };
    assert!(climbs(|climb| matches!(climb, Climb::Table { coding: Coding::Plain(_), .. })));
    assert!(climbs(|climb| matches!(climb, Climb::Table { coding: Coding::Differences(_), .. })));
    assert!(climbs(|climb| matches!(climb, Climb::Plateaus { .. })));
    assert!(climbs(|climb| matches!(climb, Climb::Root(_))));
}

#[test]
fn compiled_c_makes_every_interval() {
    let folder = tempfile::tempdir().unwrap();
    let ramps = ramps();
    let ways = ways(&ramps);
    let mut text = String::from("#include <stdio.h>\n");
    let mut calls = String::new();
    for (index, (ramp, way)) in ways.iter().enumerate() {
        text.push_str(&module(Language::C, &format!("move{index}"), ramp, way));
        writeln!(
            calls,
            "    for (int again = 0; again < 2; again++) {{\n        unsigned long long ticks;\n        move{index}_begin();\n        while ((ticks = move{index}_next()) != 0)\n            if (again) printf(\"%llu \", ticks);\n        if (again) printf(\"\\n\");\n    }}"
        )
        .unwrap();
    }
    write!(text, "int main(void)\n{{\n{calls}    return 0;\n}}\n").unwrap();
    fs::write(folder.path().join("moves.c"), text).unwrap();
    let strict = ["-pedantic", "-Wall", "-Wextra", "-Wconversion", "-Wmissing-prototypes", "-Werror"];
    let words: Vec<&str> =
        std::iter::once("-std=c99").chain(strict).chain(["-O1", "-o", "moves", "moves.c"]).collect();
    run("cc", &words, folder.path());
    assert!(run("./moves", &[], folder.path()) == wanted(&ways));
}

#[test]
fn compiled_rust_makes_every_interval() {
    let folder = tempfile::tempdir().unwrap();
    let ramps = ramps();
    let ways = ways(&ramps);
    let mut text = String::new();
    let mut calls = String::new();
    for (index, (ramp, way)) in ways.iter().enumerate() {
        text.push_str(&module(Language::Rust, &format!("move_{index}"), ramp, way));
        writeln!(calls, "    for ticks in Move{index}::new() {{ print!(\"{{ticks}} \"); }}\n    println!();")
            .unwrap();
    }
    write!(text, "fn main() {{\n{calls}}}\n").unwrap();
    fs::write(folder.path().join("moves.rs"), text).unwrap();
    let words =
        ["--edition", "2024", "-D", "warnings", "-C", "overflow-checks=on", "-O", "-o", "moves", "moves.rs"];
    run("rustc", &words, folder.path());
    assert!(run("./moves", &[], folder.path()) == wanted(&ways));
}

/// The lines that are on at a position, worked out from which windings they belong to.
fn lines_on(mode: PhaseMode, position: i32) -> u8 {
    let line = |place: i32| 1_u8 << place.rem_euclid(4);
    match mode {
        PhaseMode::Wave => line(position),
        PhaseMode::Full => line(position) | line(position + 1),
        PhaseMode::Half if position.rem_euclid(2) == 0 => line(position.div_euclid(2)),
        PhaseMode::Half => line(position.div_euclid(2)) | line(position.div_euclid(2) + 1),
    }
}

#[test]
fn compiled_phases_are_those_of_the_windings() {
    let folder = tempfile::tempdir().unwrap();
    let modes = [PhaseMode::Wave, PhaseMode::Full, PhaseMode::Half];
    let mut c = String::from("#include <stdio.h>\n#include <stdint.h>\n");
    let (mut rust, mut c_calls, mut rust_calls, mut wanted) =
        (String::new(), String::new(), String::new(), String::new());
    for mode in modes {
        let name = mode.word();
        c.push_str(&phases(Language::C, name, mode));
        rust.push_str(&phases(Language::Rust, name, mode));
        writeln!(c_calls, "    for (int at = -9; at < 10; at++) printf(\"%d \", {name}_phase(at));").unwrap();
        writeln!(rust_calls, "    for at in -9..10 {{ print!(\"{{}} \", {name}_phase(at)); }}").unwrap();
        (-9..10).for_each(|at| write!(wanted, "{} ", lines_on(mode, at)).unwrap());
    }
    fs::write(folder.path().join("phases.c"), format!("{c}int main(void)\n{{\n{c_calls}    return 0;\n}}\n"))
        .unwrap();
    fs::write(folder.path().join("phases.rs"), format!("{rust}fn main() {{\n{rust_calls}}}\n")).unwrap();
    let strict =
        ["-std=c99", "-pedantic", "-Wall", "-Wextra", "-Wconversion", "-Werror", "-o", "phases", "phases.c"];
    run("cc", &strict, folder.path());
    assert_eq!(run("./phases", &[], folder.path()), wanted);
    run("rustc", &["--edition", "2024", "-D", "warnings", "-o", "phases", "phases.rs"], folder.path());
    assert_eq!(run("./phases", &[], folder.path()), wanted);
}

#[test]
fn compiled_windings_are_those_of_the_tables_on_both_sides_of_zero() {
    let folder = tempfile::tempdir().unwrap();
    let of = |microsteps, full: [u32; 2]| {
        let [first, second] = full.map(Winding::Counts);
        MicrostepTables::of(microsteps, [&first, &second]).unwrap()
    };
    // One table for both, one whose length divides no power of two, and two windings that are not alike.
    let all = [of(16, [1000; 2]), of(10, [100; 2]), of(5, [70_000, 255])];
    let mut c = String::from("#include <stdio.h>\n#include <stdint.h>\n");
    let (mut rust, mut c_calls, mut rust_calls) = (String::new(), String::new(), String::new());
    let mut wanted = String::new();
    for (index, tables) in all.iter().enumerate() {
        let name = format!("w{index}");
        c.push_str(&windings(Language::C, &name, tables));
        rust.push_str(&windings(Language::Rust, &name, tables));
        let turn = tables.first.len() as i32;
        let end = turn + 3;
        writeln!(c_calls, "    for (int at = -{end}; at < {end}; at++) printf(\"%ld %ld \", (long){name}_first(at), (long){name}_second(at));").unwrap();
        writeln!(
            rust_calls,
            "    for at in -{end}..{end} {{ print!(\"{{}} {{}} \", {name}_first(at), {name}_second(at)); }}"
        )
        .unwrap();
        for at in -end..end {
            let place = at.rem_euclid(turn) as usize;
            write!(wanted, "{} {} ", tables.first[place], tables.second[place]).unwrap();
        }
    }
    assert!(all[0].is_one_table() && !all[2].is_one_table());
    fs::write(folder.path().join("w.c"), format!("{c}int main(void)\n{{\n{c_calls}    return 0;\n}}\n"))
        .unwrap();
    fs::write(folder.path().join("w.rs"), format!("{rust}fn main() {{\n{rust_calls}}}\n")).unwrap();
    let strict = ["-std=c99", "-pedantic", "-Wall", "-Wextra", "-Wconversion", "-Werror", "-o", "w", "w.c"];
    run("cc", &strict, folder.path());
    assert_eq!(run("./w", &[], folder.path()), wanted);
    run("rustc", &["--edition", "2024", "-D", "warnings", "-o", "w", "w.rs"], folder.path());
    assert_eq!(run("./w", &[], folder.path()), wanted);
}

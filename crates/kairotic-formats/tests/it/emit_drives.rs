//! Motors that turn both ways: which line carries the PWM, and that none turns round without its pause; in both languages.

use kairotic_core::board::{DirectionLines, drives};
use kairotic_formats::emit::EmitForm;

use crate::emit::{DOME, emitted, planned};
use crate::{emit, emit_rust};

/// The demo's board whose vent has both of its lines, with a level from the start.
fn two_lines(at: &str) -> String {
    let second = "second-line = \"back\"\n\n[[signal]]\nname = \"back\"\non = \"tim1/2\"\npin = \"PA9\"\nfreq = \"18kHz..25kHz\"\nload = \"vent\"\n";
    DOME.replace(
        "at = \"60%\"\nneeds = { step = \"0.5%\" }\n",
        &format!("at = \"{at}\"\nneeds = {{ step = \"0.5%\" }}\n{second}"),
    )
}

/// The same with lines for the direction beside the one with the PWM.
fn beside() -> String {
    DOME.replace("wiring = \"two-lines\"", "wiring = \"enable-and-direction\"")
}

/// The compare values of both lines: CCR1 and CCR2 of TIM1.
fn first(value: u32) -> String {
    format!("W 32 40010034 {value:x}")
}

fn second(value: u32) -> String {
    format!("W 32 40010038 {value:x}")
}

/// The same calls in both languages, of which each is a name and a number.
fn in_both(text: &str, [in_c, in_rust]: [&str; 2], calls: &[(&str, i32)]) -> Vec<String> {
    let generic = if in_rust.is_empty() { "" } else { "::<Mine>" };
    let c: String = calls.iter().map(|(call, number)| format!("dome_vent_{call}({number}); ")).collect();
    let rust: String = calls
        .iter()
        .map(|(call, number)| match *call {
            "set" => format!("dome::set_vent{generic}(dome::VentLevel::saturating({number})); "),
            call => format!("dome::{call}_vent{generic}({number}); "),
        })
        .collect();
    let (_, seen) = emit::run_with(text, in_c, &c);
    assert_eq!(emit_rust::run_with(text, in_rust, &rust), seen, "Rust against C");
    seen
}

/// Full throttle is 1875 of 5000 ticks: 9 V of 24 V. The pause is 300 ms.
#[test]
fn the_second_line_carries_the_pwm_below_0_after_the_pause() {
    let rest = || [first(0), second(0)];
    let calls = [
        ("set", 10_000),
        ("set", -10_000),
        // Whatever went by before the pause is no part of it.
        ("tick", 5000),
        ("tick", 299),
        ("set", -20_000),
        ("tick", 1),
        // The same way again needs no pause.
        ("set", 0),
        ("set", -10_000),
        // What is at rest by the end of the pause may turn either way.
        ("set", 10_000),
        ("set", 0),
        ("tick", 1),
        ("tick", 300),
        ("set", 10_000),
    ];
    let mut expected = vec![first(1875)];
    expected.extend(rest());
    expected.push(second(1875));
    expected.extend(rest());
    expected.push(second(1875));
    expected.extend(rest());
    expected.push(first(1875));
    assert_eq!(in_both(&two_lines("60%"), ["", ""], &calls), expected);
}

#[test]
fn direction_lines_change_while_the_pwm_rests() {
    let in_c = "#define DOME_VENT_DIRECTION_SUPPLIED\nvoid dome_vent_direction(int8_t way) { printf(\"D %d\\n\", way); }";
    let in_c =
        format!("#include <stdio.h>\n#include <stdint.h>\nvoid dome_vent_direction(int8_t way);\n{in_c}");
    let in_rust = "struct Mine;\nimpl dome::Supplied for Mine { fn vent_direction(way: i8) { println!(\"D {way}\"); } }";
    let calls = [("set", 10_000), ("set", -10_000), ("tick", 400), ("tick", 400), ("set", 0)];
    let turned = |way: i32| format!("D {way}");
    let expected =
        [turned(1), first(1875), first(0), turned(0), turned(-1), first(1875), first(0), turned(0)];
    assert_eq!(in_both(&beside(), [&in_c, in_rust], &calls), expected);
    // They say the way before anything starts.
    let (_, seen) = emit::run_with(&beside(), &in_c, "dome_start();");
    assert_eq!(seen[0], turned(1));
}

/// After a second start the first line is on again: the drive knows, and turns the second on after a pause only.
#[test]
fn a_second_start_begins_as_the_first() {
    let calls = "dome_start(); dome_vent_set(-10000); dome_vent_tick(0); dome_vent_tick(300); dome_start(); puts(\"again\"); dome_vent_set(-10000);";
    let (_, seen) = emit::run_with(&two_lines("60%"), "", calls);
    let again = seen.iter().position(|line| line == "again").unwrap();
    assert_eq!(seen[again + 1..], [first(0), second(0)]);
}

/// -60 % is 60 % of the way from 700 to 1875 ticks on the other line.
#[test]
fn a_level_below_0_begins_on_the_second_line() {
    for (at, begins, compares) in [("60%", 1, [1405, 0]), ("-60%", -1, [0, 1405]), ("0%", 0, [0, 0])] {
        let (board, plan) = planned(&two_lines(at));
        assert_eq!([2, 3].map(|line| plan.signals[line].compare), compares.map(Some), "{at}");
        let drive = drives(&board)[2].unwrap();
        assert_eq!((drive.begins, drive.lines), (begins, DirectionLines::Second(3)));
    }
}

#[test]
fn what_would_turn_a_motor_round_without_a_pause_is_not_there() {
    let (_, made) = emitted(&two_lines("60%"), "dome").unwrap();
    let header = &made.files[0].text;
    assert!(header.contains("void dome_vent_tick(uint16_t elapsed_ms);"), "{header}");
    for function in ["dome_vent_set_compare", "dome_back_set_compare", "dome_back_set("] {
        assert!(!header.contains(&format!("void {function}")), "{function}");
    }
    assert_eq!(made.one_sided, Vec::<String>::new());
    // With one line alone it is as before.
    let (_, made) = emitted(DOME, "dome").unwrap();
    assert_eq!(made.one_sided, ["vent"]);
    // Forms without levels drive no line: what the board has is what counts.
    let behind_a_bus = |wiring: &str, second: &str| {
        let signal = |name: &str, on: &str| {
            format!(
                "[[signal]]\nname = \"{name}\"\non = \"pwm/{on}\"\nfreq = \"200Hz\"\nload = \"vent\"\nneeds = {{ frequency = \"2%\" }}\n"
            )
        };
        let load = format!(
            "[[load]]\nname = \"vent\"\nkind = \"motor\"\nsupply = \"24V\"\nrated = \"12V\"\nwiring = \"{wiring}\"\n"
        );
        let other = if second.is_empty() { String::new() } else { signal("back", "led1") };
        format!("schema = 1\npart = \"pca9685\"\n{load}{}{second}{other}", signal("vent", "led0"))
    };
    let second = "second-line = \"back\"\n";
    let boards =
        [("two-lines", "", &["vent"][..]), ("two-lines", second, &[]), ("enable-and-direction", "", &[])];
    for (wiring, second, alone) in boards {
        let text = behind_a_bus(wiring, second);
        let (_, made) = emit::emitted_as(&text, "dome", &[EmitForm::Bytes]).unwrap();
        assert_eq!(made.one_sided, alone, "{text}");
    }
}

#[test]
fn no_compiler_has_anything_to_say_of_a_drive() {
    for text in [two_lines("-30%"), beside()] {
        emit::compiled(&text, &["arm-none-eabi-gcc", "-mcpu=cortex-m4", "-mthumb"]);
        emit_rust::linted(&text);
    }
}

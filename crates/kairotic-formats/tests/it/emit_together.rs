//! New compare values of several channels that take effect together, and the buffers that they go to.

use crate::emit::{DOME, emitted, run_with};
use crate::emit_rust;

/// UDIS is bit 1 of CR1 at 0x40000400; CCR1 and CCR2 are at 0x34 and 0x38.
#[test]
fn the_update_waits_until_all_values_are_there() {
    let c =
        "dome_tim3_hold(); dome_shutter_set_compare(2000); dome_dome_set_compare(3000); dome_tim3_release();";
    let rust = "dome::hold_tim3(); dome::set_shutter_compare(2000); dome::set_dome_compare(3000); dome::release_tim3();";
    let limits = |value: u64, signal: usize| {
        let (plan, _) = emitted(DOME, "dome").unwrap();
        let [lowest, highest] = plan.signals[signal].limits;
        value.clamp(lowest, highest)
    };
    let put = |at: &str, value: u64| format!("W 32 400004{at} {value:x}");
    let expected = [
        "R 32 40000400 0".to_owned(),
        put("00", 2),
        put("34", limits(2000, 0)),
        put("38", limits(3000, 1)),
        "R 32 40000400 2".to_owned(),
        put("00", 0),
    ];
    assert_eq!(run_with(DOME, "", c).1, expected);
    assert_eq!(emit_rust::run_with(DOME, "", rust), expected);
}

/// Two signals on one timer that nothing else is to be supplied for.
fn two(part: &str, timer: &str, pins: [&str; 2]) -> String {
    let signal = |name: &str, channel: usize| {
        let pin = pins[channel];
        format!(
            "[[signal]]\nname = \"{name}\"\non = \"{timer}/{channel}\"\npin = \"{pin}\"\nfreq = \"1kHz\"\nduty = \"25%\"\nneeds = {{ frequency = \"2%\" }}\n"
        )
    };
    format!("schema = 1\npart = \"{part}\"\n{}{}", signal("a", 0), signal("b", 1))
}

/// CMP0BUF and CMP1BUF of TCA0 at 0xA38 and 0xA3A, LUPD of CTRLESET and CTRLECLR at 0xA05 and 0xA04; CCB0 and CCB1 of TCC0
/// at 0x42002070 and after it, LUPD of CTRLBSET and CTRLBCLR at 5 and 4.
#[test]
fn a_running_counter_gets_its_values_in_the_buffers() {
    let parts = [
        ("attiny1614", "tca0", ["PB0", "PB1"], ["W 8 a05 2", "W 16 a38 64", "W 16 a3a c8", "W 8 a04 2"]),
        (
            "samd21g18",
            "tcc0",
            ["PA08", "PA09"],
            ["W 8 42002005 2", "W 32 42002070 64", "W 32 42002074 c8", "W 8 42002004 2"],
        ),
    ];
    for (part, timer, pins, expected) in parts {
        let board = two(part, timer, pins);
        let calls = format!(
            "dome_{timer}_hold(); dome_a_set_compare(100); dome_b_set_compare(200); dome_{timer}_release();"
        );
        assert_eq!(run_with(&board, "", &calls).1, expected, "{part}");
    }
}

/// What takes a value at once holds nothing back, and one signal alone has nothing to wait for.
#[test]
fn nothing_waits_where_nothing_can() {
    for (text, has) in [
        (two("samd21g18", "tc3", ["PA18", "PA19"]), false),
        (two("attiny1614", "tca0", ["PB0", "PB1"]), true),
    ] {
        let (_, made) = emitted(&text, "dome").unwrap();
        assert_eq!(made.files[0].text.contains("_hold(void)"), has, "{text}");
    }
    let one = "schema = 1\npart = \"stm32f411\"\n[[signal]]\nname = \"a\"\non = \"tim3/1\"\nfreq = \"1kHz\"\nduty = \"25%\"\n";
    assert!(!emitted(one, "dome").unwrap().1.files[0].text.contains("_hold(void)"));
}

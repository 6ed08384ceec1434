//! Register writes and what chip simulators then measured on the pin.

use kairotic_core::part::Assignment;
use kairotic_core::quantity::{Deviation, Rational, Tolerance};
use kairotic_core::setting::{Constant, Setting};
use kairotic_core::target::Level;
use serde_json::Value;

use crate::catalogue::part;

use crate::request::{Readout, decode};

fn cases(text: &str) -> Vec<Value> {
    let file: Value = serde_json::from_str(text).unwrap();
    file["cases"].as_array().unwrap().clone()
}

/// What the writes of a case make, seen on one channel.
fn decoded(part_name: &str, timer: &str, channel: &str, clock: &str, writes: &Value) -> Setting {
    let assignments = writes
        .as_object()
        .unwrap()
        .iter()
        .map(|(name, value)| Assignment { name: name.clone(), value: value.as_u64().unwrap() })
        .collect();
    let request = Readout {
        timer: timer.to_owned(),
        base: None,
        channel: Some(channel.to_owned()),
        clock: Some(Tolerance { nominal: clock.parse().unwrap(), deviation: Deviation::ZERO }),
        assignments,
        expect: None,
        within: Deviation::ZERO,
        allow_overclock: false,
    };
    decode(part(part_name), &request).unwrap().setting
}

/// Source clocks of a period and of its active time.
fn clocks(setting: &Setting) -> (Rational, Rational) {
    let clocks = |ticks: Rational| ticks.times(setting.divider).unwrap();
    (clocks(setting.ticks.into()), clocks(setting.outputs[0].ticks))
}

/// A measured number, which has at most four binary places.
fn measured(value: &Value) -> Rational {
    Rational::new((value.as_f64().unwrap() * 16.0) as i128, 16).unwrap()
}

#[test]
fn the_atmega_does_what_two_simulators_measured() {
    let cases = cases(include_str!("vectors/avr.json"));
    assert_eq!(cases.len(), 23);
    for case in cases {
        let pin = case["pin"].as_str().unwrap();
        let channel = pin[3..].to_lowercase();
        let setting =
            decoded("atmega328p", &format!("timer{}", case["timer"]), &channel, "16MHz", &case["writes"]);
        assert_eq!(clocks(&setting), (measured(&case["period"]), measured(&case["high"])), "{}", case["id"]);
        assert_eq!(setting.outputs[0].level, Level::High, "{}", case["id"]);
    }
}

#[test]
fn the_pic_does_what_a_simulator_measured() {
    // One case of the file is of a part that is not in the catalogue.
    let mut cases = cases(include_str!("vectors/pic.json"));
    cases.retain(|case| case["part"] == "p16f877a");
    assert_eq!(cases.len(), 5);
    for case in cases {
        let setting = decoded("pic16f877a", "ccp1", "1", "20MHz", &case["writes"]);
        match case["level"].as_u64() {
            None => {
                let wanted = (measured(&case["period"]), measured(&case["high"]));
                assert_eq!(clocks(&setting), wanted, "{}", case["id"]);
            }
            Some(level) => {
                let constant = if level == 1 { Constant::Active } else { Constant::Inactive };
                assert_eq!(setting.outputs[0].constant, Some(constant), "{}", case["id"]);
            }
        }
    }
}

#[test]
fn the_rp2040_does_what_a_simulator_measured() {
    let cases = cases(include_str!("vectors/rp2040.json"));
    assert_eq!(cases.len(), 6);
    for case in cases {
        let channel = case["channel"].as_str().unwrap().to_lowercase();
        let setting =
            decoded("rp2040", &format!("slice{}", case["slice"]), &channel, "125MHz", &case["writes"]);
        match case["level"].as_u64() {
            None => {
                assert_eq!(
                    clocks(&setting),
                    (measured(&case["period"]), measured(&case["high"])),
                    "{}",
                    case["id"]
                );
            }
            Some(level) => {
                let constant = if level == 1 { Constant::Active } else { Constant::Inactive };
                assert_eq!(setting.outputs[0].constant, Some(constant), "{}", case["id"]);
            }
        }
    }
}

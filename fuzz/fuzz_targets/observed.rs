//! Files with observations: whatever the bytes, a complaint with its line, or pairs that a calibration takes or refuses.
#![no_main]

use std::sync::LazyLock;

use kairotic_core::load::{Kind, Realised, Servo};
use kairotic_core::quantity::{Duty, Rational, Time};
use kairotic_core::load::{Observation, calibrate};
use kairotic_core::target::Active;
use kairotic_formats::observations::{LoadInput, read};
use kairotic_formats::text_file::Source;
use libfuzzer_sys::fuzz_target;

static SERVO: LazyLock<Kind> = LazyLock::new(|| {
    let span = "900us..2100us".to_owned().try_into().expect("a span");
    let travel = "0deg..120deg".to_owned().try_into().expect("a travel");
    Kind::Servo(Servo { span, travel, dead_band: None, frame: None })
});

fuzz_target!(|bytes: &[u8]| {
    let source = Source { file: "seen.csv".to_owned(), bytes: bytes.to_vec() };
    let Ok(pairs) = read(&source, &SERVO) else { return };
    // In a frame of 20 ms, with compare values of a microsecond.
    let given = |given: LoadInput| {
        let pulse = match given {
            LoadInput::Active(Active::Pulse(pulse)) => pulse.value(),
            LoadInput::Active(Active::Duty(duty)) => duty.value().over(Rational::whole(50))?,
            LoadInput::Compare(compare) => Rational::from(compare).over(Rational::whole(1_000_000))?,
        };
        let duty = Duty::new(pulse.times(Rational::whole(50))?);
        Some(Realised { duty, pulse: Time::new(pulse) })
    };
    let observations: Option<Vec<Observation>> =
        pairs.into_iter().map(|(seen, reading)| Some(Observation { given: given(seen)?, reading })).collect();
    if let Some(observations) = observations {
        let _ = calibrate(&SERVO, &observations);
    }
});

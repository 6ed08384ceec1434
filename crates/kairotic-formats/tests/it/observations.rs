//! Files with observations.

use kairotic_core::load::{Kind, ObservedValue, Servo};
use kairotic_core::target::Active;
use kairotic_formats::observations::{LoadInput, read};
use kairotic_formats::text_file::Source;

fn servo() -> Kind {
    let span = "900us..2100us".to_owned().try_into().unwrap();
    let travel = "0deg..120deg".to_owned().try_into().unwrap();
    Kind::Servo(Servo { span, travel, dead_band: None, frame: None, slew: None })
}

fn seen(text: &[u8]) -> Result<Vec<(LoadInput, String)>, String> {
    let source = Source { file: "seen.csv".to_owned(), bytes: text.to_vec() };
    let pairs = read(&source, &servo()).map_err(|error| error.to_string())?;
    Ok(pairs
        .into_iter()
        .map(|(given, reading): (LoadInput, ObservedValue)| (given, reading.told()))
        .collect())
}

#[test]
fn pulses_duties_and_compare_values_stand_beside_what_was_seen() {
    let found = seen(b"given,seen\n# the shutter\n 1000us , 7deg\n\n7.5%,57deg\n2000,-107.5deg\n").unwrap();
    let expected = [
        (LoadInput::Active(Active::Pulse("1ms".parse().unwrap())), "7 deg"),
        (LoadInput::Active(Active::Duty("7.5%".parse().unwrap())), "57 deg"),
        (LoadInput::Compare(2000), "-107.5 deg"),
    ];
    assert_eq!(found.len(), 3);
    for ((given, seen), expected) in found.iter().zip(expected) {
        assert_eq!((*given, seen.as_str()), expected);
    }
}

#[test]
fn what_is_wrong_is_told_with_its_line() {
    // Only the first line may be a heading.
    for (text, line, says) in [
        (&b"1000us,7deg\ngiven,seen\n"[..], 2, "expected an angle"),
        (b"1000us,7deg\n1500us\n", 2, "expected what was given and what was seen, found `1500us`"),
        (b"1000us,7deg\n# one\n1500us,57deg,1\n", 3, "found `1500us,57deg,1`"),
        (b"1000us,7deg\n1500Hz,57deg\n", 2, "`Hz` is not a unit"),
        (b"1000us,7deg\n\xff\xfe,57deg\n", 2, "expected text in UTF-8"),
    ] {
        let told = seen(text).unwrap_err();
        assert!(told.starts_with(&format!("seen.csv:{line}: ")) && told.contains(says), "{told}");
    }
    assert_eq!(seen(b"").unwrap(), []);
}

//! `--plot`: pictures of results.

use std::fs;

use crate::run::{Run, run_words};

const DOME: &str = include_str!("../../../../demo/dome.toml");

/// Runs a line with `--plot` in a folder of its own that holds the dome's board file; what was drawn.
fn drawn(line: &str, name: &str) -> (Run, Option<Vec<u8>>) {
    let folder = tempfile::tempdir().unwrap();
    fs::write(folder.path().join("dome.toml"), DOME).unwrap();
    let line = format!("{line} --plot {name}");
    let run = run_words(line.split(' '), folder.path(), &[]);
    let bytes = fs::read(folder.path().join(name)).ok();
    // Nothing else is left behind.
    assert_eq!(fs::read_dir(folder.path()).unwrap().count(), 1 + usize::from(bytes.is_some()));
    (run, bytes)
}

#[test]
fn text_is_text_in_svg() {
    for (line, words) in [
        ("budget --board dome.toml --signal shutter", ["clock tolerance", "worst case"]),
        (
            "budget --board dome.toml --signal shutter --population 500",
            ["500 boards", "error of the level in deg"],
        ),
        ("scale --from 0..1023 --to 1800..4200", ["compare value", "off the line, in steps"]),
        // Always 4096 counts: a level line.
        ("survey --freq 100Hz --duty 30% --within 1% --part pca9685", ["pca9685/pwm", "100 Hz"]),
        ("survey --freq 1kHz --duty 30% --part atmega328p", ["1 MHz: atmega328p/timer1", "10 kHz"]),
    ] {
        let (run, bytes) = drawn(line, "picture.svg");
        assert_eq!(run.code, 0, "{line}: {run:?}");
        let svg = String::from_utf8(bytes.unwrap()).unwrap();
        assert!(svg.starts_with("<svg ") && svg.contains(r#"width="1280" height="800""#), "{line}");
        for word in words {
            let texts = svg.split("<text").skip(1).filter_map(|text| text.split_once('>'));
            let mut texts = texts.map(|(_, rest)| rest.split("</text>").next().unwrap_or_default());
            assert!(texts.any(|text| text.contains(word)), "{line}: {word}");
        }
    }
}

#[test]
fn the_bars_stand_where_the_numbers_are() {
    // A clock of 1 % takes a pulse as far as its whole limit: the bar reaches from line to line.
    let line = "budget --on atmega328p/timer1 --clock 8MHz+-1% --freq 50Hz --pulse 1500us --need pulse=16us";
    let svg = String::from_utf8(drawn(line, "bars.svg").1.unwrap()).unwrap();
    let number = |tag: &str, name: &str| {
        let rest = tag.split_once(&format!(" {name}=\"")).unwrap().1;
        rest.split('"').next().unwrap().parse::<f64>().unwrap()
    };
    let bar = svg.split("<rect").find(|tag| tag.contains(r##"fill="#0072B2""##)).unwrap();
    let (left, width) = (number(bar, "x"), number(bar, "width"));
    let limits: Vec<f64> = svg
        .split("<polyline")
        .filter_map(|tag| tag.split('>').next())
        .filter(|tag| tag.contains("#D55E00"))
        .map(|tag| tag.split_once("points=\"").unwrap().1.split(',').next().unwrap().parse().unwrap())
        .collect();
    let [low, high] = limits.as_slice() else { panic!("{limits:?}") };
    // From -1500/101 us to 1500/99 us on an axis where the limits are 16 us either way.
    let at = |micros: f64| f64::midpoint(*low, *high) + micros / 16.0 * (high - low) / 2.0;
    assert!((left - at(-1500.0 / 101.0)).abs() < 2.0, "{left} {limits:?}");
    assert!((left + width - at(1500.0 / 99.0)).abs() < 2.0, "{left} {width} {limits:?}");
}

#[test]
fn a_png_has_1280_by_800_pixels() {
    let (_, bytes) = drawn("scale --from 0..1023 --to 1800..4200", "map.PNG");
    let bytes = bytes.unwrap();
    assert_eq!(&bytes[..8], b"\x89PNG\r\n\x1a\n");
    assert_eq!((&bytes[16..20], &bytes[20..24]), (&1280_u32.to_be_bytes()[..], &800_u32.to_be_bytes()[..]));
}

#[test]
fn what_cannot_be_drawn_leaves_no_file() {
    let (run, bytes) = drawn("scale --from 0..1023 --to 1800..4200", "map.jpg");
    assert!(run.code == 2 && run.stderr.contains("ends in .svg or .png, found `map.jpg`"), "{run:?}");
    assert_eq!(bytes, None);
    let (run, bytes) = drawn("survey --freq 1kHz --duty 30% --part atmega328p", "nowhere/steps.svg");
    assert!(run.code == 3 && run.stderr.contains("cannot save nowhere/steps.svg"), "{run:?}");
    assert_eq!(bytes, None);
}

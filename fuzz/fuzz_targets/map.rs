//! Maps from inputs to compare values: refused, or arithmetic whose error and widest number hold for every input.
#![no_main]

use kairotic_core::quantity::Rational;
use kairotic_core::scale::{Map, MapRequest, Word, findings, scale};
use kairotic_formats::map_code::{Language, function};
use libfuzzer_sys::fuzz_target;

fuzz_target!(|input: (i16, u16, u32, u32, u16, bool, u8)| {
    let (from, run, first, last, parts, wide, most) = input;
    let end = |at: u32| Rational::new(at.into(), i128::from(parts).max(1)).expect("a fraction");
    let from = i64::from(from);
    let map = Map { from, to: from + i64::from(run % 2048), first: end(first), last: end(last) };
    let word = if wide { Word::BITS_32 } else { Word::BITS_16 };
    let most = Rational::new(i128::from(most) + 1, 16).expect("a fraction");
    let Ok(found) = scale(MapRequest { map, word, most }) else { return };
    assert!(found.widest <= word.largest(), "{found:?}");
    assert_eq!(found.met, found.error <= most, "{found:?}");
    let mut largest = Rational::ZERO;
    for input in map.from..=map.to {
        let made = Rational::from(found.form.value(&map, input.abs_diff(map.from)));
        let off = map.exact(input).ok().and_then(|exact| made.minus(exact)).expect("an error").magnitude();
        largest = largest.max(off);
    }
    assert_eq!(largest, found.error, "{found:?}");
    let _ = (findings(&found), function(Language::C, "map", &found), function(Language::Rust, "map", &found));
});

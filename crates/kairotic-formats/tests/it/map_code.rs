//! Generated arithmetic, compiled with the system's compilers and compared for every input.

use std::fmt::Write as _;
use std::fs;
use std::path::Path;
use std::process::Command;

use kairotic_core::quantity::Rational;
use kairotic_core::scale::{Form, Map, MapRequest, ScaledMap, Word, scale};
use kairotic_formats::map_code::{Language, arithmetic, function};

/// Maps of every form, rising and falling, from below zero, in both words.
fn maps() -> Vec<ScaledMap> {
    let within = |from, to, first, last, word, halves| {
        let most = Rational::new(halves, 2).unwrap();
        scale(MapRequest { map: Map::between(from, to, (first, last)), word, most }).unwrap()
    };
    let ask = |from, to, first, last, word| within(from, to, first, last, word, 1);
    vec![
        ask(0, 1023, 1800, 4200, Word::BITS_16),
        ask(0, 1023, 1800, 4200, Word::BITS_32),
        ask(0, 1023, 4200, 1800, Word::BITS_16),
        ask(-100, 100, 250, 1250, Word::BITS_16),
        ask(-100, 100, 1250, 251, Word::BITS_32),
        ask(-32_768, 32_767, 0, 65_535, Word::BITS_16),
        ask(0, 7, 10, 345, Word::BITS_16),
        ask(-3, 3, 500, 20, Word::BITS_16),
        // 256/273 of 12 bits: no product that rounds it exactly fits 16.
        within(0, 4095, 2880, 6720, Word::BITS_16, 4),
        ask(0, 65_535, 0, 255, Word::BITS_16),
        ask(0, 255, 0, 255, Word::BITS_16),
        ask(0, 200_000, 7, 60_011, Word::BITS_32),
        // No arithmetic of 16 bits meets half a step here: bits of the input are dropped.
        ask(0, 65_535, 4109, 39_007, Word::BITS_16),
        ask(-32_768, 32_767, 5699, 40_439, Word::BITS_16),
        ask(0, 1000, 3000, 1000, Word::BITS_16),
        // Ends between two compare values.
        exact(0, 4095, (2500, 17), (8750, 17), Word::BITS_16),
        exact(0, 255, (8750, 17), (2500, 17), Word::BITS_16),
        exact(-2000, 2000, (9001, 8), (17_003, 8), Word::BITS_32),
        // A division, where one multiplication is not exact enough for words of 32 bits.
        within(0, 99_999, 0, 1_234_567_891, Word::BITS_32, 1),
    ]
}

fn exact(from: i64, to: i64, first: (i128, i128), last: (i128, i128), word: Word) -> ScaledMap {
    let end = |(parts, of): (i128, i128)| Rational::new(parts, of).unwrap();
    let map = Map { from, to, first: end(first), last: end(last) };
    scale(MapRequest { map, word, most: Rational::new(1, 2).unwrap() }).unwrap()
}

pub(super) fn run(program: &str, words: &[&str], folder: &Path) -> String {
    let output = Command::new(program).args(words).current_dir(folder).output().unwrap();
    assert!(output.status.success(), "{program}: {}", String::from_utf8_lossy(&output.stderr));
    String::from_utf8(output.stdout).unwrap()
}

/// What every function prints, a line each: its compare values.
fn wanted(maps: &[ScaledMap]) -> String {
    let mut text = String::new();
    for scaled in maps {
        let map = scaled.request.map;
        for x in 0..=map.run() {
            write!(text, "{} ", scaled.form.value(&map, x)).unwrap();
        }
        text.push('\n');
    }
    text
}

#[test]
fn every_form_is_among_them() {
    let forms = maps();
    let has = |which: fn(&Form) -> bool| forms.iter().any(|scaled| which(&scaled.form));
    assert!(has(|form| matches!(form, Form::Table(_))) && has(|form| matches!(form, Form::Remainder { .. })));
    assert!(
        has(|form| matches!(form, Form::Shift { .. })) && has(|form| matches!(form, Form::Divide { .. }))
    );
    assert!(has(|form| matches!(form, Form::Halves { .. })));
    // What is missed is missed by less than a step.
    let missed: Vec<&ScaledMap> = forms.iter().filter(|scaled| !scaled.met).collect();
    assert!(missed.iter().all(|scaled| scaled.error < Rational::ONE), "{missed:?}");
}

#[test]
fn compiled_c_agrees_for_every_input() {
    let folder = tempfile::tempdir().unwrap();
    let maps = maps();
    let mut text = String::from("#include <stdio.h>\n");
    let mut calls = String::new();
    for (index, scaled) in maps.iter().enumerate() {
        text.push_str(&function(Language::C, &format!("map{index}"), scaled));
        let Map { from, to, .. } = scaled.request.map;
        let (kind, bits) = (if from < 0 { "" } else { "u" }, scaled.request.word.bits());
        writeln!(
            calls,
            "    for (long i = {from}; i <= {to}; i++) printf(\"%lu \", (unsigned long)map{index}(({kind}int{bits}_t)i));"
        )
        .unwrap();
        calls.push_str("    printf(\"\\n\");\n");
    }
    write!(text, "int main(void)\n{{\n{calls}    return 0;\n}}\n").unwrap();
    fs::write(folder.path().join("maps.c"), text).unwrap();
    let strict = ["-pedantic", "-Wall", "-Wextra", "-Wconversion", "-Wmissing-prototypes", "-Werror"];
    let words: Vec<&str> =
        std::iter::once("-std=c99").chain(strict).chain(["-O1", "-o", "maps", "maps.c"]).collect();
    run("cc", &words, folder.path());
    assert!(run("./maps", &[], folder.path()) == wanted(&maps));
}

#[test]
fn compiled_rust_agrees_for_every_input() {
    let folder = tempfile::tempdir().unwrap();
    let maps = maps();
    let mut text = String::new();
    let mut calls = String::new();
    for (index, scaled) in maps.iter().enumerate() {
        text.push_str(&function(Language::Rust, &format!("map{index}"), scaled));
        let Map { from, to, .. } = scaled.request.map;
        writeln!(
            calls,
            "    for input in {from}..={to} {{ print!(\"{{}} \", map{index}(input)); }}\n    println!();"
        )
        .unwrap();
    }
    write!(text, "fn main() {{\n{calls}}}\n").unwrap();
    fs::write(folder.path().join("maps.rs"), text).unwrap();
    // Overflow checks stay on: what is proved not to overflow does not panic.
    run(
        "rustc",
        &["-D", "warnings", "-C", "overflow-checks=on", "-O", "-o", "maps", "maps.rs"],
        folder.path(),
    );
    assert!(run("./maps", &[], folder.path()) == wanted(&maps));
}

/// Reads an arithmetic as a compiler does and works it out; the largest number on the way is kept.
struct Reader<'t> {
    rest: &'t str,
    x: u128,
    widest: u128,
}

impl Reader<'_> {
    fn takes(&mut self, sign: &str) -> bool {
        let found = self.rest.trim_start().strip_prefix(sign);
        self.rest = found.unwrap_or(self.rest);
        found.is_some()
    }

    fn kept(&mut self, number: u128) -> u128 {
        self.widest = self.widest.max(number);
        number
    }

    fn shifts(&mut self) -> u128 {
        let mut value = self.sum();
        loop {
            let made = if self.takes(">>") {
                value >> self.sum()
            } else if self.takes("&") {
                value & self.sum()
            } else {
                return value;
            };
            value = self.kept(made);
        }
    }

    fn sum(&mut self) -> u128 {
        let mut value = self.product();
        loop {
            let made = if self.takes("+") {
                value + self.product()
            } else if self.takes("-") {
                value - self.product()
            } else {
                return value;
            };
            value = self.kept(made);
        }
    }

    fn product(&mut self) -> u128 {
        let mut value = self.term();
        loop {
            let made = if self.takes("*") {
                value * self.term()
            } else if self.takes("/") {
                value / self.term()
            } else if self.takes("%") {
                value % self.term()
            } else {
                return value;
            };
            value = self.kept(made);
        }
    }

    fn term(&mut self) -> u128 {
        if self.takes("(") {
            let value = self.shifts();
            assert!(self.takes(")"), "{}", self.rest);
            return value;
        }
        if self.takes("x") {
            return self.kept(self.x);
        }
        let text = self.rest.trim_start();
        let end = text.find(|letter: char| !letter.is_ascii_digit()).unwrap_or(text.len());
        let number = text[..end].parse().unwrap();
        self.rest = &text[end..];
        number
    }
}

#[test]
fn the_widest_number_is_one_that_occurs() {
    for scaled in maps().iter().filter(|scaled| !matches!(scaled.form, Form::Table(_))) {
        let map = &scaled.request.map;
        let text = arithmetic(&scaled.form, map);
        // The base stands in the code whatever the input; other constants are parts of a product or a sum.
        let mut widest = u128::from(map.base());
        for x in 0..=map.run() {
            let mut reader = Reader { rest: &text, x: x.into(), widest };
            assert_eq!(reader.shifts(), scaled.form.value(map, x).into(), "{text} at {x}");
            widest = reader.widest;
        }
        assert_eq!(widest, scaled.widest, "{text}");
    }
}

//! Variants of a family: what each of them is, and what cannot be one.

use kairotic_core::part::Part;
use kairotic_formats::part_file;
use kairotic_formats::text_file::{FileError, Source};

const FAMILY: &str = include_str!("../../../../parts/stm32f103.toml");
const BLOCKS: &str = include_str!("../../../../parts/blocks/stm32-timers.toml");

fn source(file: &str, text: &str) -> Source {
    Source { file: file.to_owned(), bytes: text.as_bytes().to_vec() }
}

/// The family with one variant alone.
fn with_variant(variant: &str) -> Result<Part, FileError> {
    let (before, after) = FAMILY.split_once("[[variants]]").unwrap();
    let after = &after[after.find("[[oscillators]]").unwrap()..];
    let text = format!("{before}[[variants]]\n{variant}\n{after}");
    part_file::read(&source("mine.toml", &text), &|_| Some(source("blocks.toml", BLOCKS)))
}

const SMALL: &str = "name = \"stm32f103s\"
title = \"the small one\"
order_codes = [\"STM32F103S[48]*\"]
timers = [\"tim1\", \"tim3\"]
maximum = { apb2 = \"36 MHz\", sysclk = \"36 MHz\" }
package = { name = \"STM32F103S8\", pins = [\"PA{pin=0..15}\", \"PB{pin=0..1}\"] }
facts = [{ says = \"it has less of everything\", document = \"datasheet\", trust = \"memory\" }]";

#[test]
fn a_variant_has_what_it_says_and_else_what_the_family_has() {
    let family = with_variant(SMALL).unwrap();
    let small = family.variant_parts().next().unwrap();
    assert_eq!((small.name.as_str(), small.title.as_str()), ("stm32f103s", "the small one"));
    assert!(small.order_codes[0].means("stm32f103s8t6") && !small.order_codes[0].means("STM32F103SCT6"));
    let timers: Vec<&str> = small.timers.iter().map(|timer| timer.name.as_str()).collect();
    assert_eq!(timers, ["tim1", "tim3"]);
    // The clock of the timers that count the slower one, its node, and those that are as they were.
    assert_eq!(small.clocks["apb2"].maximum.to_string(), "36 MHz");
    assert_eq!(small.clocks["apb1"].maximum.to_string(), "72 MHz");
    let tree = small.tree.as_ref().unwrap();
    assert_eq!(tree.node("sysclk").unwrap().gives.unwrap().high.to_string(), "36 MHz");
    // TIM1's outputs on PA8 to PA11 are there, its complements on PB13 are not, and TIM2 has no pins any more.
    let pinout = small.pinout.as_ref().unwrap();
    let outputs = pinout.outputs();
    assert_eq!(pinout.package, "STM32F103S8");
    assert!(outputs.iter().any(|output| output.pin == "PA8" && output.output() == "tim1/1"));
    assert!(outputs.iter().all(|output| output.pin != "PB13" && output.timer != "tim2"));
    assert!(small.bring_up.as_ref().unwrap().timers.keys().eq(["tim1", "tim3"]));
    assert!(small.facts().any(|fact| fact.says == "it has less of everything"));
    assert!(small.variants.is_empty());
}

#[test]
fn without_a_package_no_pins_are_told() {
    let text = SMALL.lines().filter(|line| !line.starts_with("package")).collect::<Vec<_>>().join("\n");
    assert_eq!(with_variant(&text).unwrap().variant_parts().next().unwrap().pinout, None);
}

/// One test for each line: name, what is put in the place of what, the complaint.
macro_rules! refused {
    ($($name:ident: $old:literal => $new:literal, $key:literal, $message:literal;)*) => {$(
        #[test]
        fn $name() {
            let error = with_variant(&SMALL.replacen($old, $new, 1)).unwrap_err();
            let problem = &error.problems[0];
            assert_eq!(problem.key, $key, "{problem:?}");
            assert!(problem.message.contains($message), "{problem:?}");
        }
    )*};
}

refused! {
    the_family_s_own_name: "\"stm32f103s\"" => "\"stm32f103\"", "variants[0].name", "a part `stm32f103` already";
    a_timer_that_the_family_has_not: "\"tim3\"" => "\"tim9\"", "variants[0].timers[1]", "no timer `tim9`";
    a_clock_that_the_family_has_not: "apb2 =" => "apb9 =", "variants[0].maximum.apb9", "no clock and no limited node";
    a_clock_that_is_faster: "sysclk = \"36 MHz\"" => "sysclk = \"144 MHz\"", "variants[0].maximum.sysclk", "at most the family's 72 MHz";
    a_name_with_capitals: "\"stm32f103s\"" => "\"STM32F103S\"", "variants[0]", "lower-case";
    a_code_that_is_no_pattern: "S[48]*" => "S[48*", "variants[0].order_codes", "a pattern of order codes";
    a_code_with_a_slash: "S[48]*" => "S/P*", "variants[0].order_codes", "it has a slash";
    a_document_that_is_not_there: "document = \"datasheet\"" => "document = \"hearsay\"", "variants[0]", "a key of [documents]";
}

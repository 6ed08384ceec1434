//! Broken family files: each complaint points at the line and the key, and nothing panics.

use kairotic_core::part::Part;
use kairotic_formats::part_file;
use kairotic_formats::text_file::{FileError, Problem, Source};
use proptest::prelude::*;

use crate::catalogue::block_file;
use crate::spoil::{cuts, spoiled};

/// A family file that is right; each test makes one thing wrong.
const SOUND: &str = include_str!("sound.toml");

/// Reads a family file, with the block files of the repository within reach.
fn read(bytes: &[u8]) -> Result<Part, FileError> {
    part_file::read(&Source { file: "mine.toml".to_owned(), bytes: bytes.to_vec() }, &block_file)
}

fn complaint(text: &str) -> Problem {
    let error = read(text.as_bytes()).unwrap_err();
    error.problems[0].clone()
}

/// One test for each line: name, what is replaced, by what, the key complained about, a piece of the message.
macro_rules! broken {
    ($sound:ident: $($name:ident: $from:literal => $to:literal, $key:literal, $says:literal;)*) => {
        $(#[test]
        fn $name() {
            assert!($sound.contains($from), "the sound file has no `{}`", $from);
            let text = $sound.replacen($from, $to, 1);
            let problem = complaint(&text);
            assert!(problem.message.contains($says), "{problem:?}");
            assert_eq!(problem.key, $key);
            let line = text.lines().nth(problem.line - 1).unwrap();
            assert!(line.trim().starts_with(&problem.excerpt), "{problem:?}");
            assert!(problem.line > 1 || $key == "schema", "{problem:?}");
        })*
    };
}

broken! { SOUND:
    another_schema: "schema = 1" => "schema = 2", "schema", "expected 1, found 2";
    a_name_with_capitals: "name = \"slice3\"" => "name = \"Slice3\"", "timers[3].name", "lower-case";
    a_timer_twice: "name = \"slice3\"" => "name = \"slice2\"", "timers[3].name", "already";
    a_clock_that_is_not_there: "clock = \"sys\"" => "clock = \"usb\"", "timers[0].clock", "expected a key of [clocks]";
    a_block_that_is_not_there: "block = \"slice\"" => "block = \"piece\"", "timers[0].block", "expected a key of [blocks]";
    an_unknown_key: "counter_bits = 16" => "counter_bit = 16", "blocks.slice.counter_bit", "unknown field";
    a_number_for_a_word: "usual = true" => "usual = 1", "blocks.slice.modes[0].usual", "invalid type";
    a_frequency_without_unit: "maximum = \"133 MHz\"" => "maximum = \"133\"", "clocks.sys.maximum", "the unit is missing";
    a_limit_below_the_default: "maximum = \"133 MHz\"" => "maximum = \"5 MHz\"", "clocks.sys.maximum", "at least the default";
    a_document_that_is_not_there: "document = \"datasheet\", trust = \"memory\" }]\n\n[[osc" => "document = \"sheet\", trust = \"memory\" }]\n\n[[osc", "oscillators[0].facts[0].document", "expected a key of [documents]";
    a_buffer_of_another_width: "compare = [\"CC.A\"]" => "compare = [\"CC.A\"]\nbuffer = [\"CC\"]", "blocks.slice.channels", "channel a: `buffer` has to be as wide as `compare`";
    a_hold_by_a_field_that_is_not_there: "counter_bits = 16" => "counter_bits = 16\norder = { hold = { begin = \"CSR.HELD\", end = \"TOP\", means = \"waits\" } }", "blocks.slice.order.hold.begin", "HELD";
    no_counter_bits: "counter_bits = 16" => "counter_bits = 0", "blocks.slice.counter_bits", "1 to 64";
    a_field_beyond_its_register: "TOP = { bits = 16 }" => "TOP = { bits = 16, fields = { ALL = \"16:0\" } }", "blocks.slice.registers.TOP.fields.ALL", "reaches beyond";
    fields_that_overlap: "A = \"15:0\", B = \"31:16\"" => "A = \"15:0\", B = \"31:15\"", "blocks.slice.registers.CC.fields.B", "overlaps";
    bits_the_wrong_way_round: "INT = \"11:4\"" => "INT = \"4:11\"", "blocks.slice.registers.DIV.fields.INT", "bit positions";
    a_divider_from_zero: "min = 16, max = 4095" => "min = 0, max = 4095", "blocks.slice.dividers[0].steps", "expected 1 <= min";
    a_divider_that_does_not_fit: "max = 4095" => "max = 4096", "blocks.slice.dividers[0]", "does not fit";
    a_top_without_register: "slot = [\"TOP\"]" => "slot = [\"PER\"]", "blocks.slice.modes[0].top", "no register field `PER`";
    a_role_that_is_not_there: "role = \"invert\"" => "role = \"negate\"", "blocks.slice.polarity", "no role `negate`";
    a_point_that_is_no_rule: "full = \"top+1\"" => "full = \"top-1\"", "blocks.slice.modes[0].compare.linear.full", "expected `never` or a rule";
    a_full_point_off_by_one: "full = \"top+1\"" => "full = \"top\"", "blocks.slice.modes[0].compare.linear.full", "the law gives";
    a_reach_that_is_not_so: "full_at_largest_top = false" => "full_at_largest_top = true", "blocks.slice.modes[0].compare.linear.full_at_largest_top", "is beyond";
    a_law_that_could_not_be_played: "gain = 1" => "gain = 1000000", "blocks.slice.modes[0].compare", "no number beyond";
    a_law_against_its_behaviour: "plus = 1 }" => "plus = 2 }", "blocks.slice.modes[0].compare.linear.full", "the law gives";
    a_behaviour_against_its_law: "counting = \"up\"\n" => "counting = \"up-down\"\n", "blocks.slice.modes[0]", "law and behaviour disagree";
}

/// A family with dead time, pins that move together, and a clock tree.
const SURROUNDED: &str = include_str!("../../../../parts/stm32f103.toml");

broken! { SURROUNDED:
    a_dead_time_that_does_not_rise: "{ from = 128, to = 191, counts = 128, step = 2 }" => "{ from = 128, to = 191, counts = 12, step = 2 }", "timers[0].with.dead_time.segments", "ascending order";
    a_dead_time_that_does_not_step: "counts = 256, step = 8" => "counts = 256, step = 0", "timers[0].with.dead_time.segments", "ascending order";
    a_dead_time_code_that_does_not_fit: "to = 255, counts = 512" => "to = 256, counts = 512", "timers[0].with.dead_time.slots", "does not fit";
    a_dead_time_field_that_is_not_there: "slots = [[\"BDTR.DTG\"]]" => "slots = [[\"BDTR.DTX\"]]", "timers[0].with.dead_time.slots", "no register field `BDTR.DTX`";
    a_dead_divider_by_zero: "taps = [{ by = 1, code = 0 }" => "taps = [{ by = 0, code = 0 }", "timers[0].with.dead_time.divider", "dividing by 1 or more";
    a_complement_of_no_channel: "outputs = { 1 = [" => "outputs = { 9 = [", "timers[0].with.dead_time.outputs.9", "no channel `9`";
    a_complement_whose_value_does_not_fit: "[\"CCER.CC1NE\"]" => "[\"CCER.CC1NE=2\"]", "timers[0].with.dead_time.outputs.1", "does not fit";
    a_complement_without_a_number: "[\"CCER.CC1NE\"]" => "[\"CCER.CC1NE=on\"]", "timers[0].with.dead_time.outputs.1", "expected a register field such as";
    a_remap_of_no_timer: "timer = \"tim2\"" => "timer = \"tim7\"", "pinout", "PA0 has tim7/1, which is no channel";
    a_clock_that_is_no_node: "node = \"apb1-timers\"" => "node = \"apb3\"", "clocks.apb1.node", "no node `apb3`";
    a_system_clock_that_is_no_node: "system = \"sysclk\"" => "system = \"cpu\"", "tree.system", "no node `cpu`";
    a_node_twice: "name = \"hse-pll\"" => "name = \"hsi-half\"", "tree.nodes[3].name", "a node or switch `hsi-half` already";
    a_node_with_capitals: "name = \"hse-pll\"" => "name = \"HSE-PLL\"", "tree.nodes[3].name", "lower-case";
    a_word_of_three_bytes: "word = 32" => "word = 24", "memory.word", "8, 16 or 32 bits";
    a_gate_that_is_not_there: "RCC_APB1ENR.TIM2EN\"" => "RCC_APB1ENR.TIM22EN\"", "bring_up.timers.tim2[0]", "RCC_APB1ENR.TIM22EN";
    a_gate_that_does_not_fit: "RCC_APB1ENR.TIM2EN\"" => "RCC_APB1ENR.TIM2EN=2\"", "bring_up.timers.tim2[0]", "2 does not fit";
    a_recipe_for_no_timer: "\ntim2 = [{ set" => "\ntim22 = [{ set", "bring_up.timers.tim22", "no timer `tim22`";
    a_recipe_for_no_node: "[bring_up.nodes.hse]" => "[bring_up.nodes.hsx]", "bring_up.nodes.hsx", "no node `hsx`";
    a_step_of_two_kinds: "{ set = \"RCC_CR.HSEON\"," => "{ set = \"RCC_CR.HSEON\", delay = \"1ms\",", "bring_up.nodes.hse.after[0]", "expected one of";
    wait_states_that_fall: "to = \"48 MHz\", code = 1" => "to = \"24 MHz\", code = 1", "bring_up.speed[0].steps", "that rise";
    pins_the_wrong_way_round: "{pin=0..7}" => "{pin=7..0}", "bring_up.pins[0].pins", "a pattern of pin names";
    a_formula_that_is_none: "0x40010800 + 0x400*{port}" => "0x40010800 + *{port}", "bring_up.registers.GPIO{port}_CRL.at", "whole numbers and {names}";
    a_formula_without_a_name: "low = \"4*{pin}\"" => "low = \"4*{bit}\"", "bring_up.pins[0].steps[1]", "no field and value for PA0";
    an_oscillator_that_is_not_there: "input.oscillator = \"HSI\"" => "input.oscillator = \"RC\"", "tree.nodes[0].input", "no oscillator `RC`";
    a_band_the_wrong_way_round: "takes = \"1 MHz..25 MHz\"" => "takes = \"25 MHz..1 MHz\"", "tree.nodes[4].takes", "lower end first";
    a_node_that_comes_later: "input.node = \"hsi\"" => "input.node = \"pll\"", "tree.nodes[2].input", "stands further up";
    a_route_from_nowhere: "{ from = \"hse\", code = 1 }, { from = \"pll\"" => "{ from = \"lse\", code = 1 }, { from = \"pll\"", "tree.nodes[5].input", "stands further up";
    a_route_code_that_does_not_fit: "{ from = \"pll\", code = 2 }" => "{ from = \"pll\", code = 4 }", "tree.nodes[5].input", "does not fit";
    a_division_by_zero: "scale.by = 2" => "scale.by = 0", "tree.nodes[2].scale", "at least 1";
    a_reset_that_divides_by_nothing: "PPRE1\"], steps = { list = [{ by = 1, code = 0 }" => "PPRE1\"], steps = { list = [{ by = 1, code = 3 }", "tree.nodes[7].scale.reset", "expected one of";
    a_multiplier_whose_codes_repeat: "{ by = 3, code = 1 }, { by = 4, code = 2 }" => "{ by = 3, code = 1 }, { by = 4, code = 1 }", "tree.nodes[4].scale.steps", "a different code for each tap";
    rules_without_a_last_one: "{ times = 2, says = \"PCLK1 is divided: twice PCLK1\" }" => "{ times = 2, when = { apb1 = [2] }, says = \"PCLK1 is divided: twice PCLK1\" }", "tree.nodes[9].scale", "a last rule without conditions";
    a_rule_that_makes_nothing: "{ times = 2, says = \"PCLK1 is divided" => "{ times = 0, says = \"PCLK1 is divided", "tree.nodes[9].scale[1].times", "at least 1";
    a_rule_that_asks_for_nothing_there: "when = { apb1 = [1] }" => "when = { apb9 = [1] }", "tree.nodes[9].scale[0].when.apb9", "a switch or an earlier whole divider";
    a_node_without_a_fact: "facts = [\n    { says = \"the PLL gets half the HSI\", document = \"registers\", trust = \"verified\" },\n]" => "facts = []", "tree.nodes[2]", "at least one fact";
    an_oscillator_after_reset_that_is_not_there: "maximum = \"72 MHz\"\nnode = \"apb1-timers\"" => "maximum = \"72 MHz\"\noscillator = \"RC\"", "clocks.apb1.oscillator", "no oscillator `RC`";
}

/// A family with fields that make 0 % and 100 %.
const FORCED: &str = include_str!("../../../../parts/pca9685.toml");

broken! { FORCED:
    one_field_for_both_ends: "full = { role = \"full-on\", value = 1" => "full = { role = \"full-off\", value = 1", "blocks.outputs.modes[0].ends", "a field of its own for each end";
    an_end_without_a_compare_value: "zero = \"0\", full" => "zero = \"never\", full", "blocks.outputs.modes[0].ends", "a compare value for 0 % and for 100 %";
}

#[test]
fn a_top_that_gives_no_ticks_is_refused() {
    // 2 * TOP ticks a period, and a top of zero.
    let (before, centre) = BLOCKS.split_once("name = \"centre\"").unwrap();
    let blocks = format!("{before}name = \"centre\"{}", centre.replacen("min = 1", "min = 0", 1));
    let problem = drawing(FAMILY, &blocks).unwrap_err().problems[0].clone();
    assert!(problem.message.contains("at least one tick a period"), "{problem:?}");
    assert_eq!(problem.key, "blocks.up-down.modes[4].top");
}

const FAMILY: &str = include_str!("../../../../parts/stm32f411.toml");
const BLOCKS: &str = include_str!("../../../../parts/blocks/stm32-timers.toml");

/// A family file that draws on a block file.
fn drawing(family: &str, blocks: &str) -> Result<Part, FileError> {
    let source = |file: &str, text: &str| Source { file: file.to_owned(), bytes: text.as_bytes().to_vec() };
    part_file::read(&source("mine.toml", family), &|name| {
        (name == "stm32-timers").then(|| source("blocks/stm32-timers.toml", blocks))
    })
}

#[test]
fn a_block_that_is_drawn_on_is_wrong_in_its_own_file() {
    let blocks = BLOCKS.replacen("counter_bits = 16", "counter_bits = 99", 1);
    let problem = drawing(FAMILY, &blocks).unwrap_err().problems[0].clone();
    let line = blocks.lines().position(|line| line.contains("counter_bits = 99")).unwrap() + 1;
    assert_eq!((problem.file.as_str(), problem.line), ("blocks/stm32-timers.toml", line));
    // What is wrong in the family file is told first, and there.
    let family = FAMILY.replacen("clock = \"apb2\"", "clock = \"apb3\"", 1);
    let problems = drawing(&family, &blocks).unwrap_err().problems;
    assert_eq!((problems[0].file.as_str(), problems[0].key.as_str()), ("mine.toml", "timers[0].clock"));
}

#[test]
fn block_files_and_families_must_not_contradict_each_other() {
    let missing = FAMILY.replace("stm32-timers", "stm33-timers");
    let problem = drawing(&missing, BLOCKS).unwrap_err().problems[0].clone();
    assert_eq!(problem.key, "blocks_from[0]");
    assert_eq!(problem.message, "there is no block file `stm33-timers`");
    let complaint = |family: &str, blocks: &str| drawing(family, blocks).unwrap_err().problems[0].clone();
    let twice = FAMILY.replace("[\"stm32-timers\"]", "[\"stm32-timers\", \"stm32-timers\"]");
    assert!(complaint(&twice, BLOCKS).message.contains("there is a block `up"));
    let document = BLOCKS.replace("stm32-manuals =", "ds10314 =");
    assert!(complaint(FAMILY, &document).message.contains("another document under `ds10314`"));
    let schema = BLOCKS.replace("schema = 1", "schema = 7");
    assert_eq!(complaint(FAMILY, &schema).file, "blocks/stm32-timers.toml");
}

#[test]
fn blocks_that_no_timer_needs_are_left_out() {
    // Without the timers that only count up, their block is not part of the family.
    let (before, after) = FAMILY.split_once("[[timers]]\nname = \"tim9\"").unwrap();
    let (head, rest) = before.split_once("[[variants]]").unwrap();
    let before = format!("{head}{}", &rest[rest.find("[[oscillators]]").unwrap()..]);
    let tree = after.split_once("[tree]").unwrap().1;
    let part = drawing(&format!("{before}[tree]{tree}"), BLOCKS).unwrap();
    assert_eq!(part.blocks.keys().collect::<Vec<_>>(), ["up-down"]);
}

#[test]
fn text_that_is_no_toml_is_pointed_at() {
    let problem = complaint("schema = 1\nname = \"x\n");
    assert_eq!((problem.line, problem.key.as_str()), (2, ""));
}

#[test]
fn bytes_that_are_no_text_are_pointed_at() {
    let error = read(b"schema = 1\nname = \"\xff\"\n").unwrap_err();
    assert_eq!((error.problems[0].line, error.problems[0].column), (2, 9));
}

#[test]
fn every_problem_of_a_file_comes_in_one_run() {
    let text = SOUND.replace("clock = \"sys\"", "clock = \"usb\"");
    let error = read(text.as_bytes()).unwrap_err();
    assert!(error.problems.len() >= 8, "{error}");
    assert!(error.to_string().starts_with("mine.toml:"), "{error}");
}

proptest! {
    #[test]
    fn arbitrary_bytes_make_nothing_panic(bytes in prop::collection::vec(any::<u8>(), 0..400)) {
        let _ = read(&bytes);
    }

    #[test]
    fn a_file_with_other_bytes_in_it_makes_nothing_panic(cuts in cuts()) {
        if let Err(error) = read(&spoiled(SOUND, cuts)) {
            prop_assert!(error.problems.iter().all(|problem| problem.line >= 1 && !problem.message.is_empty()));
        }
    }
}

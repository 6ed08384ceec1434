//! Code made of boards: it compiles without a warning, writes exactly what the program says, and puts compare values into
//! their registers.

use std::fs;
use std::path::Path;
use std::process::Command;

use kairotic_core::board::{self, Board, BoardPlan};
use kairotic_core::part::Access;
use kairotic_core::program::{Action, RegisterPlace};
use kairotic_core::setting::Written;
use kairotic_formats::board_file;
use kairotic_formats::emit::{EmitError, EmitForm, EmitRequest, Emitted, emit};
use kairotic_formats::text_file::Source;
use tempfile::tempdir;

use crate::catalogue::part;

pub(crate) const DOME: &str = include_str!("../../../../demo/dome.toml");

pub(crate) fn planned(text: &str) -> (Board, BoardPlan) {
    let source = Source { file: "dome.toml".to_owned(), bytes: text.as_bytes().to_vec() };
    let board = board_file::read(&source, &|name| Ok(part(name))).unwrap();
    let plan = board::plan(&board, part(&board.part)).unwrap();
    (board, plan)
}

/// Code of a board in several forms.
pub(crate) fn emitted_as(
    text: &str,
    stem: &str,
    forms: &[EmitForm],
) -> Result<(BoardPlan, Emitted), EmitError> {
    emitted_by(text, stem, forms, "kairotic emit dome.toml --to . --as c")
}

/// The same, by another line.
pub(crate) fn emitted_by(
    text: &str,
    stem: &str,
    forms: &[EmitForm],
    line: &str,
) -> Result<(BoardPlan, Emitted), EmitError> {
    let (board, plan) = planned(text);
    let request = EmitRequest {
        board: &board,
        plan: &plan,
        sequences: &[],
        part: part(&board.part),
        stem,
        file: "dome.toml",
        text: text.as_bytes(),
        line,
        version: "0.0.0",
    };
    let made = emit(request, forms)?;
    Ok((plan, made))
}

pub(crate) fn emitted(text: &str, stem: &str) -> Result<(BoardPlan, Emitted), EmitError> {
    emitted_as(text, stem, &[EmitForm::C])
}

const WARNINGS: &[&str] = &[
    "-std=c99",
    "-pedantic",
    "-Wall",
    "-Wextra",
    "-Wconversion",
    "-Wshadow",
    "-Wmissing-prototypes",
    "-Werror",
];

/// Saves the files of a board and another beside them.
fn save(folder: &Path, made: &Emitted, main: &str) {
    for file in &made.files {
        fs::write(folder.join(&file.name), &file.text).unwrap();
    }
    fs::write(folder.join("main.c"), main).unwrap();
}

/// A memory that tells of every access, in which flags that are waited for are always there.
fn harness(plan: &BoardPlan, supplied: &str, calls: &str) -> String {
    let waits = plan.program.steps.iter().filter_map(|step| match &step.action {
        Action::Until { register, mask, value } => {
            Some(format!("    if (a == {:#x}) v = (v & ~{mask:#x}ULL) | {value:#x}ULL;\n", register.address?))
        }
        _ => None,
    });
    format!(
        "#include <stdint.h>\n#include <stdio.h>\n\
         static uint64_t at[256], of[256]; static unsigned n;\n\
         static uint64_t *cell(uint64_t a) {{ unsigned i = 0; while (i < n && at[i] != a) i++; if (i == n) at[n++] = a; return &of[i]; }}\n\
         static uint64_t fake_read(unsigned bits, uint64_t a) {{ uint64_t v = *cell(a);\n{}\
         printf(\"R %u %llx %llx\\n\", bits, (unsigned long long)a, (unsigned long long)v); return v; }}\n\
         static void fake_write(unsigned bits, uint64_t a, uint64_t v) {{ *cell(a) = v; printf(\"W %u %llx %llx\\n\", bits, (unsigned long long)a, (unsigned long long)v); }}\n\
         #define DOME_READ(bits, address) ((uint##bits##_t)fake_read(bits, address))\n\
         #define DOME_WRITE(bits, address, value) fake_write(bits, address, (uint##bits##_t)(value))\n\
         {supplied}\n#include \"dome.c\"\n\
         int main(void) {{ {calls} return 0; }}\n",
        waits.collect::<String>()
    )
}

/// What the code of a board does to memory, a line an access.
fn run(text: &str, calls: &str) -> (BoardPlan, Vec<String>) {
    run_with(text, "", calls)
}

/// The same with what the firmware has to supply.
pub(crate) fn run_with(text: &str, supplied: &str, calls: &str) -> (BoardPlan, Vec<String>) {
    let (plan, made) = emitted(text, "dome").unwrap();
    let folder = tempdir().unwrap();
    save(folder.path(), &made, &harness(&plan, supplied, calls));
    let cc =
        Command::new("cc").args(["-O1", "-o", "dome", "main.c"]).current_dir(folder.path()).output().unwrap();
    assert!(cc.status.success(), "{}", String::from_utf8_lossy(&cc.stderr));
    let ran = Command::new(folder.path().join("dome")).output().unwrap();
    assert!(ran.status.success());
    (plan, String::from_utf8(ran.stdout).unwrap().lines().map(ToOwned::to_owned).collect())
}

/// The accesses that a program's steps ask for, with what is read taken from what was read.
pub(crate) fn expected(plan: &BoardPlan, seen: &[String]) -> Vec<String> {
    let mut lines: Vec<String> = Vec::new();
    let read = |lines: &mut Vec<String>, register: &RegisterPlace| {
        let start = format!("R {} {:x} ", register.bits, register.address.unwrap());
        let line = seen.get(lines.len()).cloned().unwrap_or_default();
        let value = line.strip_prefix(&start).map(|value| u64::from_str_radix(value, 16).unwrap());
        lines.push(format!("{start}{:x}", value.unwrap_or(0)));
        value.unwrap_or(0)
    };
    let write = |register: &RegisterPlace, value: u64| {
        format!("W {} {:x} {value:x}", register.bits, register.address.unwrap())
    };
    for step in &plan.program.steps {
        match &step.action {
            Action::Until { register, .. } => {
                read(&mut lines, register);
            }
            Action::Write(done) => {
                let Written::Number(mut value) = done.value else { panic!("{done:?}") };
                if !done.is_whole() && done.register.access != Access::WriteOnly {
                    value |= read(&mut lines, &done.register) & !done.mask;
                }
                lines.extend(done.unlock.iter().map(|(place, unlock)| write(place, unlock.value)));
                lines.push(write(&done.register, value));
            }
            _ => {}
        }
    }
    lines
}

#[test]
fn the_code_of_the_demo_writes_exactly_what_the_program_says() {
    let (plan, seen) = run(DOME, "dome_start();");
    assert!(seen.len() > 70, "{}", seen.len());
    assert_eq!(seen, expected(&plan, &seen));
}

#[test]
fn a_protected_register_is_unlocked_right_before_it_is_written() {
    let board = "schema = 1\npart = \"atmega328p\"\n[clock]\nsource = \"16MHz\"\nfrequency = \"16MHz\"\n[[signal]]\nname = \"a\"\non = \"timer1/a\"\nfreq = \"50Hz\"\npulse = \"1500us\"\n";
    let (plan, seen) = run(board, "dome_start();");
    assert_eq!(seen, expected(&plan, &seen));
    let unlock = seen.iter().position(|line| line == "W 8 61 80").unwrap();
    assert_eq!(seen[unlock + 1], "W 8 61 0", "CLKPCE, then the division: nothing between them");
}

/// The span of the shutter is 900 to 2100 us in ticks of 312.5 ns: 2880 to 6720.
#[test]
fn compare_values_are_taken_to_their_limits() {
    let calls = "dome_shutter_set_compare(3000); dome_shutter_set_compare(0); dome_shutter_set_compare(65535); dome_flat_field_set_compare(96001);";
    let (_, seen) = run(DOME, calls);
    let to = |value: u64| format!("W 32 40000434 {value:x}");
    assert_eq!(seen, [to(3000), to(2880), to(6720), format!("W 32 40000034 {:x}", 96_000)]);
}

/// The compare values that a call for every level of a signal writes.
fn levels(signal: &str, range: std::ops::RangeInclusive<i64>) -> Vec<(i64, u64)> {
    let (low, high) = (range.start(), range.end());
    let calls =
        format!("for (int level = {low}; level <= {high}; level++) dome_{signal}_set((int16_t)level);");
    let (_, seen) = run(DOME, &calls);
    let written = seen.iter().map(|line| u64::from_str_radix(line.rsplit(' ').next().unwrap(), 16).unwrap());
    range.zip(written).collect()
}

/// Each level's exact compare value, from the load's data sheet: the code is never more than a step off, and not at the ends.
#[test]
fn levels_become_compare_values_over_their_whole_range() {
    let off = |found: u64, numerator: i64, denominator: i64| {
        let found = i64::try_from(found).unwrap();
        ((found * denominator - numerator).abs(), denominator)
    };
    // 900 us to 2100 us over 120 degrees, of 3.2 ticks a microsecond; whoever asks for more gets the end.
    for (level, found) in levels("shutter", -3..=12_003) {
        let level = level.clamp(0, 12_000);
        let (error, step) = off(found, 2880 * 12_000 + 3840 * level, 12_000);
        assert!(error <= step, "{level}: {found}");
    }
    // 1.5 ms at rest, and half a millisecond either way.
    for (level, found) in levels("dome", -10_000..=10_000) {
        let (error, step) = off(found, 4800 * 10_000 + 1600 * level, 10_000);
        assert!(error <= step, "{level}: {found}");
    }
    // 14 % to 9 V of 24 V, of 5000 ticks; off at rest.
    for (level, found) in levels("vent", 0..=10_000) {
        let (error, step) =
            if level == 0 { off(found, 0, 1) } else { off(found, 700 * 10_000 + 1175 * level, 10_000) };
        assert!(error <= if level == 0 { 0 } else { step }, "{level}: {found}");
    }
    // 12 V at 18 ohm are 8 W.
    assert!(levels("dew_heater", 0..=8000).iter().all(|(level, found)| *found == 8 * *level as u64));
    // The eye's law: half as bright is 18.4 % of the light, 3 % of the way is on its straight part.
    let lamp = levels("flat_field", 0..=100);
    assert_eq!([lamp[0].1, lamp[3].1, lamp[50].1, lamp[100].1], [0, 319, 17_682, 96_000]);
}

#[test]
fn at_rest_all_compare_values_are_those_of_a_constant_output() {
    let (_, seen) = run(DOME, "dome_stop();");
    let at: Vec<&str> = seen.iter().map(|line| line.strip_suffix(" 0").unwrap()).collect();
    // CCR1 and CCR2 of TIM3, CCR1 of TIM1, TIM2, TIM4 and TIM5.
    assert_eq!(
        at,
        [
            "W 32 40000434",
            "W 32 40000438",
            "W 32 40010034",
            "W 32 40000034",
            "W 32 40000834",
            "W 32 40000c34"
        ]
    );
}

/// What setting one compare value does on a part.
fn set(part: &str, signal: &str, compare: u64) -> Vec<String> {
    let board = format!("schema = 1\npart = \"{part}\"\n{signal}");
    let (plan, made) = emitted(&board, "dome").unwrap();
    let off: String = made.supplied.iter().map(|(name, _)| format!("void {name}(void) {{}}\n")).collect();
    let defines: String =
        made.supplied.iter().map(|(name, _)| format!("#define {}_SUPPLIED\n", name.to_uppercase())).collect();
    let folder = tempdir().unwrap();
    let main = harness(&plan, "", &format!("dome_a_set_compare({compare});"));
    save(folder.path(), &made, &format!("{defines}{main}{off}"));
    let cc = Command::new("cc").args(["-o", "dome", "main.c"]).current_dir(folder.path()).output().unwrap();
    assert!(cc.status.success(), "{}", String::from_utf8_lossy(&cc.stderr));
    let ran = Command::new(folder.path().join("dome")).output().unwrap();
    String::from_utf8(ran.stdout).unwrap().lines().map(ToOwned::to_owned).collect()
}

/// 201 is 50 in the eight bits of CCPR1L and 1 in DC1B, bits 5:4 of CCP1CON.
#[test]
fn a_compare_value_is_taken_apart_for_its_registers() {
    let seen = set(
        "pic18f4550",
        "[clock]\nfrequency = \"48MHz\"\n[[signal]]\nname = \"a\"\non = \"ccp1/1\"\nfreq = \"20kHz\"\nduty = \"35%\"\n",
        201,
    );
    assert_eq!(seen, ["W 8 fbe 32", "R 8 fbd 0", "W 8 fbd 10"]);
}

/// The upper half of CC belongs to output B.
#[test]
fn the_other_half_of_a_register_is_kept() {
    let seen = set(
        "rp2040",
        "[[signal]]\nname = \"a\"\non = \"slice0/b\"\npin = \"GPIO1\"\nfreq = \"1kHz\"\nduty = \"35%\"\n",
        0x123,
    );
    assert_eq!(seen, ["R 32 4005000c 0", "W 32 4005000c 1230000"]);
}

/// Ticks stand above four bits of fraction; DUTY_START, bit 31 of CONF1, takes them over, and PARA_UP, bit 4 of CONF0.
#[test]
fn what_takes_a_value_over_is_written_after_it() {
    let signal = "[clock]\nfrequency = \"80MHz\"\n[[signal]]\nname = \"a\"\non = \"timer0/0\"\npin = \"GPIO5\"\nfreq = \"50Hz\"\nduty = \"5%\"\n";
    let seen = set("esp32c3", signal, 0x123);
    let writes: Vec<&String> = seen.iter().filter(|line| line.starts_with('W')).collect();
    assert_eq!(writes[0], "W 32 60019008 1230");
    assert!(writes[1..].iter().any(|line| *line == "W 32 6001900c 80000000"), "{seen:?}");
    assert!(writes[1..].iter().any(|line| *line == "W 32 60019000 10"), "{seen:?}");
}

/// A word in memory, and the task that takes it.
#[test]
fn a_buffer_is_filled_before_the_task_that_takes_it() {
    let signal =
        "[[signal]]\nname = \"a\"\non = \"pwm0/0\"\npin = \"P0.13\"\nfreq = \"50Hz\"\nduty = \"5%\"\n";
    assert_eq!(set("nrf52840", signal, 0x123), ["W 32 4001c008 1"]);
    let (_, made) = emitted(&format!("schema = 1\npart = \"nrf52840\"\n{signal}"), "dome").unwrap();
    assert!(made.files[1].text.contains("dome_pwm0_seq_0[0] = "), "{}", made.files[1].text);
}

/// A board on each part that code can be made for, and the compilers of its processor.
pub(crate) const BOARDS: &[(&str, &str, &[&str])] = &[
    ("atmega328p", "timer1/a", &["avr-gcc", "-mmcu=atmega328p"]),
    ("atmega2560", "timer3/a", &["avr-gcc", "-mmcu=atmega2560"]),
    ("attiny1614", "tca0/0", &["avr-gcc", "-mmcu=avrxmega3"]),
    ("avr128db28", "tca0/0", &["avr-gcc", "-mmcu=avrxmega4"]),
    ("pic16f877a", "ccp1/1", &[]),
    ("pic18f4550", "ccp1/1", &[]),
    ("pic18f45k22", "ccp1/1", &[]),
    ("rp2040", "slice0/a", &["arm-none-eabi-gcc", "-mcpu=cortex-m0plus", "-mthumb"]),
    ("rp2350", "slice0/a", &["arm-none-eabi-gcc", "-mcpu=cortex-m33", "-mthumb"]),
    ("stm32f103", "tim3/1", &["arm-none-eabi-gcc", "-mcpu=cortex-m3", "-mthumb"]),
    ("stm32f411", "tim3/1", &["arm-none-eabi-gcc", "-mcpu=cortex-m4", "-mthumb"]),
    ("stm32f446", "tim3/1", &["arm-none-eabi-gcc", "-mcpu=cortex-m4", "-mthumb"]),
    ("stm32g071", "tim3/1", &["arm-none-eabi-gcc", "-mcpu=cortex-m0plus", "-mthumb"]),
    ("stm32g474", "tim3/1", &["arm-none-eabi-gcc", "-mcpu=cortex-m4", "-mthumb"]),
    ("stm32l432", "tim2/1", &["arm-none-eabi-gcc", "-mcpu=cortex-m4", "-mthumb"]),
    ("stm32h743", "tim3/1", &["arm-none-eabi-gcc", "-mcpu=cortex-m7", "-mthumb"]),
    ("samd21g18", "tcc0/0", &["arm-none-eabi-gcc", "-mcpu=cortex-m0plus", "-mthumb"]),
    ("nrf52832", "pwm0/0", &["arm-none-eabi-gcc", "-mcpu=cortex-m4", "-mthumb"]),
    ("nrf52840", "pwm0/0", &["arm-none-eabi-gcc", "-mcpu=cortex-m4", "-mthumb"]),
    ("esp32c3", "timer0/0", &["riscv64-unknown-elf-gcc", "-march=rv32imc", "-mabi=ilp32", "-ffreestanding"]),
    (
        "gd32vf103",
        "timer2/0",
        &["riscv64-unknown-elf-gcc", "-march=rv32imac", "-mabi=ilp32", "-ffreestanding"],
    ),
    ("ch32v003", "tim1/1", &["riscv64-unknown-elf-gcc", "-march=rv32ec", "-mabi=ilp32e", "-ffreestanding"]),
    ("msp430g2553", "ta0/1", &[]),
    ("pca9685", "pwm/led0", &["avr-gcc", "-mmcu=atmega328p"]),
];

/// A servo, which has levels of both signs.
const ARM: &str =
    "[[load]]\nname = \"arm\"\nkind = \"servo\"\nspan = \"900us..2100us\"\ntravel = \"-60deg..60deg\"\n";

/// A board of one part with a signal that is called as no identifier may be.
pub(crate) fn board(name: &str, on: &str) -> String {
    let clock = part(name).clocks.values().next().unwrap().default;
    format!(
        "schema = 1\npart = \"{name}\"\n[clock]\nfrequency = \"{clock}\"\n{ARM}[[signal]]\nname = \"int\"\non = \"{on}\"\nfreq = \"250Hz\"\nload = \"arm\"\nat = \"50deg\"\n"
    )
}

/// The host's compiler always; that of the processor where it is installed, which the continuous integration sees to.
#[test]
fn the_code_of_every_part_compiles_without_a_warning() {
    for (name, on, cross) in BOARDS {
        let board = board(name, on);
        let (plan, _) = emitted(&board, "dome").unwrap();
        let [lowest, highest] = plan.signals[0].limits;
        assert!(
            lowest < highest && highest > plan.signals[0].compare.unwrap(),
            "{name}: {:?}",
            plan.signals[0]
        );
        compiled(&board, cross);
    }
}

/// The code of a board goes through the host's compiler and the processor's.
pub(crate) fn compiled(board: &str, cross: &[&str]) {
    let (_, made) = emitted(board, "dome").unwrap();
    let folder = tempdir().unwrap();
    let defines: String =
        made.supplied.iter().map(|(name, _)| format!("#define {}_SUPPLIED\n", name.to_uppercase())).collect();
    save(folder.path(), &made, &format!("{defines}#include \"dome.c\"\n"));
    // On a host nothing is in the lowest page, and gcc warns of accesses there.
    for compiler in [&["cc", "--param=min-pagesize=0"][..], cross] {
        let Some((program, flags)) = compiler.split_first() else { continue };
        let mut command = Command::new(program);
        command
            .args(flags)
            .args(WARNINGS)
            .args(["-O2", "-c", "main.c", "-o", "main.o"])
            .current_dir(folder.path());
        match command.output() {
            Ok(output) => {
                let text = String::from_utf8_lossy(&output.stderr);
                assert!(output.status.success(), "{program}:\n{text}\n{board}");
            }
            Err(error) => assert!(std::env::var_os("CI").is_none(), "{program}: {error}"),
        }
    }
}

#[test]
fn what_is_to_be_supplied_does_not_compile_until_it_is() {
    let board = "schema = 1\npart = \"stm32f411\"\n[clock]\nfrequency = \"96MHz\"\n[[signal]]\nname = \"a\"\non = \"tim3/1\"\nfreq = \"50Hz\"\nduty = \"5%\"\n";
    let (_, made) = emitted(board, "dome").unwrap();
    let names: Vec<&str> = made.supplied.iter().map(|(name, _)| name.as_str()).collect();
    assert_eq!(names, ["dome_clock_of_tim3", "dome_connect_tim3_1"]);
    let folder = tempdir().unwrap();
    save(folder.path(), &made, "#include \"dome.c\"\n");
    let output = Command::new("cc").args(["-c", "main.c"]).current_dir(folder.path()).output().unwrap();
    assert!(!output.status.success());
    let text = String::from_utf8_lossy(&output.stderr);
    assert!(text.contains("dome_connect_tim3_1() has to be supplied"), "{text}");
}

#[test]
fn names_that_clash_or_make_no_identifier_are_refused() {
    let twice = DOME.replace("name = \"camera-fan\"\nfreq", "name = \"flat_field\"\nfreq");
    assert!(matches!(emitted(&twice, "dome"), Err(EmitError::Clash { .. })));
    assert!(matches!(emitted(DOME, "***"), Err(EmitError::Name { .. })));
    let (_, made) = emitted(DOME, "9x").unwrap();
    assert_eq!(made.files[0].name, "board_9x.h");
}

#[test]
fn what_a_kernel_drives_is_no_memory() {
    let board = "schema = 1\npart = \"kernel-pwm\"\n[[signal]]\nname = \"a\"\non = \"pwm/0\"\nfreq = \"50Hz\"\nduty = \"5%\"\n";
    assert!(matches!(emitted(board, "dome"), Err(EmitError::Elsewhere(_))));
}

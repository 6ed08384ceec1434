//! The same code in Rust: it does what the C does, and neither the compiler nor its linter has anything to say of it.

use std::fs;
use std::path::Path;
use std::process::Command;

use kairotic_formats::emit::EmitForm;
use tempfile::tempdir;

use crate::emit::{BOARDS, DOME, board, emitted_as, expected};

/// Runs a compiler of Rust on a file.
fn rustc(program: &str, folder: &Path, arguments: &[&str]) {
    let mut command = Command::new(program);
    command.args(["--edition", "2021", "-D", "warnings"]).args(arguments).current_dir(folder);
    let output = command.output().unwrap();
    assert!(output.status.success(), "{program}:\n{}", String::from_utf8_lossy(&output.stderr));
}

/// The module with accesses to a memory that tells of each, and in which flags that are waited for come at once.
fn in_a_fake_memory(module: &str) -> String {
    let read = "unsafe { core::ptr::read_volatile(address as *const u32) }";
    let write = "unsafe { core::ptr::write_volatile(address as *mut u32, value) }";
    if !module.contains("unsafe") {
        // What is at the end of a bus has no memory.
        return module.to_owned();
    }
    assert!(module.contains(read) && module.contains(write));
    let module = module
        .replace(read, "{ let value = cell(address, None); println!(\"R 32 {address:x} {value:x}\"); value }")
        .replace(write, "{ cell(address, Some(value)); println!(\"W 32 {address:x} {value:x}\"); }");
    // A flag that is waited for is there: whatever is compared with is what is read.
    let waits: String = module
        .lines()
        .filter_map(|line| line.trim().strip_prefix("while read32(")?.strip_suffix(" {}"))
        .map(|line| {
            let (address, rest) = line.split_once(") & ").unwrap();
            let (mask, value) = rest.split_once(" != ").unwrap();
            format!("    if address == {address} {{ *cell = *cell & !{mask} | {value}; }}\n")
        })
        .collect();
    format!(
        "{module}\nfn cell(address: usize, put: Option<u32>) -> u32 {{\n    \
         thread_local! {{ static MEMORY: std::cell::RefCell<std::collections::BTreeMap<usize, u32>> = Default::default(); }}\n    \
         MEMORY.with_borrow_mut(|memory| {{\n    let cell = memory.entry(address).or_default();\n    \
         if let Some(value) = put {{ *cell = value; return value; }}\n{waits}    *cell }})\n}}\n"
    )
}

fn run(calls: &str) -> Vec<String> {
    run_with(DOME, "", calls)
}

/// What the module of a board does to memory, with what the firmware has to supply.
pub(crate) fn run_with(text: &str, supplied: &str, calls: &str) -> Vec<String> {
    let (_, made) = emitted_as(text, "dome", &[EmitForm::Rust]).unwrap();
    let folder = tempdir().unwrap();
    let module = in_a_fake_memory(&made.files[0].text);
    fs::write(folder.path().join("dome.rs"), module).unwrap();
    fs::write(
        folder.path().join("main.rs"),
        format!("#[allow(dead_code)]\nmod dome;\n{supplied}\nfn main() {{ {calls} }}\n"),
    )
    .unwrap();
    rustc("rustc", folder.path(), &["main.rs", "-o", "main"]);
    let ran = Command::new(folder.path().join("main")).output().unwrap();
    assert!(ran.status.success());
    String::from_utf8(ran.stdout).unwrap().lines().map(ToOwned::to_owned).collect()
}

#[test]
fn the_module_of_the_demo_writes_exactly_what_the_program_says() {
    let (plan, _) = emitted_as(DOME, "dome", &[EmitForm::Rust]).unwrap();
    let seen = run("dome::start();");
    assert!(seen.len() > 70, "{}", seen.len());
    assert_eq!(seen, expected(&plan, &seen));
}

/// 900 to 2100 us over 120 degrees in ticks of 312.5 ns; 14 % to 37.5 % of 5000 ticks.
#[test]
fn levels_and_compare_values_keep_to_their_limits() {
    let seen = run(
        "dome::set_shutter(dome::ShutterLevel::saturating(-5)); dome::set_shutter(dome::ShutterLevel::HIGHEST); \
         dome::set_shutter_compare(9); dome::set_vent(dome::VentLevel::LOWEST); \
         dome::set_vent(dome::VentLevel::saturating(i16::MAX)); dome::stop();",
    );
    let put = |at: &str, value: u64| format!("W 32 {at} {value:x}");
    let expected = [
        put("40000434", 2880),
        put("40000434", 6720),
        put("40000434", 2880),
        put("40010034", 0),
        put("40010034", 1875),
    ];
    assert_eq!(seen[..5], expected);
    assert!(seen.len() == 11 && seen[5..].iter().all(|line| line.ends_with(" 0")), "{seen:?}");
}

#[test]
fn neither_compiler_nor_linter_has_anything_to_say() {
    for (name, on, _) in BOARDS {
        linted(&board(name, on));
    }
}

/// The module of a board goes through the linter.
pub(crate) fn linted(board: &str) {
    let (_, made) = emitted_as(board, "9x", &[EmitForm::Rust]).unwrap();
    let folder = tempdir().unwrap();
    assert_eq!(made.files[0].name, "board_9x.rs");
    fs::write(folder.path().join("board_9x.rs"), &made.files[0].text).unwrap();
    fs::write(folder.path().join("lib.rs"), "#![no_std]\npub mod board_9x;\n").unwrap();
    let arguments = ["--crate-type", "lib", "--emit", "metadata", "lib.rs", "-o", "lib.rmeta"];
    // The linter is a compiler, too: it says all that the other would.
    rustc("clippy-driver", folder.path(), &arguments);
}

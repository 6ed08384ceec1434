//! The examples of every command's help: each does what it says, within a second of processor time and 64 MiB.

use std::fs;
use std::path::Path;
use std::process::Command;

use tempfile::tempdir;

use crate::run::run;

const COMMANDS: [&str; 15] = [
    "parts", "clock", "derive", "decode", "survey", "scale", "move", "sequence", "budget", "tach", "wave",
    "measure", "emit", "check", "why",
];

/// The examples of a help page: what is wrapped or continued belongs to the line before, what is set in deeper explains it.
fn examples(help: &str) -> Vec<String> {
    let mut found: Vec<String> = Vec::new();
    let mut goes_on = false;
    for line in help.lines().skip_while(|line| !line.starts_with("Examples:")).skip(1) {
        let text = line.trim_start();
        let explains = line.len() - text.len() > 2 && !goes_on;
        goes_on = text.ends_with('\\');
        let text = text.trim_end_matches('\\').trim_end();
        match (text.strip_prefix("kairotic "), found.last_mut()) {
            (Some(words), _) => found.push(words.to_owned()),
            (None, Some(last)) if !explains => last.push_str(&format!(" {text}")),
            _ => {}
        }
    }
    found
}

/// The exit code of a line with a second of processor time and 64 MiB of data.
fn frugal(folder: &Path, line: &str) -> (Option<i32>, String) {
    let program = env!("CARGO_BIN_EXE_kairotic");
    let shell = format!("ulimit -d 65536 && ulimit -t 1 && exec {program} {line}");
    let output = Command::new("sh").args(["-c", &shell]).current_dir(folder).output().unwrap();
    (output.status.code(), String::from_utf8(output.stderr).unwrap())
}

#[test]
fn no_example_takes_more_than_a_second_or_64_mib() {
    let folder = tempdir().unwrap();
    let demo = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo");
    for (from, to) in [("dome.toml", "dome.toml"), ("night.vcd", "dome.vcd"), ("fan.vcd", "fan.vcd")] {
        fs::copy(demo.join(from), folder.path().join(to)).unwrap();
    }
    let mut samples = String::from("D0\n");
    (0..4000).for_each(|place| samples.push_str(if place % 1000 < 75 { "1\n" } else { "0\n" }));
    fs::write(folder.path().join("samples.csv"), samples).unwrap();
    for made in ["my-parts", "boards"] {
        fs::create_dir(folder.path().join(made)).unwrap();
    }
    fs::copy(demo.join("dome.toml"), folder.path().join("boards/dome.toml")).unwrap();
    let family = include_str!("../../../kairotic-formats/tests/it/sound.toml");
    fs::write(folder.path().join("my-parts/domechip.toml"), family).unwrap();
    let mut ran = 0;
    for command in COMMANDS {
        for example in examples(&run(&format!("{command} --help")).stdout) {
            // What an example writes is there already when another one writes it.
            let line = if example.contains("--save") { format!("{example} --force") } else { example };
            let (code, told) = frugal(folder.path(), &line);
            // A finding of severity error is an answer as well.
            assert!(matches!(code, Some(0 | 1)), "{line}: {code:?} {told}");
            ran += 1;
        }
    }
    assert!(ran > 40, "{ran}");
}

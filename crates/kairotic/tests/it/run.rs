//! Runs the program.

use std::io::Write;
use std::path::Path;
use std::process::{Command, Output, Stdio};

/// What a run left.
#[derive(Debug)]
pub(crate) struct Run {
    pub(crate) stdout: String,
    pub(crate) stderr: String,
    pub(crate) code: i32,
}

/// Runs a command line, its words parted by blanks, without the caller's colour settings.
pub(crate) fn run(line: &str) -> Run {
    run_words(line.split(' '), Path::new("."), &[])
}

/// Runs words in a folder with environment variables.
pub(crate) fn run_words<'w>(
    words: impl IntoIterator<Item = &'w str>,
    folder: &Path,
    variables: &[(&str, &str)],
) -> Run {
    let mut command = Command::new(env!("CARGO_BIN_EXE_kairotic"));
    for name in ["NO_COLOR", "CLICOLOR", "CLICOLOR_FORCE", "TERM"] {
        command.env_remove(name);
    }
    left(command.args(words).envs(variables.iter().copied()).current_dir(folder).output().unwrap())
}

/// Runs a command line with bytes on its standard input.
pub(crate) fn piped(line: &str, bytes: &[u8]) -> Run {
    let mut command = Command::new(env!("CARGO_BIN_EXE_kairotic"));
    command.args(line.split(' ')).stdin(Stdio::piped()).stdout(Stdio::piped()).stderr(Stdio::piped());
    let mut child = command.spawn().unwrap();
    child.stdin.take().unwrap().write_all(bytes).unwrap();
    left(child.wait_with_output().unwrap())
}

fn left(output: Output) -> Run {
    Run {
        stdout: String::from_utf8(output.stdout).unwrap(),
        stderr: String::from_utf8(output.stderr).unwrap(),
        code: output.status.code().unwrap(),
    }
}

/// Runs a command line that must end well, and reads its JSON.
pub(crate) fn json(line: &str) -> serde_json::Value {
    let run = run(&format!("{line} --format json"));
    assert!(run.stderr.is_empty() && run.code <= 1, "{run:?}");
    result_of(&run.stdout)
}

/// The result in an envelope, with the findings beside it.
pub(crate) fn result_of(text: &str) -> serde_json::Value {
    let mut envelope: serde_json::Value = serde_json::from_str(text).unwrap();
    assert_eq!(envelope["kairotic"], 2, "{envelope}");
    let mut result = envelope["result"].take();
    result["findings"] = envelope["findings"].take();
    result
}

/// The setting that leads in a result.
pub(crate) fn leading(result: &serde_json::Value) -> &serde_json::Value {
    ["best", "setting"].iter().find_map(|key| result.get(key)).unwrap_or(&result["settings"][0])
}

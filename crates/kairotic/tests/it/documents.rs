//! What the documents show is what the program does.

use std::fs;
use std::path::{Path, PathBuf};

use snapbox::assert_data_eq;

use crate::run::{run, run_words};

fn document(name: &str) -> String {
    let root: PathBuf = Path::new(env!("CARGO_MANIFEST_DIR")).join("../..");
    fs::read_to_string(root.join(name)).unwrap()
}

/// The fenced blocks of a language.
fn blocks(text: &str, language: &str) -> Vec<String> {
    let fence = format!("```{language}\n");
    text.split(&fence).skip(1).map(|rest| rest.split("```").next().unwrap().to_owned()).collect()
}

#[test]
fn the_readme_shows_what_comes_out() {
    let examples = blocks(&document("README.md"), "console");
    assert!(examples.len() >= 4);
    for example in examples {
        let (line, shown) = example.strip_prefix("$ kairotic ").unwrap().split_once('\n').unwrap();
        assert_data_eq!(run(line).stdout, shown.to_owned());
    }
}

#[test]
fn the_example_of_a_family_file_is_sound() {
    let example = &blocks(&document("docs/part-files.md"), "toml")[0];
    let folder = tempfile::tempdir().unwrap();
    fs::write(folder.path().join("domechip.toml"), example).unwrap();
    let line = "derive --parts domechip.toml --on domechip/tim1 --clock 48MHz --freq 50Hz --pulse 1500us --format csv";
    let run = run_words(line.split(' '), folder.path(), &[]);
    // 48 MHz / 50 Hz / 64 = 15000 ticks, 1.5 ms of them 1125.
    assert!(run.code == 0 && run.stdout.contains("CTL.DIV=2 TOP=14999 CMP=1125 "), "{run:?}");
}

#[test]
fn every_finding_is_explained() {
    let explained = document("docs/findings.md");
    for name in kairotic_core::finding::NAMES {
        assert!(explained.contains(&format!("\n## {name}\n")), "{name}");
    }
}

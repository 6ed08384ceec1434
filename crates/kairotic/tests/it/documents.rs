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
fn the_readme_and_the_guide_show_what_comes_out() {
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("../..");
    let guide = fs::read_dir(root.join("docs/guide")).unwrap();
    let pages: Vec<String> = guide.map(|page| fs::read_to_string(page.unwrap().path()).unwrap()).collect();
    assert!(pages.len() >= 6);
    let readme = document("README.md");
    let examples = std::iter::once(&readme).chain(&pages).flat_map(|page| blocks(page, "console"));
    let examples: Vec<String> = examples.collect();
    assert!(examples.len() >= 10);
    for example in examples {
        let (line, shown) = example.strip_prefix("$ kairotic ").unwrap().split_once('\n').unwrap();
        // No quoted word of the pages has a blank in it.
        let words = line.split(' ').map(|word| word.trim_matches('\''));
        assert_data_eq!(run_words(words, &root, &[]).stdout, shown.to_owned());
    }
}

#[test]
fn the_coverage_page_is_current() {
    assert_data_eq!(run("parts --format markdown").stdout, document("docs/silicon-coverage.md"));
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
fn the_page_of_findings_is_current() {
    assert_data_eq!(kairotic_core::finding::reference(), document("docs/findings.md"));
}

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
        // What stands between quotes is one word; every other piece lies outside of them.
        let pieces = line.split('\'').enumerate();
        let words = pieces.flat_map(|(place, piece)| match place % 2 {
            0 => piece.split_whitespace().collect::<Vec<_>>(),
            _ => vec![piece],
        });
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

/// Every word that `why` explains but for the findings, which have a page of their own. `KAIROTIC_WRITE_SCHEMA=1` writes it
/// anew.
#[test]
fn the_glossary_is_current() {
    let all: serde_json::Value = serde_json::from_str(&run("why --format json").stdout).unwrap();
    let mut page = "# Glossary\n\nThe words of the trade, the requirements that a signal's `needs` may have, and the blocks of the pages that commands \
                    print. `kairotic why NAME` shows one of them; the findings are in [findings.md](findings.md).\n"
        .to_owned();
    for (kind, heading) in [
        ("a word of the trade", "Words"),
        ("a requirement of a signal", "Requirements"),
        ("a block of a page", "Blocks"),
    ] {
        page.push_str(&format!("\n## {heading}\n"));
        for one in all["result"]["explained"].as_array().unwrap().iter().filter(|one| one["kind"] == kind) {
            let [name, means, example, advice] =
                ["name", "means", "example", "advice"].map(|key| one[key].as_str().unwrap());
            page.push_str(&format!("\n### {name}\n\n{means}\n\nFor example: {example}\n\n{advice}\n"));
        }
    }
    if std::env::var_os("KAIROTIC_WRITE_SCHEMA").is_some() {
        let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("../..");
        fs::write(root.join("docs/glossary.md"), &page).unwrap();
    }
    assert_data_eq!(page, document("docs/glossary.md"));
}

#[test]
fn what_is_asked_about_is_explained_and_what_is_unknown_has_a_neighbour() {
    let step = run("why step").stdout;
    assert!(step.contains("a word of the trade") && step.contains("a requirement of a signal"), "{step}");
    for (name, _) in kairotic_core::finding::ALL {
        let told = run(&format!("why {name}")).stdout;
        assert!(
            ["means", "example", "do"].iter().all(|block| told.contains(&format!("\n{block} "))),
            "{told}"
        );
    }
    let near = run("why jiter");
    assert!(near.code == 2 && near.stderr.contains("did you mean jitter"), "{near:?}");
}

#[test]
fn the_page_of_findings_is_current() {
    assert_data_eq!(kairotic_core::finding::reference(), document("docs/findings.md"));
}

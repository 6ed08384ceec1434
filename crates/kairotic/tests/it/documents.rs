//! What the documents show is what the program does.

use std::fs;
use std::path::{Path, PathBuf};

use snapbox::assert_data_eq;

use crate::run::{json, run, run_words};

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

/// Every key of an object and of what is in it; names that are data (registers, documents) are left out.
fn keys(value: &serde_json::Value, found: &mut std::collections::BTreeSet<String>) {
    match value {
        serde_json::Value::Object(object) => {
            for (key, value) in object {
                found.insert(key.clone());
                match key.as_str() {
                    "registers" if value.is_object() => {
                        found.extend(["bits".to_owned(), "fields".to_owned()]);
                    }
                    "documents" => {}
                    _ => keys(value, found),
                }
            }
        }
        serde_json::Value::Array(array) => array.iter().for_each(|value| keys(value, found)),
        _ => {}
    }
}

#[test]
fn every_json_key_is_explained() {
    let explained = document("docs/json.md");
    let mut found = std::collections::BTreeSet::new();
    for line in [
        "parts",
        "parts samd21g18",
        "parts samd21g18/tc4",
        "derive --on rp2040/slice0 --clock 125MHz+-9ppm --freq 21kHz --duty 40% --span 10%..90% --explain",
        "derive --on rp2040/slice0 --clock 125MHz --period 2ms --pulse 40us --span 10us..90us",
        "derive --on stm32f411/tim3 --tick 3us",
        "parts stm32f103 --pins",
        "clock --on stm32f411/tim3",
        "clock --on stm32f411/tim3 --sysclk 100MHz",
        "clock --on stm32f411/tim3 --source hsi --reach 100MHz",
        "clock --on stm32f411/tim3 --source 12MHz --reach 96MHz",
        "clock --on stm32f411/tim3 --source 12MHz --reach-pwm 44.1kHz",
        "survey --freq 50Hz --span 900us..2100us --part stm32*",
        "derive --on stm32f446/tim1 --sysclk 180MHz --freq 18kHz..25kHz --duty 5% --dead-time 1us --min-bits 9",
        "derive --on stm32f446 --pin PB6 --freq 50Hz --duty 5%",
        "derive --on pca9685/pwm --freq 100Hz --within 1% --pulse 2ms --phase 45deg",
        "derive --port-from rp2040/slice0@125MHz --registers DIV=16 --registers TOP=99 --registers CC=33 --on stm32f411/tim3",
        "decode --on rp2040/slice0 --clock 125MHz DIV=17 TOP=99 CC=33 --expect 50Hz",
        "derive --board ../../demo/dome.toml --signal vent",
        "scale --from 0deg..120deg --board ../../demo/dome.toml --signal shutter --read-back 3000",
        "scale --observed 1000us=8deg,2000us=107deg --board ../../demo/dome.toml --signal shutter",
        "scale --from 12bit --to 2880..6720 --word 16 --code c",
        "budget --board ../../demo/dome.toml --signal shutter --need level=9deg",
        "budget --board ../../demo/dome.toml --signal shutter --population 99",
        "budget --board ../../demo/dome.toml --signal shutter --measured 49.9Hz",
        "tach --on stm32f411/tim9 --pulses-per-turn 2 --speed-range 9rpm..900rpm",
        "tach ../../demo/fan.vcd --pulses-per-turn 2",
        "wave --board ../../demo/dome.toml --signal shutter",
        "measure ../../demo/night.vcd --board ../../demo/dome.toml --fit-clock --between shutter,dome",
        "measure ../../demo/software.csv --board ../../demo/dome.toml --signal shutter",
        "demo",
    ] {
        keys(&json(line), &mut found);
    }
    assert!(found.len() > 80, "{found:?}");
    for key in found {
        // A float is explained with its exact companion.
        let name = key
            .strip_suffix("_approx")
            .filter(|name| explained.contains(&format!("`{name}`")))
            .unwrap_or(&key);
        assert!(explained.contains(&format!("`{name}`")), "{key}");
    }
}

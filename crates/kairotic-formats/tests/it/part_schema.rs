//! The JSON Schema of family files, held against the files that there are.

use std::fs;
use std::path::Path;

use jsonschema::Validator;
use kairotic_formats::part_file;
use serde_json::Value;

const SOUND: &str = include_str!("sound.toml");

fn validator() -> Validator {
    jsonschema::validator_for(&serde_json::from_str(&part_file::schema()).unwrap()).unwrap()
}

fn value(text: &str) -> Value {
    toml::from_str(text).unwrap()
}

#[test]
fn the_schema_in_the_documents_is_that_of_the_types() {
    assert_eq!(part_file::schema(), include_str!("../../../../docs/schema/part.schema.json"));
}

#[test]
fn every_family_file_fits_it() {
    let schema = validator();
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../parts");
    let files = fs::read_dir(folder).unwrap().map(|entry| entry.unwrap().path());
    let files: Vec<_> =
        files.filter(|path| path.extension().is_some_and(|extension| extension == "toml")).collect();
    assert!(files.len() >= 70, "{}", files.len());
    for file in files {
        let family = value(&fs::read_to_string(&file).unwrap());
        assert!(schema.is_valid(&family), "{}: {}", file.display(), schema.validate(&family).unwrap_err());
    }
}

/// One test for each line: name, what is put in the place of what.
macro_rules! refused {
    ($($name:ident: $old:literal => $new:literal;)*) => {$(
        #[test]
        fn $name() {
            let broken = SOUND.replacen($old, $new, 1);
            assert_ne!(broken, SOUND);
            assert!(!validator().is_valid(&value(&broken)));
        }
    )*};
}

refused! {
    a_key_that_is_not_there: "title = \"RP2040\"" => "title = \"RP2040\"\ncolour = \"green\"";
    a_part_without_a_name: "name = \"rp2040\"\n" => "";
    a_behaviour_that_is_not_there: "output = \"below\"" => "output = \"sideways\"";
    a_width_in_words: "counter_bits = 16" => "counter_bits = \"sixteen\"";
    a_frequency_without_unit: "maximum = \"133 MHz\"" => "maximum = 133";
    a_trust_that_is_not_there: "trust = \"verified\"" => "trust = \"certain\"";
}

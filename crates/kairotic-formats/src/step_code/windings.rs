//! The compare values of two windings as functions of the position.

use kairotic_core::motion::MicrostepTables;

use crate::code_text::{c_type, list, rust_type};
use crate::map_code::Language;

/// The signed compare values of two windings at a position, as two functions; one table serves both where they are alike.
pub fn windings(language: Language, name: &str, tables: &MicrostepTables) -> String {
    let turn = tables.first.len();
    let later = turn / 4 * 3;
    // The sine is the cosine a quarter of the turn later.
    let second = if tables.is_one_table() { None } else { Some(&tables.second) };
    let made = |winding: &str, values: &[i64]| match language {
        Language::C => format!(
            "\nstatic const {} {name}_{winding}s[{turn}] = {{\n{}}};\n",
            c_type(tables.word),
            list(values.iter())
        ),
        Language::Rust => format!(
            "\nconst {}_{}S: [{}; {turn}] = [\n{}];\n",
            name.to_uppercase(),
            winding.to_uppercase(),
            rust_type(tables.word),
            list(values.iter())
        ),
    };
    let text =
        made("first", &tables.first) + &second.map(|values| made("second", values)).unwrap_or_default();
    let about = "at a step counted from angle zero; less than zero the other way";
    match language {
        Language::C => {
            let word = c_type(tables.word);
            let function = |winding: &str, table: &str, later: usize| {
                let place =
                    if later == 0 { "place".to_owned() } else { format!("(place + {later}) % {turn}") };
                format!(
                    "\n/* The compare value of the {winding} winding {about}. */\n{word} {name}_{winding}(int32_t position);\n\n\
                     {word} {name}_{winding}(int32_t position)\n{{\n    int32_t place = position % {turn};\n    if (place < 0)\n        place += {turn};\n    \
                     return {name}_{table}s[{place}];\n}}\n"
                )
            };
            let second = match second {
                Some(_) => function("second", "second", 0),
                None => function("second", "first", later),
            };
            text + &function("first", "first", 0) + &second
        }
        Language::Rust => {
            let word = rust_type(tables.word);
            let function = |winding: &str, table: &str, later: usize| {
                let place =
                    if later == 0 { "place".to_owned() } else { format!("(place + {later}) % {turn}") };
                format!(
                    "\n/// The compare value of the {winding} winding {about}.\npub const fn {name}_{winding}(position: i32) -> {word} {{\n    \
                     let place = position.rem_euclid({turn}) as usize;\n    {}_{table}S[{place}]\n}}\n",
                    name.to_uppercase()
                )
            };
            let second = match second {
                Some(_) => function("second", "SECOND", 0),
                None => function("second", "FIRST", later),
            };
            text + &function("first", "FIRST", 0) + &second
        }
    }
}

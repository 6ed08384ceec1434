//! The JSON Schema of board files, from the types that read them and from the list of load kinds.

use std::borrow::Cow;

use kairotic_core::load::LoadKey;
use schemars::{JsonSchema, Schema, SchemaGenerator, json_schema};
use serde_json::json;

use super::given::{FromText, Given};
use super::loads::{COMMON, keys};
use super::raw::{RawBoard, RawLoad};
use super::words::LoadWord;

/// The JSON Schema of board files.
pub fn schema() -> String {
    let schema = schemars::schema_for!(RawBoard);
    format!("{schema:#}\n", schema = serde_json::Value::from(schema))
}

impl<T: FromText> JsonSchema for Given<T> {
    fn inline_schema() -> bool {
        true
    }

    fn schema_name() -> Cow<'static, str> {
        "text".into()
    }

    fn json_schema(_: &mut SchemaGenerator) -> Schema {
        if T::from_whole(0).is_some() {
            return json_schema!({ "type": "integer", "minimum": 0 });
        }
        if T::from_flag(true).is_some() {
            return json_schema!({ "type": "boolean" });
        }
        json_schema!({ "type": "string" })
    }
}

impl JsonSchema for RawLoad {
    fn schema_name() -> Cow<'static, str> {
        "load".into()
    }

    fn json_schema(_: &mut SchemaGenerator) -> Schema {
        let mut properties = serde_json::Map::new();
        let words: Vec<String> = LoadWord::all().map(|kind| format!("`{}`", kind.word())).collect();
        let kinds = match words.split_last() {
            Some((last, others)) => format!("{} or {last}.", others.join(", ")),
            None => String::new(),
        };
        for (key, about) in COMMON {
            let about = if about.is_empty() { kinds.as_str() } else { about };
            let property = json!({ "description": about, "type": ["string", "null"] });
            properties.insert(key.to_owned(), property);
        }
        for (_, LoadKey { name, whole, .. }) in keys() {
            let description = description(name);
            let property = match whole {
                true => json!({ "description": description, "type": ["integer", "null"], "minimum": 0 }),
                false => json!({ "description": description, "type": ["string", "null"] }),
            };
            properties.insert((*name).to_owned(), property);
        }
        json_schema!({
            "description": "Something that a signal drives. Which keys it has depends on its kind.",
            "properties": properties,
            "type": "object"
        })
    }
}

/// What a key means, kind by kind; kinds for which it means the same stand together.
fn description(name: &str) -> String {
    let mut meanings: Vec<(&str, String)> = Vec::new();
    for (kind, key) in keys().filter(|(_, key)| key.name == name) {
        let word = kind.replace('-', " ");
        match meanings.iter_mut().find(|(about, _)| *about == key.about) {
            Some((_, words)) => words.push_str(&format!(", {word}")),
            None => meanings.push((key.about, word)),
        }
    }
    let meanings = meanings.iter().map(|(about, words)| format!("{}: {about}.", capital(words)));
    meanings.collect::<Vec<_>>().join(" ")
}

fn capital(words: &str) -> String {
    let mut letters = words.chars();
    letters.next().map(|first| first.to_uppercase().chain(letters).collect()).unwrap_or_default()
}

//! A family file in TOML, with the block files that it draws on: read, validated, and complained about by line and key.

use kairotic_core::part::check::{self, Path, Step};
use kairotic_core::part::{BlockFile, Part};
use kairotic_core::waveform::agree;

use crate::text_file::{FileError, Source, Text};

/// The JSON Schema of family files.
#[cfg(feature = "schema")]
pub fn schema() -> String {
    let mut schema = schemars::schema_for!(Part);
    schema.insert("title".to_owned(), "Kairotic family file".into());
    // Comments are broken into lines where the source is; a description is one.
    let text = format!("{schema:#}\n", schema = serde_json::Value::from(schema));
    text.replace("\\n\\n", " ").replace("\\n", " ")
}

/// Reads a family file. `block_file` finds a block file by the name that `blocks_from` gives it. It is not a type
/// parameter, or all that reads TOML would be built again in every crate that calls this.
///
/// # Errors
/// [`FileError`] with every problem found: the first that keeps a text from being read at all, else all that
/// [`check`] finds, else every mode whose law and behaviour [disagree](agree).
pub fn read(source: &Source, block_file: &dyn Fn(&str) -> Option<Source>) -> Result<Part, FileError> {
    let family = Text::of(source)?;
    let mut part: Part = family.parse()?;
    let mut sources = Vec::new();
    for (index, name) in part.blocks_from.iter().enumerate() {
        let found = block_file(name).ok_or_else(|| {
            let path = Path::default().key("blocks_from").index(index);
            family.problem(&path, format!("there is no block file `{name}`"))
        })?;
        sources.push(found);
    }
    let mut texts = vec![family];
    let mut origins: Vec<(String, usize)> = Vec::new();
    for source in &sources {
        let text = Text::of(source)?;
        let blocks: BlockFile = text.parse()?;
        origins.extend(blocks.blocks.keys().map(|name| (name.clone(), texts.len())));
        part.draw_on(blocks).map_err(|clash| text.problem(&clash.path, clash.message))?;
        texts.push(text);
    }
    part.drop_unused_blocks(&origins.iter().map(|(name, _)| name.as_str()).collect::<Vec<_>>());
    let mut found = check::problems(&part);
    if found.is_empty() {
        found = agree::problems(&part);
    }
    if found.is_empty() {
        part.find_clocks_that_are_off();
        return Ok(part);
    }
    // A block that was drawn on is wrong in its own file.
    let origin = |path: &Path| match path.0.as_slice() {
        [Step::Key(first), Step::Key(block), ..] if first == "blocks" => {
            origins.iter().find(|(name, _)| name == block).map_or(0, |(_, origin)| *origin)
        }
        _ => 0,
    };
    let mut wrong = FileError { problems: Vec::new(), more: 0 };
    for (place, text) in texts.iter().enumerate() {
        let own = found.iter().filter(|problem| origin(&problem.path) == place);
        let FileError { problems, more } =
            text.problems(own.map(|problem| (problem.path.clone(), problem.message.clone())).collect());
        wrong.problems.extend(problems);
        wrong.more += more;
    }
    Err(wrong)
}

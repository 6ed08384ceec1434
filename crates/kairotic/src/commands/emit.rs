//! `emit`: code from a board file.

use std::fs;
use std::io::Write as _;
use std::path::Path;

use kairotic_core::board;
use kairotic_formats::emit::{self, EmitRequest};

use crate::arguments::board::open;
use crate::arguments::emit::{EmitArgs, EmitLanguage};
use crate::atomic_file::Destination;
use crate::fault::{Fault, Result};
use crate::format::Report;
use crate::part_library::PartLibrary;
use crate::report::emit::EmitReport;

pub(super) fn run(arguments: &EmitArgs, catalogue: &PartLibrary) -> Result<Box<dyn Report>> {
    let EmitArgs { board: file, to, language, force } = arguments;
    let board = open(file, catalogue)?;
    let part = catalogue.whole_part(&board.part)?;
    let plan = board::plan(&board, part)?;
    let told = |path: &Path| path.display().to_string();
    let line = format!("kairotic emit {} --to {} --as {}", told(file), told(to), language.word());
    let stem = file.file_stem().map(|stem| stem.to_string_lossy().into_owned()).unwrap_or_default();
    let request = EmitRequest {
        board: &board,
        plan: &plan,
        part,
        stem: &stem,
        file: &file.file_name().map(|name| name.to_string_lossy().into_owned()).unwrap_or_default(),
        text: &catalogue.file(file)?.bytes,
        line: &line,
        version: env!("CARGO_PKG_VERSION"),
    };
    let emitted = match language {
        EmitLanguage::C => emit::c(request)?,
    };
    if to.exists() && !to.is_dir() {
        let message = format!("--to: expected a folder, found the file {}", told(to));
        return Err(Fault::Usage {
            message,
            hint: "name a folder; it is made where it is missing".to_owned(),
        });
    }
    fs::create_dir_all(to).map_err(|error| Fault::Save { path: to.clone(), error })?;
    let mut unfinished = Vec::new();
    let mut saved = Vec::new();
    for made in &emitted.files {
        let path = to.join(&made.name);
        // What this command made before is what it is asked to make again.
        let own = fs::read(&path).is_ok_and(|text| emit::is_emitted(&text));
        let destination = Destination::of("to", &path, *force || own, Some(file))?;
        let mut writer = destination.clone().begin()?;
        writer.write_all(made.text.as_bytes()).map_err(|error| destination.fault(error))?;
        unfinished.push(writer);
        saved.push((told(&path), made.text.lines().count()));
    }
    unfinished.into_iter().try_for_each(crate::atomic_file::Unfinished::finish)?;
    Ok(Box::new(EmitReport::of(&plan, &emitted, saved)))
}

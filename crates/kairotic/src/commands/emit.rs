//! `emit`: code from a board file.

use std::ffi::OsStr;
use std::fs;
use std::io::Write as _;
use std::path::Path;

use kairotic_core::board::{self, Board, BoardPlan};
use kairotic_core::sequence::SequencePlan;
use kairotic_formats::emit::{EmitForm, EmitRequest, Emitted, emit, is_emitted};

use crate::arguments::board::open;
use crate::arguments::emit::EmitArgs;
use crate::atomic_file::Destination;
use crate::fault::{Fault, Result};
use crate::format::Report;
use crate::part_library::PartLibrary;
use crate::report::emit::EmitReport;

/// The command line that makes code again.
pub(super) fn line(file: &Path, to: &Path, forms: &[EmitForm]) -> String {
    let forms: Vec<&str> = forms.iter().map(|form| form.word()).collect();
    format!("kairotic emit {} --to {} --as {}", file.display(), to.display(), forms.join(","))
}

/// Code of a board that was planned, from a file.
pub(super) fn made(
    file: &Path,
    (board, plan): (&Board, &BoardPlan),
    forms: &[EmitForm],
    line: &str,
    catalogue: &PartLibrary,
) -> Result<Emitted> {
    let name =
        |part: Option<&OsStr>| part.map(|part| part.to_string_lossy().into_owned()).unwrap_or_default();
    let part = catalogue.whole_part(&board.part)?;
    let sequences = board.sequences.iter().map(|sequence| {
        let members = board::sequence_members(board, part, sequence)?;
        SequencePlan::of(&members, sequence)
    });
    let sequences = sequences.collect::<kairotic_core::Result<Vec<_>>>()?;
    let request = EmitRequest {
        board,
        plan,
        sequences: &sequences,
        part,
        stem: &name(file.file_stem()),
        file: &name(file.file_name()),
        text: &catalogue.file(file)?.bytes,
        line,
        version: env!("CARGO_PKG_VERSION"),
    };
    Ok(emit(request, forms)?)
}

pub(super) fn run(arguments: &EmitArgs, catalogue: &PartLibrary) -> Result<Box<dyn Report>> {
    let EmitArgs { board: file, to, forms, force } = arguments;
    let mut forms: Vec<EmitForm> = forms.iter().map(|form| form.form()).collect();
    forms.sort_unstable();
    forms.dedup();
    let board = open(file, catalogue)?;
    let plan = board::plan(&board, catalogue.whole_part(&board.part)?)?;
    let emitted = made(file, (&board, &plan), &forms, &line(file, to, &forms), catalogue)?;
    let told = |path: &Path| path.display().to_string();
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
        let own = fs::read_to_string(&path).is_ok_and(|text| is_emitted(&text));
        let destination = Destination::of("to", &path, *force || own, Some(file))?;
        let mut writer = destination.clone().begin()?;
        writer.write_all(made.text.as_bytes()).map_err(|error| destination.fault(error))?;
        unfinished.push(writer);
        saved.push((told(&path), made.text.lines().count()));
    }
    unfinished.into_iter().try_for_each(crate::atomic_file::Unfinished::finish)?;
    Ok(Box::new(EmitReport::of(&board, &plan, &emitted, saved)))
}

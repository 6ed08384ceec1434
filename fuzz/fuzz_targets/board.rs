//! Board files: whatever the bytes, complaints, or a board whose signals are derived and budgeted, which is planned from reset
//! on, and made into code.
#![no_main]

#[path = "catalogue.rs"]
mod catalogue;

use std::sync::LazyLock;

use kairotic_core::accuracy::budget;
use kairotic_core::part::Part;
use kairotic_core::search::derive;
use kairotic_core::{Error, board};
use kairotic_formats::board_file;
use kairotic_formats::emit::{EmitForm, EmitRequest, emit};
use kairotic_formats::text_file::Source;
use libfuzzer_sys::fuzz_target;

static PARTS: LazyLock<Vec<Part>> =
    LazyLock::new(|| ["stm32f411", "atmega328p", "rp2040"].map(catalogue::part).to_vec());

fn known(name: &str) -> Result<&'static Part, Error> {
    let names = PARTS.iter().map(|part| part.name.as_str());
    PARTS.iter().find(|part| part.name == name).ok_or_else(|| Error::unknown("part", name, "the catalogue", names))
}

fuzz_target!(|bytes: &[u8]| {
    let source = Source { file: "board.toml".to_owned(), bytes: bytes.to_vec() };
    let Ok(board) = board_file::read(&source, &known) else { return };
    let Ok(part) = known(&board.part) else { return };
    for signal in &board.signals {
        let Ok((spec, _)) = board::spec(&board, signal, part) else { continue };
        let Ok(derivation) = derive(&spec.on, &spec.target) else { continue };
        let _ = derivation.explain();
        let _ = budget(&spec);
    }
    let Ok(plan) = board::plan(&board, part) else { return };
    let (board, plan) = (&board, &plan);
    let request = EmitRequest { board, plan, part, stem: "board", file: "board.toml", text: bytes, line: "", version: "0" };
    for form in EmitForm::ALL {
        let _ = emit(request, &[*form]);
    }
});

//! Board files: whatever the bytes, complaints, or a board whose signals are derived, budgeted and played.
#![no_main]

#[path = "catalogue.rs"]
mod catalogue;

use std::sync::LazyLock;

use kairotic_core::accuracy::{BudgetRequest, Conditions, budget};
use kairotic_core::simulation::FaultInjection;
use kairotic_core::simulation::{Wave, WaveRequest};
use kairotic_core::part::Part;
use kairotic_core::quantity::{Rational, Time};
use kairotic_core::search::{DeriveRequest, derive};
use kairotic_core::{Error, board};
use kairotic_formats::board_file;
use kairotic_formats::text_file::Source;
use libfuzzer_sys::fuzz_target;

static PARTS: LazyLock<Vec<Part>> =
    LazyLock::new(|| ["stm32f411", "atmega328p", "rp2040"].map(catalogue::part).to_vec());

fn known(name: &str) -> Result<Part, Error> {
    let names = PARTS.iter().map(|part| part.name.as_str());
    let found = PARTS.iter().find(|part| part.name == name).cloned();
    found.ok_or_else(|| Error::unknown("part", name, "the catalogue", names))
}

fuzz_target!(|bytes: &[u8]| {
    let source = Source { file: "board.toml".to_owned(), bytes: bytes.to_vec() };
    let Ok(board) = board_file::read(&source, known) else { return };
    let Ok(part) = known(&board.part) else { return };
    for signal in &board.signals {
        let Ok((timer, channel)) = board::place(&board, &part, &signal.name) else { continue };
        let Ok((clock, _)) = board.clock.of(&part, &timer) else { continue };
        let Ok(target) = board.target(signal) else { continue };
        let request = DeriveRequest::plain(timer, channel, clock, target);
        let Ok(derivation) = derive(&part, &request) else { continue };
        let _ = derivation.explain();
        let needs = signal.needs.clone();
        let load = board.load_of(signal).cloned();
        let conditions = Conditions::default();
        let _ = budget(&part, &BudgetRequest { derive: request, conditions, needs, load });
        let Ok(lines) = kairotic_core::simulation::lines(&derivation.timer, &derivation.best.setting, &signal.name) else {
            continue;
        };
        // A few periods, in ticks of a thousandth of one.
        let period = derivation.best.setting.period;
        let part_of = |parts: i128| period.value().times(Rational::new(parts, 1000)?).map(Time::new);
        let (Some(tick), Some(length)) = (part_of(1), part_of(5000)) else { continue };
        let request = WaveRequest { lines, length, tick, rehearsal: FaultInjection::PERFECT };
        if let Ok(wave) = Wave::of(&request) {
            let mut at = 0;
            for change in wave.take(1000) {
                assert!(change.at >= at, "edges run backwards");
                at = change.at;
            }
        }
    }
});

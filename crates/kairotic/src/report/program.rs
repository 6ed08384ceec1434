//! What is shown of the steps between reset and a moving pin.

use kairotic_core::part::{Access, Trust};
use kairotic_core::program::{Action, Program, ProgramStep, RegisterPlace, RegisterWrite};

use crate::format::{Cell, Line};

/// The columns of the block `program`.
pub const STEPS: &[&str] = &["step", "what", "address", "value", "mask", "why"];

/// The steps in their order; one that the catalogue is not sure of says so.
pub fn rows(program: &Program) -> Vec<Line> {
    (1..).zip(&program.steps).map(|(number, step)| row(number, step)).collect()
}

fn row(number: usize, step: &ProgramStep) -> Line {
    let [what, address, value, mask] = told(&step.action);
    let why = match (&step.action, step.trust) {
        (Action::Supply { function }, _) => format!("{function}(): {}", step.why),
        (_, Trust::Verified) => step.why.clone(),
        (_, trust) => format!("{} ({})", step.why, trust.word()),
    };
    Line::row([
        Cell::right(number.to_string()),
        Cell::left(what),
        Cell::left(address),
        Cell::left(value),
        Cell::left(mask),
        Cell::left(why),
    ])
}

/// What is done, where, with which value under which mask.
fn told(action: &Action) -> [String; 4] {
    let nothing = String::new;
    match action {
        Action::Write(write) => {
            let value = match write.value.number() {
                Some(number) => hex(number, write.register.bits),
                None => write.value.to_string(),
            };
            [write.register.name.clone(), address(&write.register), value, mask(write)]
        }
        Action::Until { register, mask, value } => [
            format!("until {}", register.name),
            address(register),
            hex(*value, register.bits),
            hex(*mask, register.bits),
        ],
        Action::Delay { time } => [format!("wait {}", time.told()), nothing(), nothing(), nothing()],
        Action::Buffer { name, bits, words } => {
            let words: Vec<String> = words.iter().map(|word| hex(*word, *bits)).collect();
            [format!("buffer {name}"), nothing(), words.join(" "), nothing()]
        }
        Action::Transfer { register, address, bytes, .. } => {
            let bytes: Vec<String> = bytes.iter().map(|byte| format!("{byte:02x}")).collect();
            [register.clone(), format!("0x{address:02x}"), bytes.join(" "), nothing()]
        }
        Action::Attribute { name, value, .. } => [name.clone(), nothing(), value.to_string(), nothing()],
        Action::Programmed { register, mask, value, .. } => [
            format!("programmed {}", register.name),
            nothing(),
            hex(*value, register.bits),
            hex(*mask, register.bits),
        ],
        Action::Supply { .. } => ["to supply".to_owned(), nothing(), nothing(), nothing()],
    }
}

fn address(register: &RegisterPlace) -> String {
    register.address.map_or_else(
        || "not known".to_owned(),
        |address| hex(address, if address < 0x1_0000 { 16 } else { 32 }),
    )
}

fn mask(write: &RegisterWrite) -> String {
    match write.is_whole() || write.register.access == Access::WriteOnly {
        true => "whole".to_owned(),
        false => hex(write.mask, write.register.bits),
    }
}

/// A number with all digits of its width.
fn hex(number: u64, bits: u32) -> String {
    let digits = usize::try_from(bits.div_ceil(4)).unwrap_or(1);
    format!("0x{number:0digits$x}")
}

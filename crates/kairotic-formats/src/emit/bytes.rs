//! The transfers for a part at the end of a bus, as arrays of C.

use kairotic_core::program::Action;

use super::c_write::CWriter;
use super::code::CodeText;
use super::words::microseconds;
use super::{EmitError, Named};

/// The header's text.
///
/// # Errors
/// [`EmitError::NoBus`] for a part that is not at the end of a bus.
pub(super) fn header(named: &Named<'_>) -> Result<CodeText, EmitError> {
    let macros = format!("{}_BYTES", named.board.to_uppercase());
    let board = &named.board;
    let mut c = CWriter { macros: &macros, code: CodeText::default() };
    c.line(format!("#ifndef {macros}_H\n#define {macros}_H\n\n#include <stdint.h>\n"));
    let steps = &named.request.plan.program.steps;
    let mut device = None;
    // Each transfer, and the rest after it in microseconds.
    let mut transfers: Vec<(String, u64)> = Vec::new();
    for step in steps {
        c.code.from = named.origin_of(step);
        match &step.action {
            Action::Transfer { register, address, bytes, .. } => {
                device = Some(*address);
                let name = format!("{board}_transfer_{}", transfers.len() + 1);
                let list: Vec<String> = bytes.iter().map(|byte| format!("0x{byte:02X}U")).collect();
                c.comment("", &[format!("{register}: {}", step.why)]);
                c.line(format!("static const uint8_t {name}[] = {{ {} }};", list.join(", ")));
                transfers.push((name, 0));
            }
            Action::Delay { time } => {
                if let Some((_, rest)) = transfers.last_mut() {
                    *rest = microseconds(*time);
                }
            }
            _ => return Err(EmitError::NoBus(named.request.board.part.clone())),
        }
    }
    c.code.from = super::EmittedFrom::Board;
    let device = device.ok_or_else(|| EmitError::NoBus(named.request.board.part.clone()))?;
    c.line("");
    c.comment(
        "",
        &["The device's address on the bus, seven bits; the lines of the package may say another."
            .to_owned()],
    );
    c.line(format!("#define {}_BUS_ADDRESS 0x{device:02X}U\n", named.board.to_uppercase()));
    c.comment("", &["From reset to moving pins: one transfer after the other, and so many microseconds of rest after each.".to_owned()]);
    c.line(format!(
        "static const struct {{\n    const uint8_t *bytes;\n    uint8_t length;\n    uint32_t rest_us;\n}} {board}_transfers[] = {{"
    ));
    for (name, rest) in &transfers {
        c.line(format!("    {{ {name}, (uint8_t)sizeof {name}, {rest}UL }},"));
    }
    c.line(format!("}};\n\n#endif /* {macros}_H */"));
    Ok(c.code)
}

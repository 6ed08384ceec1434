//! The sequences of a board as files of their own.

use kairotic_core::sequence::SequencePlan;

use super::code::CodeText;
use super::identifiers::identifier;
use super::{C_COMMENT, EmitError, EmittedFile, Named, RUST_COMMENT};
use crate::map_code::Language;
use crate::sequence_code;

/// A header and a source.
pub(super) fn c(named: &Named<'_>, plan: &SequencePlan) -> Result<[EmittedFile; 2], EmitError> {
    let name = name(named, plan)?;
    let [declarations, definitions] = sequence_code::c_parts(&name, plan);
    let guard = format!("{}_H", name.to_uppercase());
    let mut header = CodeText::default();
    header.line(format!("#ifndef {guard}\n#define {guard}\n\n{declarations}#endif"));
    let mut source = CodeText::default();
    source.line(format!("#include \"{name}.h\"\n\n{}", definitions.trim_end_matches('\n')));
    Ok([
        header.file(named, format!("{name}.h"), C_COMMENT),
        source.file(named, format!("{name}.c"), C_COMMENT),
    ])
}

/// A module.
pub(super) fn rust(named: &Named<'_>, plan: &SequencePlan) -> Result<EmittedFile, EmitError> {
    let name = name(named, plan)?;
    let module = sequence_code::module(Language::Rust, &name, plan);
    let mut text = CodeText::default();
    // What is told of a module comes first in it, and the comment of the file is before that.
    let told = module.trim_start_matches("//! ");
    text.line(format!("// {}", told.trim_end_matches('\n')));
    Ok(text.file(named, format!("{name}.rs"), RUST_COMMENT))
}

fn name(named: &Named<'_>, plan: &SequencePlan) -> Result<String, EmitError> {
    Ok(format!("{}_{}", named.board, identifier(&plan.name)?))
}

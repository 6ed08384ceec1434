//! Code made of a board: files that a firmware takes in as they are.
//!
//! Every file begins with what it was made of and how; the same board gives the same bytes.

mod bytes;
mod c_drive;
mod c_header;
mod c_source;
mod c_transfer;
mod c_write;
mod code;
mod devicetree;
mod drift;
mod drives;
mod held;
mod identifiers;
mod kernel;
mod named;
mod rust;
mod rust_drive;
mod rust_transfer;
mod sequences;
mod values;
mod words;

use kairotic_core::board::{Board, BoardPlan};
use kairotic_core::part::Part;
use kairotic_core::sequence::SequencePlan;

use self::code::CommentMarks;
pub use self::code::{EmittedFile, EmittedFrom};
pub use self::drift::{Drift, EmittedHead, drift, head_of, is_emitted};
use self::named::Named;

/// What code is made of.
#[derive(Debug, Clone, Copy)]
pub struct EmitRequest<'a> {
    /// The board.
    pub board: &'a Board,
    /// Its plan.
    pub plan: &'a BoardPlan,
    /// Its sequences as they are made.
    pub sequences: &'a [SequencePlan],
    /// Its part, with everything that the family file says.
    pub part: &'a Part,
    /// The name of the board file, without folder and ending: what everything in the code is called after.
    pub stem: &'a str,
    /// The board file as it is told in the code.
    pub file: &'a str,
    /// What stands in the board file.
    pub text: &'a [u8],
    /// The line that makes the code again.
    pub line: &'a str,
    /// The program's version.
    pub version: &'a str,
}

/// What was made of a board.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Emitted {
    /// The files.
    pub files: Vec<EmittedFile>,
    /// The functions that the firmware has to supply, and why.
    pub supplied: Vec<(String, String)>,
    /// The signals without a function for their compare value.
    pub fixed: Vec<String>,
    /// The signals whose drive has a second line that the code does not drive.
    pub one_sided: Vec<String>,
}

/// Why no code can be made.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
#[non_exhaustive]
pub enum EmitError {
    /// A name of which no identifier can be made.
    #[error(
        "expected a name with letters or digits, at most {longest} of them, for what is called after it; found `{name}`"
    )]
    Name {
        /// The name.
        name: String,
        /// How long it may be.
        longest: usize,
    },
    /// Two names that become one identifier.
    #[error("`{first}` and `{second}` would both be called {identifier}")]
    Clash {
        /// The first name.
        first: String,
        /// The second name.
        second: String,
        /// What both become.
        identifier: String,
    },
    /// A register whose address is not known.
    #[error("the catalogue does not know the address of {0}")]
    Address(String),
    /// A part that a kernel drives.
    #[error("no code reaches {0}: a kernel drives it")]
    Elsewhere(String),
    /// A part that is not at the end of a bus.
    #[error("{0} is at the end of no bus")]
    NoBus(String),
    /// A part of which no kernel's driver is known.
    #[error("the catalogue knows no kernel's driver of {0}")]
    NoKernel(String),
    /// A number that a format does not hold.
    #[error("there is no room for {0}")]
    Values(String),
    /// Two lines of one motor whose compare values are not the same.
    #[error(
        "`{first}` and `{second}` are lines of one motor, and their counters do not count alike: put both on channels of one timer"
    )]
    Lines {
        /// The signal on the first line.
        first: String,
        /// The one on the second.
        second: String,
    },
    /// What the core refuses.
    #[error(transparent)]
    Core(#[from] kairotic_core::Error),
}

/// What code is made as.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum EmitForm {
    /// C99: a header and a source.
    C,
    /// Rust: a module for firmware without the standard library.
    Rust,
    /// A device tree's overlay for a part that a kernel drives.
    Devicetree,
    /// A shell's functions for the PWM channels of a kernel.
    Kernel,
    /// Arrays of C with the transfers for a part at the end of a bus.
    Bytes,
    /// The numbers as TOML and JSON.
    Values,
}

impl EmitForm {
    /// All of them.
    pub const ALL: &[Self] =
        &[Self::C, Self::Rust, Self::Devicetree, Self::Kernel, Self::Bytes, Self::Values];

    /// Whether it has functions that call what is supplied.
    const fn has_functions(self) -> bool {
        matches!(self, Self::C | Self::Rust)
    }

    /// Whether it has functions or numbers for levels in a load's unit.
    const fn has_levels(self) -> bool {
        matches!(self, Self::C | Self::Rust | Self::Values)
    }

    /// The word for it.
    pub const fn word(self) -> &'static str {
        match self {
            Self::C => "c",
            Self::Rust => "rust",
            Self::Devicetree => "devicetree",
            Self::Kernel => "kernel",
            Self::Bytes => "bytes",
            Self::Values => "values",
        }
    }
}

/// How a comment of C stands over several lines.
const C_COMMENT: CommentMarks = ["/* ", "   ", " */"];

/// The same in Rust.
const RUST_COMMENT: CommentMarks = ["// ", "// ", ""];

/// The same in a shell.
const SHELL_COMMENT: CommentMarks = ["# ", "# ", ""];

/// Code of a board, in each of several forms.
///
/// # Errors
/// Names that make no identifiers, registers without address, and parts at the end of a bus.
pub fn emit(request: EmitRequest<'_>, forms: &[EmitForm]) -> Result<Emitted, EmitError> {
    // To prove a map takes longer than all the rest.
    let with_levels = forms.iter().any(|form| form.has_levels());
    let named = Named::of(request, with_levels)?;
    let mut files = Vec::new();
    for form in forms {
        match form {
            EmitForm::C => {
                let header = c_header::header(&named);
                files.push(header.file(&named, format!("{}.h", named.board), C_COMMENT));
                let source = c_source::source(&named)?;
                files.push(source.file(&named, format!("{}.c", named.board), C_COMMENT));
                for sequence in request.sequences {
                    files.extend(sequences::c(&named, sequence)?);
                }
            }
            EmitForm::Rust => {
                let module = rust::module(&named)?;
                files.push(module.file(&named, format!("{}.rs", named.board), RUST_COMMENT));
                for sequence in request.sequences {
                    files.push(sequences::rust(&named, sequence)?);
                }
            }
            EmitForm::Devicetree => {
                let overlay = devicetree::overlay(&named)?;
                files.push(overlay.file(&named, format!("{}.dtso", named.board), C_COMMENT));
            }
            EmitForm::Kernel => {
                let script = kernel::script(&named)?;
                files.push(script.file(&named, format!("{}_pwm.sh", named.board), SHELL_COMMENT));
            }
            EmitForm::Bytes => {
                let header = bytes::header(&named)?;
                files.push(header.file(&named, format!("{}_bytes.h", named.board), C_COMMENT));
            }
            EmitForm::Values => files.extend(values::files(&named)?),
        }
    }
    let signals = request.plan.signals.iter().zip(&named.updates);
    let fixed = signals.filter(|(_, update)| update.is_none()).map(|(signal, _)| signal.name.clone());
    let (fixed, one_sided) = (fixed.collect(), named.one_sided(with_levels));
    let calls = forms.iter().any(|form| form.has_functions());
    let special = calls.then(|| named.special_supplies()).into_iter().flatten();
    let supplied = named.supplies().into_iter().chain(special).collect();
    Ok(Emitted { files, fixed, one_sided, supplied })
}

/// A text that ends no comment.
fn harmless(text: &str) -> String {
    text.replace("*/", "* /").replace("/*", "/ *").chars().filter(|letter| !letter.is_control()).collect()
}

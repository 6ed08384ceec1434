//! Code made of a board: files that a firmware takes in as they are.
//!
//! Every file begins with what it was made of and how; the same board gives the same bytes.

mod c_header;
mod c_source;
mod c_write;
mod code;
mod drift;
mod identifiers;

use kairotic_core::board::{Board, BoardPlan, Signal};
use kairotic_core::load::Kind;
use kairotic_core::part::Part;
use kairotic_core::program::{CompareUpdate, compare_update};

use self::code::{CommentMarks, digest};
pub use self::code::{EmittedFile, EmittedFrom};
pub use self::drift::{Drift, EmittedHead, drift, head_of};
use self::identifiers::{identifier, identifiers};

/// What code is made of.
#[derive(Debug, Clone, Copy)]
pub struct EmitRequest<'a> {
    /// The board.
    pub board: &'a Board,
    /// Its plan.
    pub plan: &'a BoardPlan,
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
    /// A part that is not in the processor's own memory.
    #[error("{0} is not in the memory of the processor that the code is for")]
    Elsewhere(String),
    /// What the core refuses.
    #[error(transparent)]
    Core(#[from] kairotic_core::Error),
}

/// A board with the identifiers that its code has.
struct Named<'a> {
    request: EmitRequest<'a>,
    /// What everything is called after: `dome`.
    board: String,
    /// What each signal is called: `dome_shutter`.
    signals: Vec<String>,
    /// How each signal's compare value is written while it runs; none where that takes more.
    updates: Vec<Option<CompareUpdate>>,
}

/// What code is made as.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum EmitForm {
    /// C99: a header and a source.
    C,
}

impl EmitForm {
    /// All of them.
    pub const ALL: &[Self] = &[Self::C];

    /// The word for it.
    pub const fn word(self) -> &'static str {
        match self {
            Self::C => "c",
        }
    }
}

/// How a comment of C stands over several lines.
const C_COMMENT: CommentMarks = ["/* ", "   ", " */"];

/// Code of a board, in each of several forms.
///
/// # Errors
/// Names that make no identifiers, registers without address, and parts at the end of a bus.
pub fn emit(request: EmitRequest<'_>, forms: &[EmitForm]) -> Result<Emitted, EmitError> {
    let named = Named::of(request)?;
    let mut files = Vec::new();
    for form in forms {
        match form {
            EmitForm::C => {
                let header = c_header::header(&named);
                files.push(header.file(&named, format!("{}.h", named.board), C_COMMENT));
                let source = c_source::source(&named)?;
                files.push(source.file(&named, format!("{}.c", named.board), C_COMMENT));
            }
        }
    }
    let signals = request.plan.signals.iter().zip(&named.updates);
    let fixed = signals.filter(|(_, update)| update.is_none()).map(|(signal, _)| signal.name.clone());
    let (fixed, one_sided) = (fixed.collect(), named.one_sided());
    Ok(Emitted { files, fixed, one_sided, supplied: named.supplies() })
}

impl<'a> Named<'a> {
    fn of(request: EmitRequest<'a>) -> Result<Self, EmitError> {
        let stem = identifier(request.stem)?;
        // An identifier does not begin with a digit; what follows has this before it.
        let board =
            if stem.starts_with(|c: char| c.is_ascii_digit()) { format!("board_{stem}") } else { stem };
        let names = identifiers(request.plan.signals.iter().map(|signal| signal.name.as_str()))?;
        let signals = names.into_iter().map(|name| format!("{board}_{name}")).collect();
        let mut updates = Vec::new();
        for signal in &request.plan.signals {
            let timer = request.plan.timers.get(signal.timer);
            let update = timer.map(|timer| compare_update(request.part, timer, &signal.channel));
            updates.push(update.transpose()?.flatten());
        }
        Ok(Self { request, board, signals, updates })
    }

    /// The signals that drive one line of two.
    fn one_sided(&self) -> Vec<String> {
        let board = self.request.board;
        let reverses = |signal: &&Signal| {
            let load = board.load_of(signal).map(|load| &load.kind);
            matches!(load, Some(Kind::Motor(motor)) if motor.wiring.reverses())
        };
        board.signals.iter().filter(reverses).map(|signal| signal.name.clone()).collect()
    }

    /// What every file begins with, a line each. The digests tell a change of the board from one of the code.
    fn origin(&self, code: &str) -> Vec<String> {
        let EmitRequest { file, text, line, version, .. } = self.request;
        vec![
            format!("Made by Kairotic {version} from {} (SHA-256 {}...).", harmless(file), digest(text)),
            format!("Again by: {}", harmless(line)),
            format!(
                "What is changed here by hand is lost then. All that follows: SHA-256 {}...",
                digest(code.as_bytes())
            ),
        ]
    }
}

/// A text that ends no comment.
fn harmless(text: &str) -> String {
    text.replace("*/", "* /").replace("/*", "/ *").chars().filter(|letter| !letter.is_control()).collect()
}

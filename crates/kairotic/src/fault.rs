//! Everything that ends a run early, and how it is told.

use std::io;
use std::path::{Path, PathBuf};

use kairotic_formats::capture::CaptureError;
use kairotic_formats::emit::EmitError;
use kairotic_formats::text_file::FileError;

use crate::chart::PlotError;
use crate::exit::Exit;
use crate::hints;

/// A result with this crate's error.
pub type Result<T, E = Fault> = std::result::Result<T, E>;

/// Why a run ended early.
#[derive(Debug, thiserror::Error)]
pub enum Fault {
    /// The request is wrong or cannot be met.
    #[error(transparent)]
    Core(#[from] kairotic_core::Error),
    /// An option's value is wrong.
    #[error("--{option}: {error}")]
    Option {
        /// The option.
        option: &'static str,
        /// What is wrong.
        error: Box<kairotic_core::Error>,
    },
    /// Options that do not go together, or a value of the wrong shape.
    #[error("{message}")]
    Usage {
        /// What was expected and what came.
        message: String,
        /// What to try.
        hint: String,
    },
    /// A family file is broken.
    #[error(transparent)]
    File(#[from] FileError),
    /// No code can be made of a board.
    #[error(transparent)]
    Emit(#[from] EmitError),
    /// A part stands in two of the user's files.
    #[error("{name} is described twice, in {} and in {}", first.display(), second.display())]
    PartTwice {
        /// The part.
        name: String,
        /// The first file.
        first: PathBuf,
        /// The second file.
        second: PathBuf,
    },
    /// A file or folder cannot be read.
    #[error("cannot read {}: {error}", path.display())]
    Read {
        /// The place.
        path: PathBuf,
        /// The system's answer.
        error: io::Error,
    },
    /// A capture is broken, or cannot be read.
    #[error("{}: {error}", path.display())]
    Capture {
        /// The file.
        path: PathBuf,
        /// What is wrong.
        error: CaptureError,
    },
    /// A file cannot be saved.
    #[error("cannot save {}: {error}", path.display())]
    Save {
        /// The place.
        path: PathBuf,
        /// The system's answer.
        error: io::Error,
    },
    /// A picture cannot be drawn.
    #[error("--plot: {0}")]
    Plot(#[from] PlotError),
    /// The output cannot be written.
    #[error("cannot write the output: {0}")]
    Write(#[from] io::Error),
    /// The result cannot be put into the output format.
    #[error("cannot format the output: {0}")]
    Format(#[from] serde_json::Error),
    /// The same for CSV.
    #[error("cannot format the output: {0}")]
    Csv(#[from] csv::Error),
}

impl Fault {
    /// A place that cannot be read.
    pub fn read(path: &Path, error: io::Error) -> Self {
        Self::Read { path: path.to_owned(), error }
    }

    /// What to try, where there is something to say.
    pub fn hint(&self) -> Option<String> {
        match self {
            Self::Core(error) => hints::of_error(error),
            Self::Option { error, .. } => hints::of_error(error),
            Self::Usage { hint, .. } => Some(hint.clone()),
            Self::Emit(error) => match error {
                EmitError::Name { .. } | EmitError::Clash { .. } => {
                    Some("give the file or the signal another name".to_owned())
                }
                EmitError::Elsewhere(_) => Some(
                    "--as kernel or --as devicetree".to_owned(),
                ),
                EmitError::NoKernel(_) => Some(
                    "a part whose family file has `[kernel]`, as pca9685, bcm2835 and kernel-pwm".to_owned(),
                ),
                EmitError::NoBus(_) => Some("--as c or rust: its registers are in memory".to_owned()),
                EmitError::Core(error) => hints::of_error(error),
                _ => Some("`derive --from-reset` shows what is known of the timer".to_owned()),
            },
            Self::File(_) => Some("docs/part-files.md and docs/board-files.md describe each key".to_owned()),
            Self::PartTwice { .. } => Some("name one of them with --parts, not both".to_owned()),
            Self::Read { .. } => Some(
                "--parts takes a family file or a folder of them; --board, `emit` and `check` take board files"
                    .to_owned(),
            ),
            Self::Capture { error: CaptureError::Io(_), .. } => {
                Some("a capture is a .vcd, .csv or .sr file, or - for a pipe".to_owned())
            }
            Self::Capture { .. } => Some(
                "docs/guide/on-the-bench.md says which captures are read, and with which hints".to_owned(),
            ),
            Self::Plot(_) => Some("for example --plot picture.svg or --plot picture.png".to_owned()),
            Self::Save { .. } => Some(
                "a folder that is there and may be written to, or for --save one without such a file"
                    .to_owned(),
            ),
            Self::Write(_) | Self::Format(_) | Self::Csv(_) => None,
        }
    }

    /// How the run ends.
    pub fn exit(&self) -> Exit {
        match self {
            Self::Read { .. }
            | Self::Save { .. }
            | Self::Write(_)
            | Self::Capture { error: CaptureError::Io(_), .. } => Exit::Device,
            _ => Exit::Refused,
        }
    }
}

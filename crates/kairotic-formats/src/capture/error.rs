//! What can be wrong with a capture.

use std::io;

/// What is wrong with a capture, and where.
#[derive(Debug, thiserror::Error)]
pub enum CaptureError {
    /// A place in a text.
    #[error("line {line}: {message}")]
    Line {
        /// The line, counted from 1.
        line: u64,
        /// What is wrong.
        message: String,
    },
    /// The file as a whole.
    #[error("{0}")]
    Whole(String),
    /// It cannot be read.
    #[error("it cannot be read: {0}")]
    Io(io::Error),
}

impl From<io::Error> for CaptureError {
    /// What was read but makes no sense is the file's fault, not the device's.
    fn from(error: io::Error) -> Self {
        use io::ErrorKind::{InvalidData, InvalidInput, UnexpectedEof};
        match error.kind() {
            InvalidData | InvalidInput | UnexpectedEof => Self::Whole(format!("the file is broken: {error}")),
            _ => Self::Io(error),
        }
    }
}

impl CaptureError {
    pub(super) fn plain(message: impl Into<String>) -> Self {
        Self::Whole(message.into())
    }

    pub(super) fn at(line: u64, message: impl Into<String>) -> Self {
        Self::Line { line, message: message.into() }
    }
}

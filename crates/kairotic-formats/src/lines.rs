//! Text with something on each line: comments and empty lines passed over, and a line that is wrong named by its number.

use crate::text_file::Source;

/// A line that is not what it should be.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("{file}:{line}: {message}")]
pub struct LineError {
    /// The file.
    pub file: String,
    /// The line, from one on.
    pub line: u64,
    /// What was expected and what came.
    pub message: String,
}

/// The lines that say something, each with its number: those that are empty or begin with `#` do not.
pub(crate) fn lines(source: &Source) -> impl Iterator<Item = Result<(u64, &str), LineError>> {
    let all = (1..).zip(source.bytes.split(|byte| *byte == b'\n'));
    all.filter_map(|(line, bytes)| match std::str::from_utf8(bytes).map(str::trim) {
        Ok(text) if text.is_empty() || text.starts_with('#') => None,
        Ok(text) => Some(Ok((line, text))),
        Err(_) => {
            let message = "expected text in UTF-8, found other bytes".to_owned();
            Some(Err(LineError { file: source.file.clone(), line, message }))
        }
    })
}

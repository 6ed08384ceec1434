//! Text that is made line by line, each of which knows what of the board it comes from.

use sha2::{Digest, Sha256};

use super::Named;

/// What of a board a line was made of.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub enum EmittedFrom {
    /// All of it.
    #[default]
    Board,
    /// Its clock.
    Clock,
    /// The signal at that place.
    Signal(usize),
}

/// A file that was made.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct EmittedFile {
    /// Its name, without a folder.
    pub name: String,
    /// What stands in it.
    pub text: String,
    /// What each of its lines was made of.
    pub origins: Vec<EmittedFrom>,
}

/// How a language begins, goes on with and ends a comment.
pub(super) type CommentMarks = [&'static str; 3];

/// Text that is being made.
#[derive(Default)]
pub(super) struct CodeText {
    text: String,
    origins: Vec<EmittedFrom>,
    /// What the lines that follow are made of.
    pub(super) from: EmittedFrom,
}

impl CodeText {
    /// A line, or several of them in one text.
    pub(super) fn line(&mut self, text: impl AsRef<str>) {
        let text = text.as_ref();
        self.text.push_str(text);
        self.text.push('\n');
        self.origins.extend(std::iter::repeat_n(self.from, text.matches('\n').count() + 1));
    }

    /// The file: the text under a comment that says what it was made of and how, and by which a change by hand is seen.
    pub(super) fn file(
        self,
        named: &Named<'_>,
        name: String,
        [begin, next, end]: CommentMarks,
    ) -> EmittedFile {
        let lines = named.origin(&self.text);
        let head = match begin.strip_suffix('"') {
            // Texts in a list, where a quote or a backslash would be more than itself.
            Some(_) => {
                lines.map(|line| line.replace('\\', "/").replace('"', "'")).join(&format!("\",\n{next}"))
            }
            None => lines.join(&format!("\n{next}")),
        };
        let head = format!("{begin}{head}{end}\n");
        let count = head.matches('\n').count();
        let text = head + &self.text;
        let origins = std::iter::repeat_n(EmittedFrom::Board, count).chain(self.origins).collect();
        EmittedFile { name, text, origins }
    }
}

/// The first digits of a digest, in hexadecimal.
pub(super) fn digest(text: &[u8]) -> String {
    Sha256::digest(text).iter().take(8).map(|byte| format!("{byte:02x}")).collect()
}

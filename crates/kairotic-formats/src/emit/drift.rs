//! Code that was made once against what would be made now: whether the plan changed, or somebody the code.

use std::ops::Range;

use kairotic_core::finding::CodeChange;
use similar::{DiffOp, TextDiff};

use super::code::digest;
use super::{EmittedFile, EmittedFrom};

/// What a file that was made says of itself.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct EmittedHead {
    /// The board file that it was made from, without folders.
    pub file: String,
    /// The digest of that.
    pub board: String,
    /// The line that makes it again.
    pub line: String,
    /// The digest of the code below.
    pub code: String,
    /// The lines that this takes.
    lines: usize,
}

/// How code differs from what would be made now.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Drift {
    /// Whether the code is no longer what was made: somebody changed it.
    pub edited: bool,
    /// Whether the board file is another than the one that it was made from.
    pub planned: bool,
    /// Whether anything differs but what the file says of itself.
    pub code: bool,
    /// The first line that differs, from 1, of the code as it is.
    pub line: usize,
    /// The parts of the board that the differing lines come from, each once.
    pub from: Vec<EmittedFrom>,
    /// The difference of the code, where there is one: from how it is to how it would be made.
    pub diff: Option<String>,
}

impl Drift {
    /// Why the code is not what would be made.
    pub const fn change(&self) -> CodeChange {
        match (self.code, self.planned, self.edited) {
            (false, true, _) => CodeChange::PlanOnly,
            (_, true, false) => CodeChange::Plan,
            (_, true, true) => CodeChange::PlanAndHand,
            (_, false, true) => CodeChange::Hand,
            (_, false, false) => CodeChange::Program,
        }
    }
}

/// Whether this program made a file, of whatever version and whatever became of it since.
pub fn is_emitted(text: &str) -> bool {
    head_lines(text).iter().take(3).any(|line| line.starts_with(MADE))
}

const MADE: &str = "Made by Kairotic ";

/// The first lines of a file, without a comment's marks or those of a list.
fn head_lines(text: &str) -> Vec<String> {
    let words = |line: &str| line.trim_matches(|letter: char| " \t/*#\",".contains(letter)).to_owned();
    text.lines().take(5).map(words).collect()
}

/// What a file says of itself; `None` where this program did not make it, or that was taken away.
pub fn head_of(text: &str) -> Option<EmittedHead> {
    let told = head_lines(text);
    let first = told.iter().take(3).position(|line| line.starts_with(MADE))?;
    let [made, again, last] = told.get(first..first + 3)? else { return None };
    let (_, from) = made.split_once(" from ")?;
    let (file, rest) = from.rsplit_once(" (SHA-256 ")?;
    let (_, line) = again.split_once("Again by: ")?;
    let (_, code) = last.rsplit_once("SHA-256 ")?;
    let digits = |text: &str| text.chars().take_while(char::is_ascii_hexdigit).collect();
    Some(EmittedHead {
        file: file.to_owned(),
        board: digits(rest),
        line: line.to_owned(),
        code: digits(code),
        lines: first + 3,
    })
}

/// How a file that is there differs from one that would be made; `None` where they are the same.
pub fn drift(is: &str, made: &EmittedFile) -> Option<Drift> {
    if is == made.text {
        return None;
    }
    let (own, new) = (head_of(is), head_of(&made.text));
    let split = |text: &str, head: &Option<EmittedHead>| {
        let lines: Vec<&str> = text.split_inclusive('\n').collect();
        let (head, code) = lines.split_at(head.as_ref().map_or(0, |head| head.lines).min(lines.len()));
        (head.concat(), code.concat())
    };
    let ((is_head, is_code), (made_head, made_code)) = (split(is, &own), split(&made.text, &new));
    // What a file says of itself changes with everything: that is no difference of the code.
    let made_text = if own.is_some() { is_head + &made_code } else { made_head + &made_code };
    let diff = TextDiff::from_lines(is, &made_text);
    let mut from: Vec<EmittedFrom> = Vec::new();
    let mut line = None;
    for op in diff.ops() {
        let (_, was, is) = op.as_tag_tuple();
        if matches!(op, DiffOp::Equal { .. }) {
            continue;
        }
        line = line.or(Some(was.start + 1));
        // Of lines that are gone the next one tells where they were.
        let touched: Range<usize> = if is.is_empty() { is.start..is.start + 1 } else { is };
        for origin in made.origins.get(touched.start..touched.end.min(made.origins.len())).unwrap_or_default()
        {
            if !from.contains(origin) {
                from.push(*origin);
            }
        }
    }
    Some(Drift {
        edited: own.as_ref().is_none_or(|own| own.code != digest(is_code.as_bytes())),
        planned: own.as_ref().zip(new.as_ref()).is_some_and(|(own, new)| own.board != new.board),
        code: is_code != made_code,
        line: line.unwrap_or(1),
        from,
        diff: (is_code != made_code).then(|| {
            let (is, planned) = (&made.name, format!("{} (as planned)", made.name));
            diff.unified_diff().context_radius(2).header(is, &planned).to_string()
        }),
    })
}

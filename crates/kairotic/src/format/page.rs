//! What text and Markdown show: a heading, and blocks led by a short word.

use kairotic_core::finding::{Finding, Severity};

/// One command's output for eyes.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct Page {
    /// Where, what was wanted, from which clock.
    pub heading: Vec<String>,
    /// The blocks, in the order in which they are read.
    pub blocks: Vec<PageBlock>,
}

/// A block of lines under one word.
#[derive(Debug, Clone, PartialEq)]
pub struct PageBlock {
    /// The word at the left margin.
    pub word: &'static str,
    /// What the columns of its rows hold, for formats that say so.
    pub columns: &'static [&'static str],
    /// Its lines.
    pub lines: Vec<Line>,
    /// Whether text shows the names of the columns, too.
    pub headed: bool,
}

/// One line of a block.
#[derive(Debug, Clone, PartialEq)]
pub enum Line {
    /// Cells under one another.
    Row(Vec<Cell>),
    /// A sentence.
    Prose(String),
    /// A line of a file, as it is.
    Verbatim(String),
    /// Something that is or may be wrong.
    Finding(Finding),
}

/// One cell of a row.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Cell {
    /// What it says.
    pub text: String,
    /// How it stands in its column.
    pub align: Align,
    /// How it looks on a terminal.
    pub tone: Tone,
}

/// How a cell stands in its column.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Align {
    /// At the left.
    Left,
    /// At the right.
    Right,
    /// A number with a unit, on the decimal point.
    Point,
}

/// How something looks on a terminal. Colour carries nothing that the words do not.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Tone {
    /// As the terminal has it.
    Plain,
    /// A value to write.
    Value,
    /// The name of a finding.
    Severity(Severity),
}

impl Page {
    /// A page with this heading and no blocks.
    pub fn headed(heading: impl IntoIterator<Item = String>) -> Self {
        Self { heading: heading.into_iter().collect(), blocks: Vec::new() }
    }

    /// Adds a table: a block whose columns have a header row everywhere, unless it has nothing to say.
    pub fn table(&mut self, word: &'static str, columns: &'static [&'static str], lines: Vec<Line>) {
        self.push(word, columns, lines);
        if let Some(block) = self.blocks.last_mut().filter(|block| block.word == word) {
            block.headed = true;
        }
    }

    /// Adds a block, unless it has nothing to say.
    pub fn push(&mut self, word: &'static str, columns: &'static [&'static str], lines: Vec<Line>) {
        if !lines.is_empty() {
            self.blocks.push(PageBlock { word, columns, lines, headed: false });
        }
    }
}

impl Line {
    /// Cells under one another.
    pub fn row(cells: impl IntoIterator<Item = Cell>) -> Self {
        Self::Row(cells.into_iter().collect())
    }
}

impl Cell {
    /// Words.
    pub fn left(text: impl Into<String>) -> Self {
        Self { text: text.into(), align: Align::Left, tone: Tone::Plain }
    }

    /// A bare number.
    pub fn right(text: impl Into<String>) -> Self {
        Self { text: text.into(), align: Align::Right, tone: Tone::Plain }
    }

    /// A number with its unit.
    pub fn point(text: impl Into<String>) -> Self {
        Self { text: text.into(), align: Align::Point, tone: Tone::Plain }
    }

    /// A value to write to a register.
    pub fn value(number: u64) -> Self {
        Self { text: number.to_string(), align: Align::Right, tone: Tone::Value }
    }
}

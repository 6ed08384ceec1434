//! Text for a terminal of a hundred columns.

use std::fmt::Write as _;

use anstyle::{AnsiColor, Style};
use kairotic_core::finding::{Finding, Severity};

use super::page::{Align, Block, Cell, Line, Page, Tone};

/// Nothing is wider.
const WIDTH: usize = 100;
/// Where the lines of a block begin: the longest leading word and a space.
const MARGIN: usize = 9;
/// Between two columns, and between the parts of the heading.
const GAP: usize = 3;

/// The page, with colours.
pub(super) fn render(page: &Page) -> String {
    let mut out = String::new();
    let gap = " ".repeat(GAP + 1);
    let heading = page.heading.join(&gap);
    if width(&heading) <= WIDTH {
        out.push_str(&heading);
    } else {
        out.push_str(&page.heading.join(&format!("\n{}", " ".repeat(MARGIN))));
    }
    out.push('\n');
    for block in &page.blocks {
        out.push('\n');
        out.push_str(&render_block(block));
    }
    out
}

/// A complaint for standard error: what is wrong, and what to try.
pub fn complaint(message: &str, hint: Option<&str>) -> String {
    let style = tone_style(Tone::Severity(Severity::Error));
    let mut out = String::new();
    lead(&mut out, "error", style, message);
    if let Some(hint) = hint.filter(|hint| !hint.is_empty()) {
        lead(&mut out, "try", Style::new(), hint);
    }
    out
}

/// A word at the margin, and wrapped text beside it. Lines of the text stay lines.
fn lead(out: &mut String, word: &str, style: Style, text: &str) {
    let mut word = word;
    for line in text.lines().flat_map(|line| wrapped(line, WIDTH - MARGIN)) {
        let padding = " ".repeat(MARGIN - word.len());
        out.push_str(&format!("{style}{word}{style:#}{padding}{line}\n"));
        word = "";
    }
}

fn render_block(block: &Block) -> String {
    let columns = Columns::of(&block.lines);
    let mut out = String::new();
    for (index, line) in block.lines.iter().enumerate() {
        let word = if index == 0 { block.word } else { "" };
        let lines = match line {
            Line::Row(cells) => columns.row(cells),
            Line::Prose(text) => wrapped(text, WIDTH - MARGIN),
            Line::Finding(finding) => finding_lines(finding),
        };
        for (index, line) in lines.iter().enumerate() {
            let word = if index == 0 { word } else { "" };
            let _ = writeln!(out, "{}", format!("{word:MARGIN$}{line}").trim_end());
        }
    }
    out
}

fn finding_lines(finding: &Finding) -> Vec<String> {
    let style = tone_style(Tone::Severity(finding.severity));
    let Finding { name, severity, message, remedy } = finding;
    let mut lines = vec![format!("{style}{name}{style:#} ({})", severity.word())];
    let told = wrapped(message, WIDTH - MARGIN - GAP).into_iter();
    let remedy = wrapped(&format!("→ {remedy}"), WIDTH - MARGIN - GAP).into_iter();
    lines.extend(told.chain(remedy).map(|line| format!("{}{line}", " ".repeat(GAP))));
    lines
}

fn wrapped(text: &str, columns: usize) -> Vec<String> {
    // A hyphen in a register or finding name is no place to break it.
    let options = textwrap::Options::new(columns)
        .word_splitter(textwrap::WordSplitter::NoHyphenation)
        .break_words(false);
    textwrap::wrap(text, options).into_iter().map(std::borrow::Cow::into_owned).collect()
}

/// The widths of the columns of a block.
struct Columns(Vec<Column>);

/// Of what stands before a decimal point, and of all.
#[derive(Clone, Copy, Default)]
struct Column {
    before_point: usize,
    whole: usize,
}

impl Columns {
    fn of(lines: &[Line]) -> Self {
        let mut columns: Vec<Column> = Vec::new();
        let rows =
            || lines.iter().filter_map(|line| if let Line::Row(cells) = line { Some(cells) } else { None });
        for cells in rows() {
            columns.resize(columns.len().max(cells.len()), Column::default());
            for (column, cell) in columns.iter_mut().zip(cells).filter(|(_, cell)| cell.align == Align::Point)
            {
                column.before_point = column.before_point.max(before_point(&cell.text));
            }
        }
        for cells in rows() {
            for (column, cell) in columns.iter_mut().zip(cells) {
                column.whole = column.whole.max(width(&column.placed(cell)));
            }
        }
        Self(columns)
    }

    /// The cells under those of other rows. The last one is wrapped where it is too long.
    fn row(&self, cells: &[Cell]) -> Vec<String> {
        // Empty cells at the end would keep the last one that speaks from being wrapped.
        let spoken = cells.iter().rposition(|cell| !cell.text.is_empty()).map_or(0, |last| last + 1);
        let Some((last, before)) = cells.get(..spoken).and_then(<[Cell]>::split_last) else {
            return vec![String::new()];
        };
        let mut start = String::new();
        let mut indent = 0;
        for (column, cell) in self.0.iter().zip(before) {
            let placed = column.placed(cell);
            let padding = " ".repeat(column.whole.saturating_sub(width(&placed)) + GAP);
            let _ = write!(start, "{}{padding}", styled(cell, &placed));
            indent += column.whole + GAP;
        }
        let placed = self.0.get(before.len()).copied().unwrap_or_default().placed(last);
        let room = WIDTH.saturating_sub(MARGIN + indent).max(MARGIN);
        if width(&placed) <= room {
            return vec![format!("{start}{}", styled(last, &placed))];
        }
        let mut lines = wrapped(&placed, room);
        for (index, line) in lines.iter_mut().enumerate() {
            *line =
                if index == 0 { format!("{start}{line}") } else { format!("{}{line}", " ".repeat(indent)) };
        }
        lines
    }
}

impl Column {
    /// The cell's text with the blanks that stand before it.
    fn placed(&self, cell: &Cell) -> String {
        let before = match cell.align {
            Align::Left => 0,
            Align::Right => self.whole.saturating_sub(width(&cell.text)),
            Align::Point => self.before_point - before_point(&cell.text),
        };
        format!("{}{}", " ".repeat(before), cell.text)
    }
}

/// How many characters stand before the decimal point of a number with a unit.
fn before_point(text: &str) -> usize {
    let number = text.split(' ').next().unwrap_or_default();
    number.find('.').map_or_else(|| width(number), |point| width(number.get(..point).unwrap_or_default()))
}

fn styled(cell: &Cell, placed: &str) -> String {
    let style = tone_style(cell.tone);
    format!("{style}{placed}{style:#}")
}

fn tone_style(tone: Tone) -> Style {
    let color = |color: AnsiColor| Style::new().fg_color(Some(color.into())).bold();
    match tone {
        Tone::Plain => Style::new(),
        Tone::Value => Style::new().bold(),
        Tone::Severity(Severity::Error) => color(AnsiColor::Red),
        Tone::Severity(Severity::Warning) => color(AnsiColor::Yellow),
        Tone::Severity(Severity::Note) => color(AnsiColor::Cyan),
    }
}

fn width(text: &str) -> usize {
    text.chars().count()
}

//! Text for a terminal of a hundred columns.

use std::borrow::Cow;
use std::fmt::Write as _;

use anstyle::{AnsiColor, Style};
use kairotic_core::finding::{Finding, Severity};

use crate::hints;
use kairotic_core::name;

use super::page::{Align, Cell, Line, Page, PageBlock, Tone};

/// Nothing is wider.
const WIDTH: usize = 100;
/// Where the lines of a block begin: the longest leading word and a space.
const MARGIN: usize = 9;
/// What a wrapped text gets at least.
const LEAST_ROOM: usize = 16;
/// Between two columns, and between the parts of the heading.
const GAP: usize = 3;

/// The page.
pub(super) fn render(page: &Page, coloured: bool) -> String {
    let mut sheet = TextSheet { text: String::new(), coloured };
    let gap = " ".repeat(GAP + 1);
    let heading = page.heading.join(&gap);
    let heading = clean(&heading);
    if width(&heading) <= WIDTH {
        sheet.text.push_str(&heading);
    } else {
        sheet.text.push_str(&heading.replace(&gap, &format!("\n{}", " ".repeat(MARGIN))));
    }
    sheet.text.push('\n');
    for block in &page.blocks {
        sheet.text.push('\n');
        sheet.block(block);
    }
    sheet.text
}

/// A complaint for standard error: what is wrong, and what to try.
pub fn complaint(message: &str, hint: Option<&str>, coloured: bool) -> String {
    let mut sheet = TextSheet { text: String::new(), coloured };
    // What it quotes may be anything.
    let message: Vec<String> = message.lines().map(name::cleaned).collect();
    sheet.lead("error", Tone::Severity(Severity::Error), &message.join("\n"));
    if let Some(hint) = hint.filter(|hint| !hint.is_empty()) {
        sheet.lead("try", Tone::Plain, hint);
    }
    sheet.text
}

/// Text on its way to the terminal.
struct TextSheet {
    text: String,
    coloured: bool,
}

impl TextSheet {
    /// A word at the margin, and wrapped text beside it. Lines of the text stay lines.
    fn lead(&mut self, word: &str, tone: Tone, text: &str) {
        self.styled(word, tone);
        self.blanks(MARGIN.saturating_sub(word.len()));
        for (index, line) in text.lines().enumerate() {
            self.blanks(if index == 0 { 0 } else { MARGIN });
            self.wrapped(line, MARGIN);
            self.text.push('\n');
        }
    }

    fn block(&mut self, block: &PageBlock) {
        let header = block.headed.then(|| header(block)).flatten();
        let lines: Vec<&Line> = header.iter().chain(&block.lines).collect();
        let columns = Columns::of(&lines);
        for (index, line) in lines.into_iter().enumerate() {
            let word = if index == 0 { block.word } else { "" };
            self.text.push_str(word);
            self.blanks(MARGIN.saturating_sub(word.len()));
            match line {
                Line::Row(cells) => self.row(&columns, cells),
                Line::Prose(text) => self.wrapped(text, MARGIN),
                Line::Verbatim(text) => self.styled(text, Tone::Plain),
                Line::Finding(finding) => self.finding(finding),
            }
            self.text.truncate(self.text.trim_end_matches(' ').len());
            self.text.push('\n');
        }
    }

    /// The cells under those of other rows. The last one is wrapped where it is too long.
    fn row(&mut self, columns: &Columns, cells: &[Cell]) {
        // Empty cells at the end would keep the last one that speaks from being wrapped.
        let spoken = cells.iter().rposition(|cell| !cell.text.is_empty()).map_or(0, |last| last + 1);
        let mut indent = MARGIN;
        for (index, (column, cell)) in columns.0.iter().zip(cells).enumerate().take(spoken) {
            // A column in which nothing stands takes no room.
            if column.whole == 0 {
                continue;
            }
            let before = column.before(cell);
            self.blanks(before);
            if index + 1 == spoken && cell.tone == Tone::Plain {
                return self.wrapped(&cell.text, indent + before);
            }
            self.styled(&cell.text, cell.tone);
            self.blanks(column.whole.saturating_sub(before + width(&cell.text)) + GAP);
            indent += column.whole + GAP;
        }
    }

    /// A finding: its name, and under it what is told and what to do.
    fn finding(&mut self, finding: &Finding) {
        let severity = finding.severity();
        self.styled(finding.name(), Tone::Severity(severity));
        let _ = write!(self.text, " ({})", severity.word());
        for text in [finding.to_string(), format!("→ {}", hints::of_finding(finding))] {
            self.text.push('\n');
            self.blanks(MARGIN + GAP);
            self.wrapped(&text, MARGIN + GAP);
        }
    }

    /// Text wrapped at the right edge; all lines but the first are indented.
    fn wrapped(&mut self, text: &str, indent: usize) {
        let text = &clean(text);
        // Where columns before it leave no room, the text runs past the edge rather than one word a line.
        let room = WIDTH.saturating_sub(indent).max(LEAST_ROOM);
        if width(text) <= room {
            return self.text.push_str(text);
        }
        for (index, line) in wrapped(text, room).iter().enumerate() {
            if index > 0 {
                self.text.push('\n');
                self.blanks(indent);
            }
            self.text.push_str(line);
        }
    }

    fn styled(&mut self, text: &str, tone: Tone) {
        let text = &clean(text);
        if tone == Tone::Plain || !self.coloured {
            return self.text.push_str(text);
        }
        let style = tone_style(tone);
        let _ = write!(self.text, "{style}{text}{style:#}");
    }

    fn blanks(&mut self, count: usize) {
        self.text.extend(std::iter::repeat_n(' ', count));
    }
}

/// The text without characters that would steer the terminal: it may come from a user's file or command line.
fn clean(text: &str) -> Cow<'_, str> {
    // Nearly all text is plain, and that is quickly seen.
    if !text.bytes().all(|byte| (b' '..=b'~').contains(&byte)) && text.chars().any(char::is_control) {
        return Cow::Owned(text.replace(char::is_control, "\u{fffd}"));
    }
    Cow::Borrowed(text)
}

fn wrapped(text: &str, columns: usize) -> Vec<String> {
    // A hyphen in a register or finding name is no place to break it.
    let options = textwrap::Options::new(columns)
        .word_splitter(textwrap::WordSplitter::NoHyphenation)
        .break_words(false);
    textwrap::wrap(text, options).into_iter().map(Cow::into_owned).collect()
}

/// The names of a table's columns as a row, each on the side where its cells stand. A column in which nothing stands has none.
fn header(block: &PageBlock) -> Option<Line> {
    let rows =
        block.lines.iter().filter_map(|line| if let Line::Row(cells) = line { Some(cells) } else { None });
    let rows: Vec<&Vec<Cell>> = rows.collect();
    let cell = |(column, name): (usize, &&str)| {
        let mut under =
            rows.iter().filter_map(|cells| cells.get(column)).filter(|cell| !cell.text.is_empty());
        match under.next().map(|cell| cell.align) {
            None => Cell::left(""),
            Some(Align::Left) => Cell::left(*name),
            Some(Align::Right | Align::Point) => Cell::right(*name),
        }
    };
    (!rows.is_empty()).then(|| Line::row(block.columns.iter().enumerate().map(cell)))
}

/// The widths of the columns of a block.
struct Columns(Vec<ColumnWidth>);

/// Of what stands before a decimal point, and of all.
#[derive(Clone, Copy, Default)]
struct ColumnWidth {
    before_point: usize,
    whole: usize,
}

impl Columns {
    fn of(lines: &[&Line]) -> Self {
        let mut columns: Vec<ColumnWidth> = Vec::new();
        let rows =
            || lines.iter().filter_map(|line| if let Line::Row(cells) = line { Some(cells) } else { None });
        for cells in rows() {
            columns.resize(columns.len().max(cells.len()), ColumnWidth::default());
            for (column, cell) in columns.iter_mut().zip(cells).filter(|(_, cell)| cell.align == Align::Point)
            {
                column.before_point = column.before_point.max(before_point(&cell.text));
            }
        }
        for cells in rows() {
            for (column, cell) in columns.iter_mut().zip(cells) {
                column.whole = column.whole.max(column.before(cell) + width(&cell.text));
            }
        }
        Self(columns)
    }
}

impl ColumnWidth {
    /// The blanks that stand before a cell's text.
    fn before(self, cell: &Cell) -> usize {
        match cell.align {
            Align::Left => 0,
            Align::Right => self.whole.saturating_sub(width(&cell.text)),
            Align::Point => self.before_point.saturating_sub(before_point(&cell.text)),
        }
    }
}

/// How many characters stand before the decimal point of a number with a unit.
fn before_point(text: &str) -> usize {
    let number = text.split(' ').next().unwrap_or_default();
    number.find('.').map_or_else(|| width(number), |point| width(number.get(..point).unwrap_or_default()))
}

fn tone_style(tone: Tone) -> Style {
    let color = |color: AnsiColor| Style::new().fg_color(Some(color.into())).bold();
    match tone {
        Tone::Plain => Style::new(),
        Tone::Value => Style::new().bold(),
        Tone::Severity(Severity::Error) => color(AnsiColor::Red),
        Tone::Severity(Severity::Warning) => color(AnsiColor::Magenta),
        Tone::Severity(Severity::Note) => Style::new().bold(),
    }
}

fn width(text: &str) -> usize {
    text.chars().count()
}

#[cfg(test)]
mod tests {
    use kairotic_core::finding::TooFewSteps;
    use proptest::prelude::*;

    use super::*;

    fn page(word: &'static str, lines: Vec<Line>) -> String {
        let mut page = Page::headed(["here".to_owned(), "that".to_owned()]);
        page.push(word, &[], lines);
        render(&page, true)
    }

    fn row(cells: impl IntoIterator<Item = Cell>) -> Line {
        Line::Row(cells.into_iter().collect())
    }

    #[test]
    fn points_stand_under_points_and_units_follow() {
        let rows =
            ["1.5 ms", "20 ms", "400 ns", "3000 steps"].map(|text| row([Cell::left("a"), Cell::point(text)]));
        let shown = page("gives", rows.into());
        let places: Vec<usize> = shown
            .lines()
            .skip(2)
            .map(|line| {
                line.find('.')
                    .unwrap_or_else(|| line.find(|c: char| c.is_ascii_digit()).unwrap_or(0) + digits(line))
            })
            .collect();
        assert!(places.windows(2).all(|pair| pair[0] == pair[1]), "{shown}");
    }

    fn digits(line: &str) -> usize {
        line.chars().filter(char::is_ascii_digit).count()
    }

    #[test]
    fn numbers_end_under_one_another() {
        let shown = page("write", [7, 49_999].map(|value| row([Cell::left("x"), Cell::value(value)])).into());
        let plain = anstream::adapter::strip_str(&shown).to_string();
        let ends: Vec<usize> = plain.lines().skip(2).map(str::len).collect();
        assert_eq!(ends, [MARGIN + 1 + GAP + 5; 2], "{plain}");
    }

    #[test]
    fn the_last_cell_that_speaks_is_wrapped_under_itself() {
        let long = "word ".repeat(30);
        let shown = page("or", vec![row([Cell::left("first"), Cell::left(long), Cell::left("")])]);
        let lines: Vec<&str> = shown.lines().skip(2).collect();
        assert!(lines.len() > 1 && lines.iter().all(|line| width(line) <= WIDTH), "{shown}");
        assert!(
            lines[1].starts_with(&" ".repeat(MARGIN + 5 + GAP)) && lines[1].trim_start().starts_with("word"),
            "{shown}"
        );
    }

    #[test]
    fn a_finding_tells_its_name_its_message_and_its_remedy() {
        let finding = TooFewSteps { steps: 2, needed: 4 }.into();
        let shown = anstream::adapter::strip_str(&page("watch", vec![Line::Finding(finding)])).to_string();
        let lines: Vec<&str> = shown.lines().skip(2).map(str::trim).collect();
        assert_eq!(
            lines,
            [
                "watch    too-few-steps (error)",
                "2 steps (1 bit) are fewer than the 4 (2 bit) that were asked for",
                "→ ask for a lower frequency or a wider window, or give a faster clock"
            ]
        );
    }

    #[test]
    fn nothing_shown_steers_the_terminal() {
        let nasty = "\u{1b}[31mred\u{7}\u{9b}";
        let rows = vec![row([Cell::left(nasty), Cell::left(nasty)]), Line::Prose(nasty.to_owned())];
        for shown in [page("write", rows), complaint(nasty, Some(nasty), true)] {
            let plain = anstream::adapter::strip_str(&shown).to_string();
            assert!(plain.contains("[31mred") && !plain.contains(['\u{1b}', '\u{7}', '\u{9b}']), "{plain:?}");
        }
    }

    #[test]
    fn a_complaint_keeps_the_lines_of_its_hint() {
        let shown =
            anstream::adapter::strip_str(&complaint("it is wrong", Some("one way\nor another"), false))
                .to_string();
        assert_eq!(shown, "error    it is wrong\ntry      one way\n         or another\n");
    }

    proptest! {
        #[test]
        fn no_page_makes_it_panic_and_words_are_never_lost(
            rows in prop::collection::vec(prop::collection::vec(("[ -~µ±]{0,60}", 0_u8..3), 0..7), 0..5),
            prose in "[ -~]{0,300}",
        ) {
            let cells = |row: &Vec<(String, u8)>| {
                Line::Row(row.iter().map(|(text, align)| match align {
                    0 => Cell::left(text.clone()),
                    1 => Cell::right(text.clone()),
                    _ => Cell::point(text.clone()),
                }).collect())
            };
            let mut lines: Vec<Line> = rows.iter().map(cells).collect();
            lines.push(Line::Prose(prose.clone()));
            let shown = page("gives", lines);
            let words = |text: &str| text.split_whitespace().map(str::to_owned).collect::<Vec<_>>();
            let told = words(&shown);
            for text in rows.iter().flatten().map(|(text, _)| text).chain([&prose]) {
                for word in words(text) {
                    prop_assert!(told.iter().any(|shown| shown.contains(&word)), "{} is lost", word);
                }
            }
        }
    }
}

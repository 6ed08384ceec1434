//! What a table is like, from its first rows.

use kairotic_core::name::cleaned;
use kairotic_core::simulation::Logic;

use super::super::CaptureError;
use super::super::number::scaled;
use super::{LEVEL_PLACES, TableHints};

/// Rows that are looked at.
const ROWS: usize = 200;
/// The most lines that may stand above the first row.
const HEADINGS: usize = 64;

/// A column of levels.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(super) struct Column {
    pub(super) name: String,
    /// Its place in a row.
    pub(super) place: usize,
    /// Where it is analogue: low up to the first, high from the second.
    thresholds: Option<(i64, i64)>,
}

/// A table's shape.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(super) struct Sniffed {
    pub(super) separator: u8,
    /// The place of the column with times, and the power of ten of their unit.
    pub(super) time: Option<(usize, i32)>,
    pub(super) columns: Vec<Column>,
    /// Where the first row begins, in bytes, and on which line.
    pub(super) data: usize,
    pub(super) first_line: u64,
}

impl Column {
    /// The level that a cell stands for.
    pub(super) fn level(&self, cell: &[u8], before: Option<Logic>) -> Option<Logic> {
        let Some((low, high)) = self.thresholds else { return digital(cell) };
        let value = scaled(cell, LEVEL_PLACES)?;
        Some(match before {
            _ if value >= high => Logic::High,
            _ if value <= low => Logic::Low,
            // Between the thresholds it stays what it was.
            Some(before) => before,
            None => Logic::of(value > low.midpoint(high)),
        })
    }

    /// What its cells should hold.
    pub(super) fn expected(&self) -> String {
        let what = if self.thresholds.is_some() { "a number" } else { "0 or 1" };
        format!("{what} in the column `{}`", self.name)
    }
}

fn digital(cell: &[u8]) -> Option<Logic> {
    match cell {
        b"0" => return Some(Logic::Low),
        b"1" => return Some(Logic::High),
        _ => {}
    }
    Some(match cell.trim_ascii() {
        b"0" | b"low" | b"Low" | b"LOW" | b"L" | b"l" | b"false" | b"False" => Logic::Low,
        b"1" | b"high" | b"High" | b"HIGH" | b"H" | b"h" | b"true" | b"True" => Logic::High,
        b"x" | b"X" | b"z" | b"Z" | b"" => Logic::Unknown,
        _ => return None,
    })
}

fn is_value(cell: &[u8]) -> bool {
    digital(cell).is_some() || scaled(cell, 0).is_some() || scaled(cell, LEVEL_PLACES).is_some()
}

/// Recognises a table's shape.
pub(super) fn sniff(
    head: &[u8],
    hints: &TableHints,
    notes: &mut Vec<String>,
) -> Result<Sniffed, CaptureError> {
    let lines = lines(head);
    let told = |(_, line): &&(usize, &[u8])| !is_remark(line);
    let sample: Vec<&[u8]> = lines.iter().filter(told).map(|(_, line)| *line).collect();
    let separator = hints.separator.unwrap_or_else(|| separator(&sample));
    let cells = |line: &[u8]| -> Vec<Vec<u8>> {
        line.split(|byte| *byte == separator).map(|cell| unquoted(cell).to_vec()).collect()
    };
    let is_row = |line: &[u8]| !is_remark(line) && cells(line).iter().all(|cell| is_value(cell));
    let first = lines.iter().take(HEADINGS).position(|(_, line)| is_row(line));
    let first = first.ok_or_else(|| CaptureError::at(1, "expected rows of times and levels, found none"))?;
    let (data, row) = lines.get(first).copied().unwrap_or((0, &[]));
    let width = cells(row).len();
    let heading = lines.iter().take(first).rev().filter(told).map(|(_, line)| cells(line));
    let heading = heading.into_iter().find(|cells| cells.len() == width);
    let name = |place: usize| {
        let cell = heading.as_ref().and_then(|cells| cells.get(place));
        let text = cell.map(|cell| cleaned(String::from_utf8_lossy(cell).trim()));
        text.filter(|text| !text.is_empty()).unwrap_or_else(|| format!("column {}", place + 1))
    };
    let rows: Vec<Vec<Vec<u8>>> = lines
        .iter()
        .skip(first)
        .filter(told)
        .take(ROWS)
        .map(|(_, line)| cells(line))
        .filter(|cells| cells.len() == width)
        .collect();
    let column = |place: usize| rows.iter().filter_map(move |row| row.get(place)).map(Vec::as_slice);
    let time = match &hints.time_column {
        Some(wanted) => {
            let by_number = wanted.parse().ok().and_then(|number: usize| number.checked_sub(1));
            let by_name = (0..width).find(|place| name(*place).eq_ignore_ascii_case(wanted));
            let place = by_name.or(by_number.filter(|place| *place < width));
            let names = (0..width).map(name).collect::<Vec<_>>().join(", ");
            let text = format!("expected a column `{wanted}`, found {names}");
            Some(place.ok_or_else(|| CaptureError::at(first as u64 + 1, text))?)
        }
        None if hints.rate.is_some() => None,
        None => (0..width)
            .find(|place| heading.is_some() && says_time(&name(*place)))
            .or_else(|| Some(0).filter(|place| rises(column(*place)))),
    };
    let mut columns = Vec::new();
    for place in (0..width).filter(|place| Some(*place) != time) {
        let name = name(place);
        if column(place).all(|cell| digital(cell).is_some()) {
            columns.push(Column { name, place, thresholds: None });
            continue;
        }
        let values: Option<Vec<i64>> = column(place).map(|cell| scaled(cell, LEVEL_PLACES)).collect();
        let is_level = |cell: &&[u8]| digital(cell).is_some_and(|level| level != Logic::Unknown);
        let mostly = column(place).filter(is_level).count() * 2 > rows.len();
        if values.is_none() && mostly {
            // A cell that is none is told of when it is read.
            columns.push(Column { name, place, thresholds: None });
            continue;
        }
        let Some(values) = values else {
            notes.push(format!("the column `{name}` is passed over: it holds neither levels nor numbers"));
            continue;
        };
        let thresholds = hints.thresholds.unwrap_or_else(|| {
            let (low, high) = (values.iter().min().copied(), values.iter().max().copied());
            let (low, high) = (low.unwrap_or(0), high.unwrap_or(0));
            // Half of what is 64 bits apart fits, and a twentieth does.
            let (middle, room) = (low.midpoint(high), i64::try_from(high.abs_diff(low) / 20).unwrap_or(0));
            let volts = |value: i64| value as f64 / 1e9;
            notes.push(format!(
                "the column `{name}` is analogue: high from {:.4} on, low up to {:.4}, by its first {} rows",
                volts(middle + room),
                volts(middle - room),
                values.len()
            ));
            (middle - room, middle + room)
        });
        columns.push(Column { name, place, thresholds: Some(thresholds) });
    }
    if columns.is_empty() {
        return Err(CaptureError::at(first as u64 + 1, "expected a column of levels, found none"));
    }
    let power = |place: usize| hints.time_power.or_else(|| unit_power(&name(place))).unwrap_or(0);
    let time = time.map(|place| (place, power(place)));
    Ok(Sniffed { separator, time, columns, data, first_line: first as u64 + 1 })
}

/// Lines with where they begin, without the last where it may go on.
fn lines(head: &[u8]) -> Vec<(usize, &[u8])> {
    let mut start = 0;
    let mut lines = Vec::new();
    for line in head.split_inclusive(|byte| *byte == b'\n') {
        let text = line.trim_ascii_end();
        let text = if start == 0 { text.strip_prefix(b"\xef\xbb\xbf").unwrap_or(text) } else { text };
        lines.push((start, text));
        start += line.len();
    }
    if lines.len() > 1 && head.last() != Some(&b'\n') {
        lines.pop();
    }
    lines
}

fn is_remark(line: &[u8]) -> bool {
    matches!(line.first(), None | Some(b'#' | b'%' | b';'))
}

fn unquoted(cell: &[u8]) -> &[u8] {
    let cell = cell.trim_ascii();
    cell.strip_prefix(b"\"").and_then(|cell| cell.strip_suffix(b"\"")).unwrap_or(cell)
}

/// The separator that stands in every line, as often in each; the comma where none does.
fn separator(lines: &[&[u8]]) -> u8 {
    let count = |line: &[u8], byte: u8| line.iter().filter(|other| **other == byte).count();
    let steady = |byte: u8| {
        let last = lines.iter().rev().take(ROWS).map(|line| count(line, byte));
        let (least, most) = (last.clone().min().unwrap_or(0), last.max().unwrap_or(0));
        (least == most && least > 0).then_some((least, byte))
    };
    // Where several do, a comma may be that of decimals.
    let found = [b';', b'\t', b',', b' '].into_iter().filter_map(steady);
    found.map(|(_, byte)| byte).next().unwrap_or(b',')
}

fn says_time(name: &str) -> bool {
    let lower = name.to_lowercase();
    let word = lower.split(|c: char| !c.is_ascii_alphabetic()).find(|word| !word.is_empty());
    matches!(word, Some("time" | "t" | "timestamp" | "seconds" | "times"))
}

/// Whether numbers rise all the way, and are no levels.
fn rises<'r>(cells: impl Iterator<Item = &'r [u8]>) -> bool {
    let numbers: Option<Vec<i64>> = cells.map(|cell| scaled(cell, 12).or_else(|| scaled(cell, 0))).collect();
    numbers.is_some_and(|numbers| {
        numbers.len() > 2 && numbers.windows(2).all(|pair| matches!(pair, [left, right] if left < right))
    })
}

/// The power of ten of a unit that a column's name ends in: `Time [us]`, `time_ms`, `t (ns)`.
fn unit_power(name: &str) -> Option<i32> {
    let lower = name.to_lowercase();
    let word = lower.rsplit(|c: char| !(c.is_alphabetic())).find(|word| !word.is_empty())?;
    Some(match word {
        "s" | "sec" | "seconds" => 0,
        "ms" => -3,
        "us" | "µs" | "μs" => -6,
        "ns" => -9,
        "ps" => -12,
        _ => return None,
    })
}

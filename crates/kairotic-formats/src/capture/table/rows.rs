//! The rows of a table, as they come.

use kairotic_core::simulation::{Change, Logic};

use super::super::number::{leading, scaled};
use super::super::{Batches, CaptureError};
use super::TICK_PLACES;
use super::sniff::{Column, Sniffed};

/// A column of levels, with the level that it has and the digit that stood for it.
struct LevelColumn<'s> {
    signal: u32,
    column: &'s Column,
    known: Option<Logic>,
    digit: Option<u8>,
}

/// Rows as they come.
pub(super) struct Rows<'s, 'a, 'e> {
    sniffed: &'s Sniffed,
    levels: Vec<LevelColumn<'s>>,
    clock: TimeColumn,
    /// Rows without all their cells.
    short: u64,
    /// Rows that changed a level.
    changed: u64,
    pub(super) line: u64,
    pub(super) batches: Batches<'a, 'e>,
}

impl<'s, 'a, 'e> Rows<'s, 'a, 'e> {
    /// No rows yet of a table of a shape, of which some columns are chosen.
    pub(super) fn of(sniffed: &'s Sniffed, chosen: &[bool], batches: Batches<'a, 'e>) -> Self {
        let columns = (0_u32..).zip(&sniffed.columns);
        let columns = columns.filter(|(place, _)| chosen.get(*place as usize) == Some(&true));
        let levels = columns.map(|(signal, column)| LevelColumn { signal, column, known: None, digit: None });
        Self {
            sniffed,
            levels: levels.collect(),
            clock: TimeColumn::default(),
            short: 0,
            changed: 0,
            line: sniffed.first_line,
            batches,
        }
    }

    /// When the last row was, what cannot be told apart, and how many rows were too short.
    pub(super) fn finish(mut self) -> (u64, Option<u64>, u64) {
        self.batches.flush();
        (self.clock.now, self.clock.interval(self.changed), self.short)
    }
    /// Whole rows. Those without a quote, which are nearly all, are split at their separators; the others are left to a
    /// reader that knows what quotes mean.
    pub(super) fn block(&mut self, block: &[u8]) -> Result<(), CaptureError> {
        if memchr::memchr(b'"', block).is_some() {
            return self.quoted(block);
        }
        let separator = self.sniffed.separator;
        let mut cells = Vec::new();
        let mut rest = block;
        while !rest.is_empty() && self.batches.wanted {
            if let Some(length) = self.usual(rest) {
                self.line += 1;
                rest = rest.get(length..).unwrap_or_default();
                continue;
            }
            let end = memchr::memchr(b'\n', rest).unwrap_or(rest.len());
            let (row, after) = rest.split_at_checked(end).unwrap_or((rest, &[]));
            let row = row.strip_suffix(b"\r").unwrap_or(row);
            if !row.is_empty() && row.first() != Some(&b'#') {
                cells.clear();
                cells.extend(row.split(|byte| *byte == separator));
                self.row(&cells)?;
            }
            self.line += 1;
            rest = after.get(1..).unwrap_or_default();
        }
        Ok(())
    }

    /// Takes a row of the usual shape, a time and then a digit a column, and says how long it is. Of any other it takes
    /// nothing: that is left to the way that knows what can be wrong with it.
    fn usual(&mut self, rest: &[u8]) -> Option<usize> {
        let (Some((0, power)), separator) = (self.sniffed.time, self.sniffed.separator) else { return None };
        let (time, first) = leading(rest, separator, power + TICK_PLACES)?;
        let cells = rest.get(first..)?;
        // Each cell is one character, and one more ends it.
        let mut columns = 1;
        let length = loop {
            match cells.get(columns * 2 - 1..)? {
                [next, ..] if *next == separator => columns += 1,
                [b'\n', ..] => break columns * 2,
                [b'\r', b'\n', ..] => break columns * 2 + 1,
                _ => return None,
            }
        };
        let digit = |level: &LevelColumn<'_>| {
            let place = level.column.place.checked_sub(1).filter(|place| *place < columns)?;
            cells.get(place * 2).copied()
        };
        let mut changes = false;
        for level in &self.levels {
            let digit = digit(level)?;
            if level.digit != Some(digit) {
                level.column.level(&[digit], level.known)?;
                changes = true;
            }
        }
        let at = self.clock.time(time)?;
        if changes {
            self.change(at, digit);
        }
        Some(first + length)
    }

    /// Takes over the digits that differ from those before.
    fn change(&mut self, at: u64, digit: impl Fn(&LevelColumn<'_>) -> Option<u8>) {
        let mut changes = false;
        for level in &mut self.levels {
            let Some(digit) = digit(level).filter(|digit| level.digit != Some(*digit)) else { continue };
            level.digit = Some(digit);
            let now = level.column.level(&[digit], level.known);
            if let Some(now) = now.filter(|now| level.known != Some(*now)) {
                level.known = Some(now);
                changes = true;
                self.batches.push(Change { at, signal: level.signal, level: now });
            }
        }
        self.changed += u64::from(changes);
    }

    fn quoted(&mut self, block: &[u8]) -> Result<(), CaptureError> {
        let mut reader = csv::ReaderBuilder::new()
            .has_headers(false)
            .flexible(true)
            .delimiter(self.sniffed.separator)
            .comment(Some(b'#'))
            .from_reader(block);
        let start = self.line;
        let mut row = csv::ByteRecord::new();
        let broken = |error: csv::Error| CaptureError::plain(format!("the table is broken: {error}"));
        let mut passed = 0;
        while self.batches.wanted && reader.read_byte_record(&mut row).map_err(broken)? {
            // Lines are counted here: the reader's own count takes both characters of some line ends for one each.
            let place = row.position().map_or(0, |position| position.byte() as usize);
            let ends = block.get(place..).unwrap_or_default();
            let first = place + ends.iter().take_while(|byte| matches!(byte, b'\r' | b'\n')).count();
            let between = block.get(passed..first).unwrap_or_default();
            self.line += memchr::memchr_iter(b'\n', between).count() as u64;
            passed = first.max(passed);
            let cells: Vec<&[u8]> = row.iter().collect();
            self.row(&cells)?;
        }
        self.line = start + memchr::memchr_iter(b'\n', block).count() as u64;
        Ok(())
    }

    fn row(&mut self, cells: &[&[u8]]) -> Result<(), CaptureError> {
        let line = self.line;
        let at = match self.sniffed.time {
            Some((column, power)) => {
                let Some(cell) = cells.get(column) else {
                    self.short += 1;
                    return Ok(());
                };
                let time = scaled(cell, power + TICK_PLACES);
                let time = time.ok_or_else(|| wrong(line, "a time, in seconds below 9 million", cell))?;
                self.clock.time(time).ok_or_else(|| wrong(line, "times that do not go back", cell))?
            }
            None => self.clock.sample(),
        };
        let mut changes = false;
        for LevelColumn { signal, column, known, digit } in &mut self.levels {
            let Some(cell) = cells.get(column.place) else {
                self.short += 1;
                break;
            };
            // Most cells are the digit that they were.
            if matches!(cell, [only] if Some(*only) == *digit) {
                continue;
            }
            let level = column.level(cell, *known);
            let level = level.ok_or_else(|| wrong(line, &column.expected(), cell))?;
            *digit = if let [only] = cell { Some(*only) } else { None };
            if *known != Some(level) {
                *known = Some(level);
                changes = true;
                self.batches.push(Change { at, signal: *signal, level });
            }
        }
        self.changed += u64::from(changes);
        Ok(())
    }
}

/// The most zeros that are looked for: as many as a second has in ticks.
const ZEROS: u32 = 12;

/// Whether a number ends in so many zeros. Spelt out, since a division by what is not known before takes as long as all
/// else that is done for a row.
const fn ends_in(number: u64, zeros: u32) -> bool {
    match zeros {
        0 => true,
        1 => number.is_multiple_of(10),
        2 => number.is_multiple_of(100),
        3 => number.is_multiple_of(1_000),
        4 => number.is_multiple_of(10_000),
        5 => number.is_multiple_of(100_000),
        6 => number.is_multiple_of(1_000_000),
        7 => number.is_multiple_of(10_000_000),
        8 => number.is_multiple_of(100_000_000),
        9 => number.is_multiple_of(1_000_000_000),
        10 => number.is_multiple_of(10_000_000_000),
        11 => number.is_multiple_of(100_000_000_000),
        _ => number.is_multiple_of(1_000_000_000_000),
    }
}

/// Times as they come, counted from the first.
#[derive(Debug)]
struct TimeColumn {
    start: Option<i64>,
    now: u64,
    /// The largest power of ten that all times are multiples of: its number of zeros.
    zeros: u32,
    /// The shortest step from one row to the next.
    step: Option<u64>,
    rows: u64,
}

impl Default for TimeColumn {
    fn default() -> Self {
        Self { start: None, now: 0, zeros: ZEROS, step: None, rows: 0 }
    }
}

impl TimeColumn {
    fn time(&mut self, time: i64) -> Option<u64> {
        let start = *self.start.get_or_insert(time);
        let at = u64::try_from(time.checked_sub(start)?).ok()?;
        let step = at.checked_sub(self.now)?;
        while !ends_in(time.unsigned_abs(), self.zeros) {
            self.zeros -= 1;
        }
        if step > 0 {
            self.step = Some(self.step.map_or(step, |known| known.min(step)));
        }
        self.now = at;
        self.rows += 1;
        Some(at)
    }

    fn sample(&mut self) -> u64 {
        self.now = self.rows;
        self.step = Some(1);
        self.rows += 1;
        self.now
    }

    /// What cannot be told apart, where so many rows changed something: a step from sample to sample where most did not,
    /// else the last decimal place.
    fn interval(&self, changed: u64) -> Option<u64> {
        if changed < self.rows / 2 {
            self.step
        } else {
            self.step.map(|step| step.min(10_u64.pow(self.zeros)))
        }
    }
}

fn wrong(line: u64, expected: &str, cell: &[u8]) -> CaptureError {
    let text = String::from_utf8_lossy(cell.get(..40).unwrap_or(cell)).into_owned();
    CaptureError::at(line, format!("expected {expected}, found `{text}`"))
}

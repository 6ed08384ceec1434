//! Tables (CSV): a column of times and columns of levels, or a sample a row. Separator, header, units and thresholds are
//! recognised from the first rows, or given.

mod sniff;

use std::io::Read;

use kairotic_core::capture::{Change, Logic};
use kairotic_core::quantity::{Frequency, Rational};

use self::sniff::{Column, Sniffed, sniff};
use super::number::scaled;
use super::{Batches, CHUNK, CaptureError, Emit, Header, Trailer};

/// Bytes from which a table's shape is recognised.
const HEAD: u64 = 1 << 16;
/// Decimal places of a second that are a tick where a column has times.
pub(super) const TICK_PLACES: i32 = 12;
/// Decimal places that levels of analogue columns are taken to.
pub(super) const LEVEL_PLACES: i32 = 9;

/// What is said of a table that it does not say itself.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct TableHints {
    /// Samples a second, where no column has times.
    pub rate: Option<Frequency>,
    /// The column with the times, by name or by number from 1.
    pub time_column: Option<String>,
    /// The power of ten of the unit that times are in: -6 for microseconds.
    pub time_power: Option<i32>,
    /// What stands between cells.
    pub separator: Option<u8>,
    /// Analogue columns are low up to the first, high from the second, in billionths of their unit.
    pub thresholds: Option<(i64, i64)>,
}

/// A row that is longer is none.
const LONGEST: usize = 16 << 20;

/// Reads a table.
pub struct TableReader<R> {
    input: R,
    header: Header,
    sniffed: Sniffed,
    /// Rows that were read already.
    rest: Vec<u8>,
    notes: Vec<String>,
}

impl<R: Read> TableReader<R> {
    /// Recognises the table's shape.
    ///
    /// # Errors
    /// [`CaptureError`] for a table without rows, without times and rate, or without a column of levels.
    pub fn open(mut input: R, hints: &TableHints) -> Result<Self, CaptureError> {
        let mut head = Vec::new();
        Read::by_ref(&mut input).take(HEAD).read_to_end(&mut head)?;
        let mut notes = Vec::new();
        let sniffed = sniff(&head, hints, &mut notes)?;
        let tick = match (sniffed.time, hints.rate) {
            (Some(_), _) => Rational::new(1, 10_i128.pow(TICK_PLACES.unsigned_abs())),
            (None, Some(rate)) => Rational::ONE.over(rate.value()).filter(|tick| tick.is_positive()),
            (None, None) => {
                let text = "expected a column of times or a sample rate, found neither: name the column with \
                            --time-column, or give --rate";
                return Err(CaptureError::at(sniffed.first_line, text));
            }
        };
        let tick = tick.ok_or_else(|| CaptureError::plain("expected a sample rate above nought"))?;
        let signals = sniffed.columns.iter().map(|column| column.name.clone()).collect();
        let interval = sniffed.time.is_none().then_some(1);
        let header = Header { kind: "table", signals, tick, interval };
        let rest = head.split_off(sniffed.data);
        Ok(Self { input, header, sniffed, rest, notes })
    }

    /// What the table's first rows say.
    pub fn header(&self) -> &Header {
        &self.header
    }

    /// Reads the changes of the chosen columns.
    ///
    /// # Errors
    /// [`CaptureError`] with the line, for a time or a level that is none, and for a time that goes back.
    pub fn read(mut self, chosen: &[bool], emit: &mut Emit<'_>) -> Result<Trailer, CaptureError> {
        let columns = (0_u32..).zip(&self.sniffed.columns);
        let columns = columns.filter(|(place, _)| chosen.get(*place as usize) == Some(&true));
        let levels = columns.map(|(signal, column)| Level { signal, column, known: None, digit: None });
        let mut rows = Rows {
            sniffed: &self.sniffed,
            levels: levels.collect(),
            clock: Clock::default(),
            short: 0,
            changed: 0,
            line: self.sniffed.first_line,
            batches: Batches::to(emit),
        };
        let mut bytes = std::mem::take(&mut self.rest);
        let mut at_end = false;
        while rows.batches.wanted {
            let whole = if at_end { bytes.len() } else { whole_rows(&bytes) };
            rows.block(bytes.get(..whole).unwrap_or_default())?;
            bytes.drain(..whole);
            if at_end {
                break;
            }
            if bytes.len() > LONGEST {
                return Err(CaptureError::at(rows.line, "one row is longer than 16 MiB"));
            }
            at_end = Read::by_ref(&mut self.input).take(CHUNK as u64).read_to_end(&mut bytes)? == 0;
        }
        rows.batches.flush();
        if rows.short > 0 {
            self.notes.push(format!("{} rows are too short", rows.short));
        }
        Ok(Trailer { end: rows.clock.now, interval: rows.clock.interval(rows.changed), notes: self.notes })
    }
}

/// Where the last row ends that ends in some bytes: a line end inside quotes ends none.
fn whole_rows(bytes: &[u8]) -> usize {
    if memchr::memchr(b'"', bytes).is_none() {
        return memchr::memrchr(b'\n', bytes).map_or(0, |end| end + 1);
    }
    let (mut quoted, mut whole) = (false, 0);
    for place in memchr::memchr2_iter(b'"', b'\n', bytes) {
        if bytes.get(place) == Some(&b'"') {
            quoted = !quoted;
        } else if !quoted {
            whole = place + 1;
        }
    }
    whole
}

/// A column of levels, with the level that it has and the digit that stood for it.
struct Level<'s> {
    signal: u32,
    column: &'s Column,
    known: Option<Logic>,
    digit: Option<u8>,
}

/// Rows as they come.
struct Rows<'s, 'a, 'e> {
    sniffed: &'s Sniffed,
    levels: Vec<Level<'s>>,
    clock: Clock,
    /// Rows without all their cells.
    short: u64,
    /// Rows that changed a level.
    changed: u64,
    line: u64,
    batches: Batches<'a, 'e>,
}

impl Rows<'_, '_, '_> {
    /// Whole rows. Those without a quote, which are nearly all, are split at their separators; the others are left to a
    /// reader that knows what quotes mean.
    fn block(&mut self, block: &[u8]) -> Result<(), CaptureError> {
        if memchr::memchr(b'"', block).is_some() {
            return self.quoted(block);
        }
        let separator = self.sniffed.separator;
        let mut cells = Vec::new();
        let mut rest = block;
        while !rest.is_empty() && self.batches.wanted {
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
        while self.batches.wanted && reader.read_byte_record(&mut row).map_err(broken)? {
            self.line = start + row.position().map_or(1, csv::Position::line) - 1;
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
        for Level { signal, column, known, digit } in &mut self.levels {
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

/// Times as they come, counted from the first.
#[derive(Debug)]
struct Clock {
    start: Option<i64>,
    now: u64,
    /// The largest power of ten that all times are multiples of.
    unit: u64,
    /// The shortest step from one row to the next.
    step: Option<u64>,
    rows: u64,
}

impl Default for Clock {
    fn default() -> Self {
        Self { start: None, now: 0, unit: 1_000_000_000_000, step: None, rows: 0 }
    }
}

impl Clock {
    fn time(&mut self, time: i64) -> Option<u64> {
        let start = *self.start.get_or_insert(time);
        let at = u64::try_from(time.checked_sub(start)?).ok()?;
        let step = at.checked_sub(self.now)?;
        while !time.unsigned_abs().is_multiple_of(self.unit) {
            self.unit /= 10;
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
        if changed < self.rows / 2 { self.step } else { self.step.map(|step| step.min(self.unit)) }
    }
}

fn wrong(line: u64, expected: &str, cell: &[u8]) -> CaptureError {
    let text = String::from_utf8_lossy(cell.get(..40).unwrap_or(cell)).into_owned();
    CaptureError::at(line, format!("expected {expected}, found `{text}`"))
}

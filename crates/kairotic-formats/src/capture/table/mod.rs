//! Tables (CSV): a column of times and columns of levels, or a sample a row. Separator, header, units and thresholds are
//! recognised from the first rows, or given.

mod rows;
mod sniff;

use std::io::Read;

use kairotic_core::limits;
use kairotic_core::name::distinct;
use kairotic_core::quantity::{Frequency, Rational};

use self::rows::Rows;
use self::sniff::{Sniffed, sniff};
use super::{Batches, CaptureError, Emit, Header, Trailer, in_blocks};

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
        let tick = tick.ok_or_else(|| CaptureError::plain("expected a sample rate greater than zero"))?;
        let signals: Vec<String> = sniffed.columns.iter().map(|column| column.name.clone()).collect();
        if let Some(long) = signals.iter().find(|name| limits::NAME.is_below(name.len() as u64)) {
            let refusal = limits::NAME.refusal("the name of a column has", long.len() as u64);
            return Err(CaptureError::plain(refusal));
        }
        let signals = distinct(signals);
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
        let mut rows = Rows::of(&self.sniffed, chosen, Batches::to(emit));
        let rest = std::mem::take(&mut self.rest);
        let kept_up = in_blocks(&mut self.input, rest, |bytes, at_end| {
            if !rows.batches.wanted {
                return Ok(None);
            }
            let whole = if at_end { bytes.len() } else { whole_rows(bytes) };
            rows.block(bytes.get(..whole).unwrap_or_default())?;
            Ok(Some(whole))
        })?;
        if !kept_up {
            return Err(CaptureError::at(
                rows.line,
                limits::LINE.refusal("a row has more than", limits::LINE.most),
            ));
        }
        let (end, interval, short) = rows.finish();
        if short > 0 {
            self.notes.push(format!("{short} rows are too short"));
        }
        Ok(Trailer { end, interval, notes: self.notes })
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

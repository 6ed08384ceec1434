//! Captures: recorded edges as files have them, read as a stream in memory that does not grow with the file.
//!
//! A value change dump (VCD, IEEE 1364), a table of times and levels or of samples (CSV), and a sigrok session archive.
//!
//! ```
//! use kairotic_formats::capture::{Reader, TableHints};
//!
//! let table = "time [us],servo\n0,1\n1500,0\n20000,1\n21500,0\n";
//! let reader = Reader::pipe(Box::new(table.as_bytes()), &TableHints::default())?;
//! assert_eq!(reader.header().signals, ["servo"]);
//! let mut edges = Vec::new();
//! reader.read(&[true], &mut |changes| {
//!     edges.extend(changes.iter().map(|change| change.at));
//!     true
//! })?;
//! // In ticks of a picosecond.
//! assert_eq!(edges, [0, 1_500_000_000, 20_000_000_000, 21_500_000_000]);
//! # Ok::<(), kairotic_formats::capture::CaptureError>(())
//! ```

mod error;
mod ini;
mod number;
mod session;
mod table;
mod vcd;
mod write;

use std::fs::File;
use std::io::Read;

use kairotic_core::limits;
use kairotic_core::quantity::Rational;
use kairotic_core::simulation::Change;

pub use self::error::CaptureError;
pub use self::session::SessionReader;
pub use self::table::{TableHints, TableReader};
pub use self::vcd::VcdReader;
pub use self::write::{Writer, WriterKind};

/// What a capture says of itself before its edges.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Header {
    /// What kind of file it is, in a few words.
    pub kind: &'static str,
    /// The signals' names, in the order of their places.
    pub signals: Vec<String>,
    /// Seconds in a tick.
    pub tick: Rational,
    /// Ticks from one sample to the next, where the recorder took samples.
    pub interval: Option<u64>,
}

/// What a capture leaves when all its edges are read.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Trailer {
    /// Ticks from the start of the capture to its end.
    pub end: u64,
    /// The finest step of time that was seen, in ticks, where the file does not say it before.
    pub interval: Option<u64>,
    /// What was taken for granted or passed over.
    pub notes: Vec<String>,
}

/// What takes changes: a batch at a time, in the order of their times. It says whether more are wanted.
pub type Emit<'e> = dyn FnMut(Vec<Change>) -> bool + 'e;

/// Changes in a batch: few enough that the allocator keeps their memory for the next.
const BATCH: usize = 1 << 12;

/// Bytes that are read at a time.
const CHUNK: usize = 1 << 20;

/// Hands bytes on in blocks, each with what was left of the one before, and whether it is the last. What takes them says how
/// many it is done with, or that it wants no more. Whether it kept up: it may leave no more than [`limits::LINE`].
///
/// # Errors
/// What `take` complains about, and an input that cannot be read.
fn in_blocks(
    input: &mut impl Read,
    mut bytes: Vec<u8>,
    mut take: impl FnMut(&[u8], bool) -> Result<Option<usize>, CaptureError>,
) -> Result<bool, CaptureError> {
    let mut at_end = false;
    while let Some(done) = take(&bytes, at_end)? {
        bytes.drain(..done);
        if at_end {
            break;
        }
        if limits::LINE.is_below(bytes.len() as u64) {
            return Ok(false);
        }
        at_end = Read::by_ref(input).take(CHUNK as u64).read_to_end(&mut bytes)? == 0;
    }
    Ok(true)
}

/// Any capture.
pub enum Reader {
    /// A value change dump.
    Vcd(VcdReader<Box<dyn Read + Send>>),
    /// A table.
    Table(TableReader<Box<dyn Read + Send>>),
    /// A session archive.
    Session(SessionReader),
}

impl Reader {
    /// The capture in a file, whatever its name.
    ///
    /// # Errors
    /// [`CaptureError`], with the line where there is one.
    pub fn file(file: File, hints: &TableHints) -> Result<Self, CaptureError> {
        let (start, whole) = peeked(Box::new(file.try_clone()?))?;
        if session::is_archive(&start) {
            return SessionReader::open(file).map(Self::Session);
        }
        Self::of(&start, whole, hints)
    }

    /// The capture that comes through a pipe.
    ///
    /// # Errors
    /// As [`Reader::file`]; an archive cannot come through a pipe.
    pub fn pipe(input: Box<dyn Read + Send>, hints: &TableHints) -> Result<Self, CaptureError> {
        let (start, whole) = peeked(input)?;
        if session::is_archive(&start) {
            return Err(CaptureError::plain("an archive cannot be read from a pipe: name its file"));
        }
        Self::of(&start, whole, hints)
    }

    fn of(start: &[u8], whole: Box<dyn Read + Send>, hints: &TableHints) -> Result<Self, CaptureError> {
        if vcd::is_dump(start) {
            return VcdReader::open(whole).map(Self::Vcd);
        }
        TableReader::open(whole, hints).map(Self::Table)
    }

    /// What it says of itself.
    pub fn header(&self) -> &Header {
        match self {
            Self::Vcd(reader) => reader.header(),
            Self::Table(reader) => reader.header(),
            Self::Session(reader) => reader.header(),
        }
    }

    /// Reads the changes of the chosen signals to the end, or until no more are wanted.
    ///
    /// # Errors
    /// As [`Reader::file`].
    pub fn read(self, chosen: &[bool], emit: &mut Emit<'_>) -> Result<Trailer, CaptureError> {
        match self {
            Self::Vcd(reader) => reader.read(chosen, emit),
            Self::Table(reader) => reader.read(chosen, emit),
            Self::Session(reader) => reader.read(chosen, emit),
        }
    }
}

/// The first bytes of an input, and all of it again.
fn peeked(mut input: Box<dyn Read + Send>) -> Result<(Vec<u8>, Box<dyn Read + Send>), CaptureError> {
    const START: u64 = 4096;
    let mut start = Vec::new();
    Read::by_ref(&mut input).take(START).read_to_end(&mut start)?;
    let again = std::io::Cursor::new(start.clone()).chain(input);
    Ok((start, Box::new(again)))
}

/// Changes that wait to be handed on.
struct Batches<'a, 'e> {
    changes: Vec<Change>,
    emit: &'a mut Emit<'e>,
    /// Whether more are wanted.
    wanted: bool,
}

impl<'a, 'e> Batches<'a, 'e> {
    fn to(emit: &'a mut Emit<'e>) -> Self {
        Self { changes: Vec::with_capacity(BATCH), emit, wanted: true }
    }

    fn push(&mut self, change: Change) {
        self.changes.push(change);
        if self.changes.len() >= BATCH {
            self.flush();
        }
    }

    fn flush(&mut self) {
        if self.wanted && !self.changes.is_empty() {
            let full = std::mem::replace(&mut self.changes, Vec::with_capacity(BATCH));
            self.wanted = (self.emit)(full);
        }
        self.changes.clear();
    }
}

//! sigrok session archives: a zip with an ini file and raw samples, some bytes for each.

use std::fs::File;
use std::io::{self, Read};
use std::sync::mpsc::{SyncSender, sync_channel};
use std::thread;

use flate2::CrcReader;
use flate2::read::DeflateDecoder;
use kairotic_core::limits;
use kairotic_core::name::{cleaned, distinct};
use kairotic_core::quantity::{Frequency, Rational, parse};
use kairotic_core::simulation::{Change, Logic};
use rawzip::{
    CompressionMethod, FileReader, RECOMMENDED_BUFFER_SIZE, ZipArchive, ZipArchiveEntryWayfinder,
    ZipVerification,
};

use super::{Batches, CaptureError, Emit, Header, Trailer, ini};

/// Bytes of samples that are looked at at a time: few enough that the allocator keeps their memory.
const BLOCK: usize = 1 << 16;
/// Blocks that may wait.
const WAITING: usize = 16;
/// An ini file that is longer is none.
const LONGEST_INI: u64 = 1 << 20;
/// The widest sample, in bytes.
const WIDEST: usize = 64;
/// Bytes of a sample that are looked at at once.
const WORD: usize = 8;

/// Whether a file begins as an archive does.
pub(super) fn is_archive(start: &[u8]) -> bool {
    start.starts_with(b"PK\x03\x04")
}

/// Reads a session archive.
pub struct SessionReader {
    archive: ZipArchive<FileReader>,
    header: Header,
    /// Bytes in a sample.
    unit: usize,
    /// The bit of each signal.
    bits: Vec<usize>,
    /// The files with the samples, in order.
    chunks: Vec<ArchiveEntry>,
    notes: Vec<String>,
}

#[derive(Clone, Copy)]
struct ArchiveEntry {
    place: ZipArchiveEntryWayfinder,
    method: CompressionMethod,
}

fn broken(error: &rawzip::Error) -> CaptureError {
    CaptureError::plain(format!("the archive is broken: {error}"))
}

impl SessionReader {
    /// Reads what the archive says of itself.
    ///
    /// # Errors
    /// [`CaptureError`] for an archive that is broken, and for one without samples.
    pub fn open(file: File) -> Result<Self, CaptureError> {
        let mut buffer = vec![0; RECOMMENDED_BUFFER_SIZE];
        let archive = ZipArchive::from_file(file, &mut buffer).map_err(|error| broken(&error))?;
        let mut found: Vec<(String, ArchiveEntry)> = Vec::new();
        let mut places: Vec<(u64, u64)> = Vec::new();
        let mut entries = archive.entries(&mut buffer);
        while let Some(entry) = entries.next_entry().map_err(|error| broken(&error))? {
            places.push((entry.local_header_offset(), entry.compressed_size_hint()));
            let name = String::from_utf8_lossy(entry.file_path().as_ref()).into_owned();
            found.push((name, ArchiveEntry { place: entry.wayfinder(), method: entry.compression_method() }));
        }
        apart(places)?;
        let metadata = found.iter().find(|(name, _)| name == "metadata").map(|(_, entry)| *entry);
        let metadata = metadata.ok_or_else(|| CaptureError::plain("the archive has no file `metadata`"))?;
        let mut text = Vec::new();
        unpacked(&archive, metadata)?.take(LONGEST_INI).read_to_end(&mut text)?;
        let text = String::from_utf8_lossy(&text).into_owned();
        let value = |key| ini::values(&text, key).next();
        let rate = value("samplerate").ok_or_else(|| missing("samplerate"))?;
        let rate: Frequency = parse::quantity(rate)
            .ok()
            .filter(|rate: &Frequency| rate.value().is_positive())
            .ok_or_else(|| CaptureError::plain(format!("metadata: expected a samplerate, found `{rate}`")))?;
        let unit = value("unitsize").and_then(|size| size.parse().ok());
        let unit: usize =
            unit.filter(|unit| (1..=WIDEST).contains(unit)).ok_or_else(|| missing("unitsize"))?;
        let stem = value("capturefile").unwrap_or("logic-1");
        let mut probes = ini::numbered(&text, "probe");
        probes.sort_unstable();
        probes.retain(|(number, _)| (1..=unit * 8).contains(number));
        if probes.is_empty() {
            return Err(missing("probe1"));
        }
        let mut chunks: Vec<(u64, ArchiveEntry)> = found
            .iter()
            .filter_map(|(name, entry)| {
                let rest = name.strip_prefix(stem)?;
                let number = if rest.is_empty() { Some(0) } else { rest.strip_prefix('-')?.parse().ok() };
                Some((number?, *entry))
            })
            .collect();
        chunks.sort_unstable_by_key(|(number, _)| *number);
        if chunks.is_empty() {
            return Err(CaptureError::plain(format!("the archive has no samples: no file `{stem}-1`")));
        }
        let mut notes = Vec::new();
        if value("total analog").is_some_and(|analog| analog != "0") {
            notes.push("the analogue channels of the archive are passed over".to_owned());
        }
        let tick = Rational::ONE.over(rate.value()).ok_or_else(|| missing("samplerate"))?;
        if let Some((_, long)) = probes.iter().find(|(_, name)| limits::NAME.is_below(name.len() as u64)) {
            let refusal = limits::NAME.refusal("metadata: the name of a channel has", long.len() as u64);
            return Err(CaptureError::plain(refusal));
        }
        let signals = distinct(probes.iter().map(|(_, name)| cleaned(name)).collect());
        let bits = probes.iter().map(|(number, _)| number - 1).collect();
        let chunks = chunks.into_iter().map(|(_, entry)| entry).collect();
        let header = Header { kind: "session archive", signals, tick, interval: Some(1) };
        Ok(Self { archive, header, unit, bits, chunks, notes })
    }

    /// What the archive says of itself.
    pub fn header(&self) -> &Header {
        &self.header
    }

    /// Reads the changes of the chosen signals.
    ///
    /// # Errors
    /// [`CaptureError`] for an archive that is broken.
    pub fn read(self, chosen: &[bool], emit: &mut Emit<'_>) -> Result<Trailer, CaptureError> {
        let mut words = vec![SampleWord { last: None, wanted: 0, places: [0; 64] }; self.unit.div_ceil(WORD)];
        for (place, bit) in (0_u32..).zip(&self.bits) {
            let (word, bit) = (bit / 64, bit % 64);
            if let Some(word) = words.get_mut(word).filter(|_| chosen.get(place as usize) == Some(&true)) {
                word.wanted |= 1 << bit;
                if let Some(slot) = word.places.get_mut(bit) {
                    *slot = place;
                }
            }
        }
        let mut samples = Samples { unit: self.unit, words, sample: 0, batches: Batches::to(emit) };
        // One core unpacks while another looks at the samples.
        thread::scope(|scope| {
            let (sender, receiver) = sync_channel(WAITING);
            let (archive, chunks, unit) = (&self.archive, &self.chunks, self.unit);
            let unpacking = scope.spawn(move || blocks(archive, chunks, unit, &sender));
            for block in receiver {
                samples.take(&block);
                if !samples.batches.wanted {
                    break;
                }
            }
            unpacking.join().map_err(|_| CaptureError::plain("the archive could not be unpacked"))?
        })?;
        samples.batches.flush();
        Ok(Trailer { end: samples.sample, interval: Some(1), notes: self.notes })
    }
}

/// Refuses files that share bytes of the archive: a small one could unpack without end.
fn apart(mut places: Vec<(u64, u64)>) -> Result<(), CaptureError> {
    /// A file's own header is at least so long.
    const HEADER: u64 = 30;
    places.sort_unstable();
    let overlap = |pair: &[(u64, u64)]| match pair {
        [(start, size), (next, _)] => *next < start.saturating_add(*size).saturating_add(HEADER),
        _ => false,
    };
    match places.windows(2).any(overlap) {
        true => Err(CaptureError::plain("the archive is broken: two of its files share the same bytes")),
        false => Ok(()),
    }
}

/// Unpacks the files with the samples, in blocks of whole samples, until nobody takes them any more.
fn blocks(
    archive: &ZipArchive<FileReader>,
    chunks: &[ArchiveEntry],
    unit: usize,
    taker: &SyncSender<Vec<u8>>,
) -> Result<(), CaptureError> {
    for chunk in chunks {
        let mut input = unpacked(archive, *chunk)?;
        let mut left = Vec::new();
        loop {
            let mut block = Vec::with_capacity(BLOCK);
            block.append(&mut left);
            let room = (BLOCK - block.len()) as u64;
            let more = Read::by_ref(&mut input).take(room).read_to_end(&mut block)?;
            left = block.split_off(block.len() - block.len() % unit);
            // Half a sample at the end of a file is none.
            if taker.send(block).is_err() || more == 0 {
                break;
            }
        }
    }
    Ok(())
}

fn missing(key: &str) -> CaptureError {
    CaptureError::plain(format!("metadata: expected `{key}=…`, found none that can be used"))
}

/// The bytes of a file of the archive, held against its checksum when they end.
fn unpacked(
    archive: &ZipArchive<FileReader>,
    entry: ArchiveEntry,
) -> Result<Box<dyn Read + '_>, CaptureError> {
    let packed = archive.get_entry(entry.place).map_err(|error| broken(&error))?.reader();
    let wanted = packed.claim_verifier();
    match entry.method {
        CompressionMethod::STORE => Ok(Box::new(ChecksumReader { bytes: CrcReader::new(packed), wanted })),
        CompressionMethod::DEFLATE => {
            Ok(Box::new(ChecksumReader { bytes: CrcReader::new(DeflateDecoder::new(packed)), wanted }))
        }
        other => {
            Err(CaptureError::plain(format!("the archive is packed in a way that is not read: {other:?}")))
        }
    }
}

/// Bytes with the checksum that they should have.
struct ChecksumReader<R> {
    bytes: CrcReader<R>,
    wanted: ZipVerification,
}

impl<R: Read> Read for ChecksumReader<R> {
    fn read(&mut self, buffer: &mut [u8]) -> io::Result<usize> {
        let more = self.bytes.read(buffer)?;
        if more == 0 && !buffer.is_empty() && self.bytes.crc().sum() != self.wanted.crc {
            return Err(io::Error::new(io::ErrorKind::InvalidData, "a checksum is wrong"));
        }
        Ok(more)
    }
}

/// Eight bytes of a sample, or fewer.
#[derive(Clone)]
struct SampleWord {
    last: Option<u64>,
    /// The bits of the chosen signals.
    wanted: u64,
    /// The place of the signal of each bit.
    places: [u32; 64],
}

impl SampleWord {
    /// The bytes of a sample come.
    fn take(&mut self, at: u64, now: u64, batches: &mut Batches<'_, '_>) {
        if self.last != Some(now) {
            self.differs(at, now, batches);
        }
    }

    /// They differ from those of the sample before.
    fn differs(&mut self, at: u64, now: u64, batches: &mut Batches<'_, '_>) {
        let differs = self.last.map_or(u64::MAX, |last| last ^ now);
        self.last = Some(now);
        let mut bits = differs & self.wanted;
        while bits != 0 {
            let bit = bits.trailing_zeros();
            bits &= bits - 1;
            let signal = self.places.get(bit as usize).copied().unwrap_or_default();
            batches.push(Change { at, signal, level: Logic::of(now >> bit & 1 == 1) });
        }
    }
}

/// Samples as they come.
struct Samples<'a, 'e> {
    unit: usize,
    words: Vec<SampleWord>,
    sample: u64,
    batches: Batches<'a, 'e>,
}

impl Samples<'_, '_> {
    fn take(&mut self, bytes: &[u8]) {
        match (self.unit, self.words.as_mut_slice()) {
            // Most archives have eight signals or fewer: most of their samples are as the one before.
            (1, [word]) => {
                take_bytes(word, self.sample, bytes, &mut self.batches);
                self.sample += bytes.len() as u64;
            }
            (unit, words) => {
                for sample in bytes.chunks_exact(unit) {
                    for (word, part) in words.iter_mut().zip(sample.chunks(WORD)) {
                        let now = part.iter().rev().fold(0, |now, byte| now << 8 | u64::from(*byte));
                        word.take(self.sample, now, &mut self.batches);
                    }
                    self.sample += 1;
                }
            }
        }
    }
}

/// Samples of one byte, eight at a time.
fn take_bytes(word: &mut SampleWord, mut at: u64, bytes: &[u8], batches: &mut Batches<'_, '_>) {
    // Eight copies of a byte are that times this.
    const COPIES: u64 = 0x0101_0101_0101_0101;
    let (blocks, rest) = bytes.as_chunks::<8>();
    for block in blocks {
        let Some(last) = word.last else {
            for (place, byte) in (at..).zip(block) {
                word.take(place, u64::from(*byte), batches);
            }
            at += 8;
            continue;
        };
        let samples = u64::from_le_bytes(*block);
        let mut differs = samples ^ last.wrapping_mul(COPIES);
        while differs != 0 {
            let bits = differs.trailing_zeros() & !7;
            let byte = samples >> bits & 0xff;
            word.differs(at + u64::from(bits / 8), byte, batches);
            differs = (samples ^ byte.wrapping_mul(COPIES)) & (u64::MAX << bits);
        }
        at += 8;
    }
    for (place, byte) in (at..).zip(rest) {
        word.take(place, u64::from(*byte), batches);
    }
}

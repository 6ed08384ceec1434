//! How fast captures are read and measured, against what bounds it: a loop that only finds line ends, the raw records of the
//! common table reader, bare decompression; and against the common reader of dumps. All in one run, since machines differ.
//! Prints tables for docs/performance.md.
//!
//! `cargo bench -p kairotic-formats --bench captures -- EDGES [PROGRAM]` (two million edges unless said); with the path of the
//! built program its `measure` is timed as well, as a whole process. `scripts/performance` runs it.

// A benchmark may panic, and prints its figures.
#![allow(clippy::unwrap_used, clippy::print_stdout, clippy::indexing_slicing)]

use std::fs::File;
use std::io::{BufReader, BufWriter, Read, Write};
use std::path::{Path, PathBuf};
use std::process::{Command, Stdio};
use std::time::Instant;

use kairotic_core::capture::Meters;
use kairotic_core::quantity::Rational;
use kairotic_core::simulation::{Change, Logic};
use kairotic_formats::capture::{Reader, TableHints, Writer, WriterKind};

/// Edges of some signals that shake a little, one after the other.
fn edges(count: u64, signals: u64) -> impl Iterator<Item = Change> {
    let mut state = 1_u64;
    (0..count).map(move |edge| {
        state = state.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        let (cycle, place) = (edge / (2 * signals), edge % (2 * signals));
        let at = 1000 + cycle * 1400 * signals + place * 680 + (state >> 57);
        Change { at, signal: (place % signals) as u32, level: Logic::of(place < signals) }
    })
}

fn write(path: &Path, kind: WriterKind, count: u64, signals: u64) {
    let names: Vec<String> = (0..signals).map(|place| format!("s{place}")).collect();
    let tick = Rational::new(1, 1_000_000_000).unwrap();
    let output = BufWriter::new(File::create(path).unwrap());
    let mut writer = Writer::new(output, kind, tick, "bench", &names).unwrap();
    edges(count, signals).for_each(|change| writer.change(change).unwrap());
    writer.finish(0).unwrap();
}

/// An archive with a sample every 16 ns.
fn write_archive(path: &Path, count: u64) {
    let mut archive = rawzip::ZipArchiveWriter::new(BufWriter::new(File::create(path).unwrap()));
    let metadata = b"[device 1]\ncapturefile=logic-1\nsamplerate=62500 kHz\nprobe1=a\nprobe2=b\nunitsize=1\n";
    let mut add = |name: &str, fill: &mut dyn FnMut(&mut dyn Write)| {
        let file = archive.new_file(name).compression_method(rawzip::CompressionMethod::DEFLATE);
        let (mut entry, config) = file.start().unwrap();
        let encoder = flate2::write::DeflateEncoder::new(&mut entry, flate2::Compression::default());
        let mut writer = config.wrap(encoder);
        fill(&mut writer);
        let (encoder, descriptor) = writer.finish().unwrap();
        encoder.finish().unwrap();
        entry.finish(descriptor).unwrap();
    };
    add("metadata", &mut |output| output.write_all(metadata).unwrap());
    add("logic-1-1", &mut |output| {
        let (mut sample, mut at) = (0_u8, 0);
        let mut block = Vec::new();
        for change in edges(count, 2) {
            block.resize(block.len() + (change.at / 16 - at) as usize, sample);
            at = change.at / 16;
            let bit = 1 << change.signal;
            sample = if change.level == Logic::High { sample | bit } else { sample & !bit };
            if block.len() > 1 << 20 {
                output.write_all(&block).unwrap();
                block.clear();
            }
        }
        block.push(sample);
        output.write_all(&block).unwrap();
    });
    archive.finish().unwrap();
}

/// The medians of five runs of each, one after the other so that all meet the same machine, as a table: seconds, and the
/// ratio to the first, which bounds the others.
fn table(title: &str, runs: &mut [(&str, &mut dyn FnMut() -> u64)]) {
    let mut times = vec![Vec::new(); runs.len()];
    for _ in 0..5 {
        for ((_, run), times) in runs.iter_mut().zip(&mut times) {
            let start = Instant::now();
            assert!(run() > 0);
            times.push(start.elapsed().as_secs_f64());
        }
    }
    let medians: Vec<f64> = times
        .iter_mut()
        .map(|times| {
            times.sort_by(f64::total_cmp);
            times[times.len() / 2]
        })
        .collect();
    println!("\n| {title} | seconds | of the first |\n|---|---|---|");
    for ((what, _), median) in runs.iter().zip(&medians) {
        println!("| {what} | {median:.3} | {:.2} |", median / medians[0]);
    }
}

/// `measure` of the built program, as a process.
fn measured(program: Option<&Path>, path: &Path) -> u64 {
    let Some(program) = program else { return 1 };
    let status =
        Command::new(program).args(["measure", "--format", "json"]).arg(path).stdout(Stdio::null()).status();
    u64::from(status.unwrap().success())
}

/// What the meters need for an edge, without a reader: the changes lie in memory.
fn meters(signals: u64) {
    let changes: Vec<Change> = edges(1 << 20, signals).collect();
    let mut times: Vec<f64> = (0..5)
        .map(|_| {
            let mut meters = Meters::new(&vec![true; signals as usize], &[], 0);
            let start = Instant::now();
            changes.chunks(1 << 12).for_each(|batch| meters.take(batch));
            assert!(meters.finish().signals.iter().all(|(_, measured)| measured.edges > 0));
            start.elapsed().as_secs_f64()
        })
        .collect();
    times.sort_by(f64::total_cmp);
    println!("| {signals} | {:.1} |", times[times.len() / 2] * 1e9 / changes.len() as f64);
}

fn ours(path: &Path) -> u64 {
    let reader = Reader::file(File::open(path).unwrap(), &TableHints::default()).unwrap();
    let chosen = vec![true; reader.header().signals.len()];
    let mut count = 0;
    reader
        .read(&chosen, &mut |batch| {
            count += batch.len() as u64;
            true
        })
        .unwrap();
    count
}

/// Finds each line's end in blocks of the size that our reader takes.
fn line_ends(path: &Path) -> u64 {
    let mut file = File::open(path).unwrap();
    let mut block = vec![0; 1 << 20];
    let mut lines = 0;
    loop {
        let more = file.read(&mut block).unwrap();
        if more == 0 {
            return lines;
        }
        let mut rest = &block[..more];
        while let Some(end) = memchr::memchr(b'\n', rest) {
            lines += 1;
            rest = &rest[end + 1..];
        }
    }
}

fn main() {
    // Cargo passes an option of its own.
    let mut arguments = std::env::args().skip(1).filter(|argument| !argument.starts_with("--"));
    let count = arguments.next().and_then(|text| text.parse().ok()).unwrap_or(2_000_000);
    let program = arguments.next().map(PathBuf::from);
    let program = program.as_deref();
    let folder = tempfile::tempdir().unwrap();
    let [one, four, records, archive] =
        ["one.vcd", "four.vcd", "edges.csv", "edges.sr"].map(|name| folder.path().join(name));
    write(&one, WriterKind::Vcd, count, 1);
    write(&four, WriterKind::Vcd, count, 4);
    write(&records, WriterKind::Csv, count, 2);
    write_archive(&archive, count);
    let whole = if program.is_some() { "`measure`, the whole process" } else { "(no program is given)" };
    println!("{count} edges in each file, the files in the page cache, medians of five runs.");
    table(
        "a dump of one signal",
        &mut [
            ("its line ends with memchr", &mut || line_ends(&one)),
            ("the reader", &mut || ours(&one)),
            (whole, &mut || measured(program, &one)),
            ("the reader of the `vcd` crate", &mut || by_the_crate(&one)),
        ],
    );
    table(
        "a dump of four signals",
        &mut [
            ("its line ends with memchr", &mut || line_ends(&four)),
            ("the reader", &mut || ours(&four)),
            (whole, &mut || measured(program, &four)),
        ],
    );
    table(
        "a table of two signals",
        &mut [
            ("its raw records by the `csv` crate", &mut || raw_records(&records)),
            ("the reader", &mut || ours(&records)),
            (whole, &mut || measured(program, &records)),
        ],
    );
    table(
        "an archive of two signals",
        &mut [
            ("its decompression", &mut || decompressed(&archive)),
            ("the reader", &mut || ours(&archive)),
            (whole, &mut || measured(program, &archive)),
        ],
    );
    println!("\n| signals | nanoseconds an edge in the meters |\n|---|---|");
    [1, 2, 4].into_iter().for_each(meters);
}

fn by_the_crate(path: &Path) -> u64 {
    let mut parser = vcd::Parser::new(BufReader::with_capacity(1 << 20, File::open(path).unwrap()));
    parser.parse_header().unwrap();
    let changes = parser.map(|command| command.unwrap());
    changes.filter(|one| matches!(one, vcd::Command::ChangeScalar(..))).count() as u64
}

fn raw_records(path: &Path) -> u64 {
    let mut reader = csv::ReaderBuilder::new().has_headers(false).from_path(path).unwrap();
    let mut record = csv::ByteRecord::new();
    let mut count = 0;
    while reader.read_byte_record(&mut record).unwrap() {
        count += 1;
    }
    count
}

fn decompressed(path: &Path) -> u64 {
    let mut buffer = vec![0; rawzip::RECOMMENDED_BUFFER_SIZE];
    let archive = rawzip::ZipArchive::from_file(File::open(path).unwrap(), &mut buffer).unwrap();
    let mut entries = archive.entries(&mut buffer);
    let mut place = None;
    while let Some(entry) = entries.next_entry().unwrap() {
        if entry.file_path().as_ref() == b"logic-1-1" {
            place = Some(entry.wayfinder());
        }
    }
    let entry = archive.get_entry(place.unwrap()).unwrap();
    let mut inflater = flate2::read::DeflateDecoder::new(entry.reader());
    let mut block = vec![0; 1 << 18];
    let mut count = 0;
    loop {
        let more = inflater.read(&mut block).unwrap();
        if more == 0 {
            return count;
        }
        count += more as u64;
    }
}

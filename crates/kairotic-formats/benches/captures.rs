//! How fast captures are read, against what bounds it: a loop that only finds line ends, the common reader of dumps, the
//! raw records of the common table reader, and bare decompression. All in one run, since machines differ.
//!
//! `cargo bench -p kairotic-formats --bench captures -- EDGES` (two million unless said); `scripts/capture-speed` runs it
//! with twenty million and measures the memory as well.

// A benchmark may panic, and prints its figures.
#![allow(clippy::unwrap_used, clippy::print_stdout, clippy::indexing_slicing)]

use std::fs::File;
use std::io::{BufReader, BufWriter, Read, Write};
use std::path::Path;
use std::time::Instant;

use kairotic_core::quantity::Rational;
use kairotic_core::simulation::{Change, Logic};
use kairotic_formats::capture::{Reader, TableHints, Writer, WriterKind};

/// Edges of two signals that shake a little.
fn edges(count: u64) -> impl Iterator<Item = Change> {
    let mut state = 1_u64;
    (0..count).map(move |edge| {
        state = state.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        let (cycle, place) = (edge / 4, edge % 4);
        let at = 1000 + cycle * 1350 + [100, 300, 500, 900][place as usize] + (state >> 57);
        Change { at, signal: (place % 2) as u32, level: Logic::of(place < 2) }
    })
}

fn write(path: &Path, kind: WriterKind, count: u64) {
    let names = ["a".to_owned(), "b".to_owned()];
    let tick = Rational::new(1, 1_000_000_000).unwrap();
    let output = BufWriter::new(File::create(path).unwrap());
    let mut writer = Writer::new(output, kind, tick, "bench", &names).unwrap();
    edges(count).for_each(|change| writer.change(change).unwrap());
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
        for change in edges(count) {
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

/// The best of five runs of each, one after the other so that both meet the same machine, in seconds.
fn timed(runs: &mut [(&str, &mut dyn FnMut() -> u64)]) -> Vec<f64> {
    let mut best = vec![f64::INFINITY; runs.len()];
    for _ in 0..5 {
        for ((_, run), best) in runs.iter_mut().zip(&mut best) {
            let start = Instant::now();
            assert!(run() > 0);
            *best = best.min(start.elapsed().as_secs_f64());
        }
    }
    for ((what, _), best) in runs.iter().zip(&best) {
        println!("{what:<44} {best:8.3} s");
    }
    best
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
    let count = std::env::args().skip(1).find_map(|text| text.parse().ok()).unwrap_or(2_000_000);
    let folder = tempfile::tempdir().unwrap();
    let [dump, table, archive] = ["edges.vcd", "edges.csv", "edges.sr"].map(|name| folder.path().join(name));
    write(&dump, WriterKind::Vcd, count);
    write(&table, WriterKind::Csv, count);
    write_archive(&archive, count);
    println!("{count} edges on two signals, best of five runs, files in the page cache");

    let best = timed(&mut [
        ("dump", &mut || ours(&dump)),
        ("  its line ends with memchr", &mut || line_ends(&dump)),
        ("  by the vcd crate", &mut || by_the_crate(&dump)),
    ]);
    println!(
        "  {:.2} of the line ends, {:.1} times as fast as the crate",
        best[0] / best[1],
        best[2] / best[0]
    );
    let best = timed(&mut [
        ("table", &mut || ours(&table)),
        ("  its raw records by the csv crate", &mut || raw_records(&table)),
    ]);
    println!("  {:.2} of the raw records", best[0] / best[1]);
    let best = timed(&mut [
        ("archive", &mut || ours(&archive)),
        ("  its decompression alone", &mut || decompressed(&archive)),
    ]);
    println!("  {:.2} of the decompression", best[0] / best[1]);
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

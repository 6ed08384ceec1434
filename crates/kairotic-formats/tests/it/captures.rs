//! Captures: read as they were written, by others too, and never with a panic.

use std::io::{Cursor, Write};

use kairotic_core::capture::{Measurement, Meters};
use kairotic_core::quantity::Rational;
use kairotic_core::quantity::units::ns;
use kairotic_core::simulation::{Change, Logic};
use kairotic_formats::capture::{CaptureError, Header, Reader, TableHints, Trailer, Writer, WriterKind};
use proptest::prelude::*;

const SERVO: &str = include_str!("captures/servo.vcd");
const COUNTER: &[u8] = include_bytes!("captures/counter.sr");

/// Everything that a reader gives.
type Read = (Header, Vec<Change>, Trailer);

fn read_with(bytes: &[u8], hints: &TableHints) -> Result<Read, CaptureError> {
    let reader = Reader::pipe(Box::new(Cursor::new(bytes.to_vec())), hints)?;
    all(reader)
}

fn read(bytes: &[u8]) -> Result<Read, CaptureError> {
    read_with(bytes, &TableHints::default())
}

fn all(reader: Reader) -> Result<Read, CaptureError> {
    let header = reader.header().clone();
    let mut changes = Vec::new();
    let chosen = vec![true; header.signals.len()];
    let trailer = reader.read(&chosen, &mut |batch| {
        changes.extend(batch);
        true
    })?;
    Ok((header, changes, trailer))
}

fn archive(bytes: &[u8]) -> Result<Read, CaptureError> {
    let mut file = tempfile::tempfile().unwrap();
    file.write_all(bytes).unwrap();
    std::io::Seek::rewind(&mut file).unwrap();
    all(Reader::file(file, &TableHints::default())?)
}

fn measured(changes: &[Change], signals: usize) -> Vec<Measurement> {
    let mut meters = Meters::new(&vec![true; signals], &[], 0);
    meters.take(changes);
    meters.finish().signals.into_iter().map(|(_, measurement)| measurement).collect()
}

#[test]
fn a_simulator_s_dump_has_the_figures_that_it_was_made_with() {
    let (header, changes, trailer) = read(SERVO.as_bytes()).unwrap();
    assert_eq!((header.signals.as_slice(), header.tick), (&["OC1A".to_owned()][..], ns(10).value()));
    assert_eq!((trailer.end, trailer.notes.len()), (18_150_212, 0));
    let found = measured(&changes, 1).remove(0);
    let timing = found.timing.unwrap();
    // Nine full periods of exactly 20 ms; high for 1.5 ms, the first time for 1.50013 ms.
    assert_eq!((timing.cycles, timing.period.ends()), (9, Some((2_000_000, 2_000_000))));
    assert_eq!(timing.high.ends(), Some((150_000, 150_013)));
    assert_eq!(timing.high.percentile(0.5), 150_000.0);
    assert_eq!(found.before, Logic::Low);
}

#[test]
fn a_logic_analyser_s_archive_has_the_figures_that_it_was_made_with() {
    let (header, changes, trailer) = archive(COUNTER).unwrap();
    assert_eq!((header.signals.join(" "), trailer.end), ("D0 D1 D2 D3".to_owned(), 4000));
    assert_eq!((header.tick, header.interval), (ns(5000).value(), Some(1)));
    for (place, found) in measured(&changes, 4).into_iter().enumerate() {
        let timing = found.timing.unwrap();
        // 100, 50, 25 and 12.5 kHz, all 50 %: 2, 4, 8 and 16 samples.
        let period = 2 << place;
        assert_eq!(timing.period.ends(), Some((period, period)));
        assert_eq!(timing.high.ends(), Some((period / 2, period / 2)));
    }
}

/// Changes of some signals, in the order of their times, each a change indeed.
fn changes() -> impl Strategy<Value = (usize, Vec<Change>)> {
    (1_usize..120).prop_flat_map(|signals| {
        let steps = proptest::collection::vec((0_u64..1000, 0..signals, 0_u8..3), 1..200);
        steps.prop_map(move |steps| {
            let (mut at, mut levels) = (0, vec![None; signals]);
            let mut changes = Vec::new();
            for (step, signal, level) in steps {
                at += step;
                let level = [Logic::Low, Logic::High, Logic::Unknown][usize::from(level)];
                if levels[signal] != Some(level) {
                    levels[signal] = Some(level);
                    changes.push(Change { at, signal: signal as u32, level });
                }
            }
            (signals, changes)
        })
    })
}

fn written(kind: WriterKind, signals: usize, changes: &[Change]) -> Vec<u8> {
    let names: Vec<String> = (0..signals).map(|place| format!("s{place}")).collect();
    let mut writer = Writer::new(Vec::new(), kind, ns(1).value(), "test", &names).unwrap();
    changes.iter().for_each(|change| writer.change(*change).unwrap());
    let end = changes.last().map_or(0, |change| change.at);
    writer.finish(end).unwrap()
}

proptest! {
    #[test]
    fn a_dump_is_read_as_it_was_written_and_as_others_read_it((signals, changes) in changes()) {
        let bytes = written(WriterKind::Vcd, signals, &changes);
        let (header, found, _) = read(&bytes).unwrap();
        prop_assert_eq!(header.signals.len(), signals);
        prop_assert_eq!(&found, &changes);
        prop_assert_eq!(by_the_crate(&bytes), changes);
    }

    #[test]
    fn a_table_is_read_as_it_was_written((signals, changes) in changes()) {
        let bytes = written(WriterKind::Csv, signals, &changes);
        let (header, found, trailer) = read(&bytes).unwrap();
        prop_assert_eq!(header.signals.len(), signals);
        // A table tells all levels at each of its times, which count from the first.
        let (start, mut levels) = (changes[0].at, vec![Logic::Unknown; signals]);
        let mut wanted: Vec<Change> = Vec::new();
        for row in changes.chunk_by(|left, right| left.at == right.at) {
            let before = levels.clone();
            row.iter().for_each(|change| levels[change.signal as usize] = change.level);
            let at = (row[0].at - start) * 1000;
            let differs = (0..signals).filter(|place| wanted.len() < signals || levels[*place] != before[*place]);
            let differs: Vec<usize> = differs.collect();
            wanted.extend(differs.into_iter().map(|place| Change { at, signal: place as u32, level: levels[place] }));
        }
        prop_assert_eq!(found, wanted);
        prop_assert_eq!(trailer.notes.len(), 0);
    }

    #[test]
    fn no_bytes_make_a_reader_panic(bytes in proptest::collection::vec(any::<u8>(), 0..600), kind in 0..4) {
        let start: &[u8] = match kind {
            0 => b"$timescale 1ns $end $var wire 1 ! a $end $enddefinitions $end\n",
            1 => b"time,a\n0,1\n1,0\n2,1\n",
            2 => b"PK\x03\x04",
            _ => b"",
        };
        let all: Vec<u8> = start.iter().copied().chain(bytes).collect();
        let _ = read(&all);
        let _ = archive(&all);
    }

    #[test]
    fn what_is_cut_off_or_spoiled_is_told_or_read(place in 0.0_f64..1.0, byte in any::<u8>(), cut in any::<bool>()) {
        for bytes in [SERVO.as_bytes(), COUNTER] {
            let at = (place * bytes.len() as f64) as usize;
            let mut spoiled = bytes.to_vec();
            if cut { spoiled.truncate(at) } else { spoiled[at] = byte }
            let found = if bytes == COUNTER { archive(&spoiled) } else { read(&spoiled) };
            if let Ok((header, changes, _)) = found {
                prop_assert!(changes.iter().all(|change| (change.signal as usize) < header.signals.len()));
                prop_assert!(changes.windows(2).all(|pair| pair[0].at <= pair[1].at));
            }
        }
    }
}

/// The same dump by a reader that shares nothing with ours.
fn by_the_crate(bytes: &[u8]) -> Vec<Change> {
    let mut parser = vcd::Parser::new(bytes);
    let header = parser.parse_header().unwrap();
    let names =
        (0..).map_while(|place: u32| Some((header.find_var(&["test", &format!("s{place}")])?.code, place)));
    let places: std::collections::HashMap<vcd::IdCode, u32> = names.collect();
    let mut at = 0;
    let mut changes = Vec::new();
    for command in parser {
        match command.unwrap() {
            vcd::Command::Timestamp(time) => at = time,
            vcd::Command::ChangeScalar(code, value) => {
                let level = match value {
                    vcd::Value::V0 => Logic::Low,
                    vcd::Value::V1 => Logic::High,
                    _ => Logic::Unknown,
                };
                changes.push(Change { at, signal: places[&code], level });
            }
            _ => {}
        }
    }
    changes
}

/// Level changes as text, to hold them against.
fn told(changes: &[Change]) -> String {
    let letter = |level| match level {
        Logic::Low => '0',
        Logic::High => '1',
        Logic::Unknown => 'x',
    };
    let one = |change: &Change| format!("{}:{}={}", change.at, change.signal, letter(change.level));
    changes.iter().map(one).collect::<Vec<_>>().join(" ")
}

#[test]
fn a_dump_has_scopes_vectors_numbers_comments_and_unknown_levels() {
    let text = "$date today $end\n$timescale 100 us $end\n$scope module top $end\n$var reg 4 % count [3:0] $end\n\
                $scope module inner $end\n$var wire 1 \" a $end\n$var wire 1 \" alias $end\n$var real 64 & volts $end\n\
                $upscope $end\n$upscope $end\n$enddefinitions $end\n$comment #99 is no time $end\n#5\n$dumpvars\nbx %\nx\"\n$end\n\
                #7 b101 % r1.5 & 1\"\n#9\nb110 %\nsword &\n0\"\n1?\n#12\nz\"";
    let (header, changes, trailer) = read(text.as_bytes()).unwrap();
    assert_eq!(header.signals.join(" "), "count[3] count[2] count[1] count[0] inner.a");
    assert_eq!(header.tick, Rational::new(1, 10_000).unwrap());
    // Short vectors are filled up with zeros, and only bits that differ are told.
    assert_eq!(
        told(&changes),
        "5:0=x 5:1=x 5:2=x 5:3=x 5:4=x 7:0=0 7:1=1 7:2=0 7:3=1 7:4=1 9:2=1 9:3=0 9:4=0 12:4=x"
    );
    assert_eq!((trailer.end, trailer.notes.len()), (12, 2));
}

#[test]
fn tables_of_many_shapes_say_the_same() {
    let wanted = "0:0=0 1:0=1 2:0=0";
    for (text, scale) in [
        ("time_s,D0\n0,0\n0.001,1\n0.002,0\n", 1_000_000_000),
        ("Time [ms];D0\n0;0\n1;1\n2;0\n", 1_000_000_000),
        ("t (us)\tD0\n0\t0\n1000\t1\n2000\t0\n", 1_000_000_000),
        ("# a remark\n; another\nD0,time_ns\nlow,0\nhigh,1e6\nlow,2e6\n", 1_000_000_000),
        ("\"Time\",\"D0\"\r\n-0.5,0\r\n-0.499,1\r\n-0.498,0\r\n", 1_000_000_000),
        ("Time;D0\n0,000;0\n0,001;1\n0,002;0\n", 1_000_000_000),
        ("0,0\n0.001,1\n0.002,0\n", 1_000_000_000),
        ("time,volts\n0,0.1\n0.001,3.2\n0.002,0.2\n", 1_000_000_000),
    ] {
        let (_, changes, _) = read(text.as_bytes()).unwrap_or_else(|error| panic!("{text}: {error}"));
        let scaled: Vec<Change> =
            changes.iter().map(|change| Change { at: change.at / scale, ..*change }).collect();
        assert_eq!(told(&scaled), wanted, "{text}");
    }
    let hints = TableHints { rate: Some("1kHz".parse().unwrap()), ..TableHints::default() };
    let (header, changes, trailer) = read_with(b"D0\n0\n1\n0\n0\n", &hints).unwrap();
    assert_eq!((told(&changes).as_str(), header.tick, trailer.end), (wanted, ns(1_000_000).value(), 3));
}

#[test]
fn quotes_that_never_close_are_told_and_quoted_rows_are_read_where_they_stand() {
    // A row over two lines, and rows without quotes around it.
    let text = "time,D0,remark\n0,0,\n1,1,\"one\ntwo, three\"\n2,0,\n3,1,\n";
    let (_, changes, _) = read(text.as_bytes()).unwrap();
    let scaled: Vec<Change> = changes
        .iter()
        .filter(|change| change.signal == 0)
        .map(|change| Change { at: change.at / 1_000_000_000_000, ..*change })
        .collect();
    assert_eq!(told(&scaled), "0:0=0 1:0=1 2:0=0 3:0=1");
    let rows: String = (0..400_000).map(|row| format!("{row},{}\n", row % 2)).collect();
    let found = read(format!("time,D0\n{rows}400000,\"1\n{rows}").as_bytes());
    assert!(found.unwrap_err().to_string().contains("line 400002"), "the row with the quote");
}

#[test]
fn analogue_columns_have_thresholds_with_room_between() {
    let hints = TableHints { thresholds: Some((800_000_000, 2_000_000_000)), ..TableHints::default() };
    let text = b"time,volts\n0,0.1\n1,1.5\n2,2.1\n3,1.0\n4,0.7\n5,1.9\n";
    let (_, changes, _) = read_with(text, &hints).unwrap();
    let scaled: Vec<Change> =
        changes.iter().map(|change| Change { at: change.at / 1_000_000_000_000, ..*change }).collect();
    assert_eq!(told(&scaled), "0:0=0 2:0=1 4:0=0");
    // Without, they are taken from the first rows, and it is said.
    assert!(read(text).unwrap().2.notes[0].contains("`volts` is analogue"));
}

#[test]
fn a_table_knows_its_steps_by_its_samples_or_by_its_digits() {
    // Every row changes something: the last digit is a microsecond.
    let (.., trailer) = read(b"time_us,D0\n0,0\n60,1\n101,0\n120,1\n").unwrap();
    assert_eq!(trailer.interval, Some(1_000_000));
    // Most rows change nothing: they are samples, 4 us apart.
    let (.., trailer) = read(b"time_us,D0\n0,0\n4,0\n8,0\n12,1\n16,1\n20,1\n24,1\n").unwrap();
    assert_eq!(trailer.interval, Some(4_000_000));
}

/// One test for each line: what is read, the line that is named, a piece of the message.
macro_rules! refused {
    ($($name:ident: $bytes:expr => $line:expr, $says:literal;)*) => {
        $(#[test]
        fn $name() {
            let error = read($bytes).unwrap_err();
            let line = match &error { CaptureError::Line { line, .. } => Some(*line), _ => None };
            assert_eq!(line, $line, "{error}");
            assert!(error.to_string().contains($says), "{error}");
        })*
    };
}

const HEAD: &str = "$timescale 1ns $end\n$var wire 1 ! a $end\n$enddefinitions $end\n";

refused! {
    nothing: b"" => Some(1), "expected rows of times and levels";
    words: b"some text\nand more\n" => Some(1), "expected rows of times and levels";
    a_header_without_end: b"$timescale 1ns $end\n$var wire 1 ! a $end\n" => Some(3), "$enddefinitions";
    no_signals: b"$timescale 1ns $end\n$enddefinitions $end\n" => Some(2), "declares no signal";
    a_timescale_that_is_none: b"$timescale 1 week $end\n$var wire 1 ! a $end $enddefinitions $end" => Some(1), "such as `10 ns`";
    a_width_of_nothing: b"$var wire 0 ! a $end $enddefinitions $end" => Some(1), "expected a width";
    a_time_that_goes_back: format!("{HEAD}#5\n1!\n#4\n0!\n").as_bytes() => Some(6), "time goes back";
    a_time_that_is_none: format!("{HEAD}#5\n1!\n#6x\n0!\n").as_bytes() => Some(6), "expected a time in ticks";
    a_time_too_late: format!("{HEAD}#99999999999999999999\n").as_bytes() => Some(4), "expected a time in ticks";
    a_word_that_is_no_change: format!("{HEAD}#5\n1!\n#6\nhello\n?!\n").as_bytes() => Some(8), "found `?!`";
    no_times: b"D0,D1\n0,1\n1,1\n" => Some(2), "--rate";
    no_levels: b"time\n0\n1\n2\n" => Some(2), "expected a column of levels";
    a_cell_that_is_no_level: b"time,D0\n0,0\n1,1\n2,maybe\n" => Some(4), "0 or 1 in the column `D0`, found `maybe`";
    a_row_that_goes_back: b"time,D0\n0,0\n2,1\n1,0\n" => Some(4), "times that do not go back";
    a_time_of_letters: b"time,D0\n0,0\n1,1\nnow,0\n" => Some(4), "expected a time";
}

#[test]
fn archives_that_are_none_say_why() {
    for (bytes, says) in [(&COUNTER[..200], "broken"), (&b"PK\x03\x04 and nothing more"[..], "broken")] {
        let error = archive(bytes).unwrap_err().to_string();
        assert!(error.contains(says), "{error}");
    }
    // A byte of the samples is another one.
    let mut spoiled = COUNTER.to_vec();
    let place = spoiled.windows(9).position(|name| name == b"logic-1-1").unwrap() + 12;
    spoiled[place] ^= 0x40;
    let error = archive(&spoiled).unwrap_err();
    assert!(!matches!(error, CaptureError::Io(_)) && error.to_string().contains("broken"), "{error}");
    assert!(read(COUNTER).unwrap_err().to_string().contains("name its file"));
}

/// An archive of two files, not packed.
fn stored(metadata: &str, samples: &[u8]) -> Vec<u8> {
    let mut archive = rawzip::ZipArchiveWriter::new(Vec::new());
    for (name, bytes) in [("metadata", metadata.as_bytes()), ("logic-1-1", samples)] {
        let file = archive.new_file(name).compression_method(rawzip::CompressionMethod::STORE);
        let (mut entry, config) = file.start().unwrap();
        let mut writer = config.wrap(&mut entry);
        writer.write_all(bytes).unwrap();
        let (_, descriptor) = writer.finish().unwrap();
        entry.finish(descriptor).unwrap();
    }
    archive.finish().unwrap()
}

#[test]
fn samples_of_any_width_are_taken_apart() {
    // 80 signals: the last is high in every second sample, the ninth from the third on, and the others never.
    let metadata =
        "[device 1]\ncapturefile=logic-1\nsamplerate=1 MHz\nunitsize=10\nprobe9=nine\nprobe80=last\n";
    let mut samples = Vec::new();
    for sample in 0..6_u8 {
        let mut bytes = [0; 10];
        (bytes[1], bytes[9]) = (u8::from(sample >= 3), (sample % 2) << 7);
        samples.extend(bytes);
    }
    let (header, changes, trailer) = archive(&stored(metadata, &samples)).unwrap();
    assert_eq!((header.signals.join(" "), trailer.end), ("nine last".to_owned(), 6));
    let of = |place| -> Vec<(u64, bool)> {
        let own = changes.iter().filter(|change| change.signal == place);
        own.map(|change| (change.at, change.level == Logic::High)).collect()
    };
    assert_eq!(of(0), [(0, false), (3, true)]);
    assert_eq!(of(1), (0..6).map(|at| (at, at % 2 == 1)).collect::<Vec<_>>());
    let wide = metadata.replace("unitsize=10", "unitsize=65");
    assert!(archive(&stored(&wide, &samples)).unwrap_err().to_string().contains("unitsize"));
}

proptest! {
    /// Samples of any width say the same in an archive as in a table with a sample a row.
    #[test]
    fn an_archive_and_a_table_of_the_same_samples_agree(
        unit in 1_usize..12, samples in proptest::collection::vec(any::<[u8; 12]>(), 1..60), stay in 0_usize..30,
    ) {
        // Some stay as they are for a while: that has a way of its own.
        let samples: Vec<[u8; 12]> =
            samples.iter().flat_map(|sample| std::iter::repeat_n(*sample, 1 + usize::from(sample[0]) % (stay + 1))).collect();
        let bits = unit * 8;
        let probes: String = (1..=bits).map(|bit| format!("probe{bit}=D{bit}\n")).collect();
        let metadata = format!("[device 1]\ncapturefile=logic-1\nsamplerate=1 MHz\nunitsize={unit}\n{probes}");
        let bytes: Vec<u8> = samples.iter().flat_map(|sample| sample[..unit].to_vec()).collect();
        let (header, mut packed, trailer) = archive(&stored(&metadata, &bytes)).unwrap();
        let level = |sample: &[u8; 12], bit: usize| sample[bit / 8] >> (bit % 8) & 1;
        let rows: String = samples
            .iter()
            .map(|sample| (0..bits).map(|bit| level(sample, bit).to_string()).collect::<Vec<_>>().join(",") + "\n")
            .collect();
        let names = header.signals.join(",");
        let hints = TableHints { rate: "1MHz".parse().ok(), ..TableHints::default() };
        let (of_table, mut rowed, _) = read_with(format!("{names}\n{rows}").as_bytes(), &hints).unwrap();
        prop_assert_eq!((header.signals, header.tick), (of_table.signals, of_table.tick));
        packed.sort_by_key(|change| (change.at, change.signal));
        rowed.sort_by_key(|change| (change.at, change.signal));
        prop_assert_eq!(packed, rowed);
        prop_assert_eq!(trailer.end, samples.len() as u64);
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(400))]
    /// Rows of the usual shape have a way of their own: it comes to the same as the one for rows with quotes.
    #[test]
    fn the_short_way_through_a_table_is_no_other_way(
        rows in proptest::collection::vec((0_u32..9_000, "[0-9]{0,4}", "0|1|1|0|x|high|0 |", "0|1|1|0||2"), 1..40),
        ends in "\n|\r\n", power in 0_u32..2,
    ) {
        let text = |quote: &str| -> String {
            let mut at = 0;
            let lines = rows.iter().map(|(step, decimals, a, b)| {
                at += step + 1;
                let point = if decimals.is_empty() || power == 0 { String::new() } else { format!(".{decimals}") };
                format!("{quote}{at}{point}{quote},{a},{b}{ends}")
            });
            format!("time_ms,a,b{ends}{}", lines.collect::<String>())
        };
        let (plain, quoted) = (text(""), text("\""));
        let told = |text: &str| read(text.as_bytes()).map_err(|error| error.to_string());
        match (told(&plain), told(&quoted)) {
            (Ok(plain), Ok(quoted)) => {
                prop_assert_eq!(plain.1, quoted.1);
                prop_assert_eq!(plain.2, quoted.2);
            }
            (Err(plain), Err(quoted)) => prop_assert_eq!(plain, quoted),
            (plain, quoted) => prop_assert!(false, "{plain:?}\n{quoted:?}"),
        }
    }
}

/// A file of an archive, stored, and where it is to stand: local header, name, bytes.
fn local(archive: &mut Vec<u8>, name: &str, bytes: &[u8]) -> u32 {
    let place = archive.len() as u32;
    let mut crc = flate2::Crc::new();
    crc.update(bytes);
    archive.extend([0x50, 0x4b, 3, 4, 20, 0, 0, 0, 0, 0, 0, 0, 0, 0]);
    archive.extend(crc.sum().to_le_bytes());
    archive.extend([(bytes.len() as u32).to_le_bytes(), (bytes.len() as u32).to_le_bytes()].concat());
    archive.extend((name.len() as u16).to_le_bytes());
    archive.extend([0, 0]);
    archive.extend(name.bytes());
    archive.extend(bytes);
    place
}

/// An archive with a directory of so many entries for the same samples, written byte by byte: no writer makes such a one.
fn sharing(times: u16) -> Vec<u8> {
    const METADATA: &[u8] = b"[device 1]\nsamplerate=1 MHz\ncapturefile=logic-1\nunitsize=1\nprobe1=D0\n";
    let mut archive = Vec::new();
    let samples: Vec<u8> = (0..1000_u32).map(|n| (n / 10 % 2) as u8).collect();
    let metadata = local(&mut archive, "metadata", METADATA);
    let shared = local(&mut archive, "logic-1-1", &samples);
    let start = archive.len() as u32;
    let mut entry = |name: &str, bytes: &[u8], place: u32| {
        let mut crc = flate2::Crc::new();
        crc.update(bytes);
        archive.extend([0x50, 0x4b, 1, 2, 20, 0, 20, 0, 0, 0, 0, 0, 0, 0, 0, 0]);
        archive.extend(crc.sum().to_le_bytes());
        archive.extend([(bytes.len() as u32).to_le_bytes(), (bytes.len() as u32).to_le_bytes()].concat());
        archive.extend((name.len() as u16).to_le_bytes());
        archive.extend([0; 12]);
        archive.extend(place.to_le_bytes());
        archive.extend(name.bytes());
    };
    entry("metadata", METADATA, metadata);
    (1..=times).for_each(|number| entry(&format!("logic-1-{number}"), &samples, shared));
    let length = archive.len() as u32 - start;
    archive.extend([0x50, 0x4b, 5, 6, 0, 0, 0, 0]);
    archive.extend([(times + 1).to_le_bytes(), (times + 1).to_le_bytes()].concat());
    archive.extend([length.to_le_bytes(), start.to_le_bytes()].concat());
    archive.extend([0, 0]);
    archive
}

#[test]
fn an_archive_whose_files_share_bytes_is_refused() {
    // The same samples once are an archive like any other.
    let (header, changes, trailer) = archive(&sharing(1)).unwrap();
    assert_eq!((header.signals, changes.len(), trailer.end), (vec!["D0".to_owned()], 100, 1000));
    for times in [2, 60_000] {
        let error = archive(&sharing(times)).unwrap_err().to_string();
        assert!(error.contains("share the same bytes"), "{error}");
    }
}

#[test]
fn names_of_a_capture_are_cleaned_and_kept_apart() {
    let dump = "$timescale 1ns $end $scope module top $end $scope module a\u{1b}b $end $var wire 1 ! x $end \
                $upscope $end $scope module a\u{7}b $end $var wire 1 \" x $end $var wire 2 # y $end $upscope $end \
                $upscope $end $enddefinitions $end\n#0\n0!\n";
    let (header, ..) = read(dump.as_bytes()).unwrap();
    assert_eq!(header.signals, ["a\u{fffd}b.x", "a\u{fffd}b.x~2", "a\u{fffd}b.y[1]", "a\u{fffd}b.y[0]"]);
    let (header, ..) = read(b"time,a\x1b,a\x07\n0,1,0\n1,0,0\n").unwrap();
    assert_eq!(header.signals, ["a\u{fffd}", "a\u{fffd}~2"]);
}

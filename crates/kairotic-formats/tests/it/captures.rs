//! Captures: read as they were written, by others too, and never with a panic.

use std::io::{Cursor, Write};

use kairotic_core::capture::{
    Change, Logic, Measurement, Meters, Rehearsal, Wave, WaveLine, WaveRequest, lines,
};
use kairotic_core::quantity::{Rational, Time};
use kairotic_core::setting::{Level, Setting};
use kairotic_formats::capture::{CaptureError, Header, Reader, TableHints, Trailer, Writer, WriterKind};
use proptest::prelude::*;
use proptest::test_runner::TestCaseError;

use crate::catalogue::dice;
use crate::request::decoded;

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

fn ns(nanoseconds: i128) -> Time {
    Time::new(Rational::new(nanoseconds, 1_000_000_000).unwrap())
}

fn wave(lines: Vec<WaveLine>, length: Time, tick: Time, rehearsal: Rehearsal) -> Vec<Change> {
    Wave::of(&WaveRequest { lines, length, tick, rehearsal }).unwrap().collect()
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

proptest! {
    #![proptest_config(ProptestConfig::with_cases(250))]
    #[test]
    fn what_a_setting_s_wave_measures_is_the_setting(dice in dice()) {
        let (_, timer, setting) = dice.setting(300);
        let moving: Vec<_> = setting.outputs.iter().filter(|output| output.constant.is_none()).collect();
        prop_assume!(!moving.is_empty() && setting.ticks <= 100_000);
        let tick = Time::new(Rational::new(1, 1_000_000_000_000).unwrap());
        let length = Time::new(setting.period.value().times(Rational::whole(12)).unwrap());
        let lines = lines(timer, &setting, "s").unwrap();
        let count = lines.len();
        let changes = wave(lines, length, tick, Rehearsal::PERFECT);
        let found = measured(&changes, count);
        for (output, found) in setting.outputs.iter().zip(found) {
            if output.constant.is_some() {
                prop_assert!(found.timing.is_none());
                continue;
            }
            // Dither of less than a tick leaves whole periods without a pulse, or without a gap.
            let gap = setting.mean_ticks().unwrap().minus(output.ticks).unwrap();
            if setting.dither_bits > 0 && output.ticks.min(gap) < Rational::ONE {
                continue;
            }
            holds(&setting, output, &found, tick)?;
        }
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(250))]
    /// The counter that a picture draws stands at one of its marks, or at an end, wherever the pin changes.
    #[test]
    fn a_pin_changes_where_its_counter_meets_a_mark(dice in dice()) {
        let (_, timer, setting) = dice.setting(300);
        prop_assume!(setting.dither_bits == 0 && setting.ticks <= 100_000);
        let tick = Time::new(Rational::new(1, 1_000_000_000_000).unwrap());
        let length = Time::new(setting.period.value().times(Rational::whole(3)).unwrap());
        let lines = lines(timer, &setting, "s").unwrap();
        let request = WaveRequest { lines, length, tick, rehearsal: Rehearsal::PERFECT };
        let changes: Vec<Change> = Wave::of(&request).unwrap().collect();
        let end = length.value().over(tick.value()).unwrap().approx();
        let a_count = setting.tick.value().over(tick.value()).unwrap().approx();
        for (place, line) in (0..).zip(&request.lines) {
            let counter = request.counter(line, end as u64).unwrap();
            let own = changes.iter().filter(|change| change.signal == place && change.at > 0);
            for change in own.filter(|change| (change.at as f64) < end - 3.0 * a_count) {
                let at = change.at as f64;
                // What a comparator does takes up to two counts; a fraction of a source clock is less than another.
                let near = counter.points.windows(2).filter(|pair| {
                    pair[0].0 - 3.0 * a_count <= at && at <= pair[1].0 + 3.0 * a_count
                });
                let values = near.map(|pair| {
                    let run = pair[1].0 - pair[0].0;
                    let share = if run > 0.0 { ((at - pair[0].0) / run).clamp(0.0, 1.0) } else { 0.0 };
                    pair[0].1 + (pair[1].1 - pair[0].1) * share
                });
                let ends = [0.0, counter.top.0];
                let marks: Vec<f64> = counter.marks.iter().map(|(mark, _)| *mark).chain(ends).collect();
                let values: Vec<f64> = values.collect();
                let met = values.iter().any(|value| marks.iter().any(|mark| (mark - value).abs() <= 3.0));
                prop_assert!(met, "{} {}: at {at} {values:?}, {marks:?}", timer.path(), setting.plan.mode);
            }
        }
    }
}

/// Period and active time are those of the setting, to a tick of the recorder and what the divider does to single edges.
fn holds(
    setting: &Setting,
    output: &kairotic_core::setting::Output,
    found: &Measurement,
    tick: Time,
) -> Result<(), TestCaseError> {
    let timing =
        found.timing.as_ref().ok_or_else(|| TestCaseError::fail(format!("no period in {found:?}")))?;
    let ticks = |time: Time| time.value().over(tick.value()).unwrap().approx();
    // A fractional divider displaces each edge by less than a source clock, and dither by a counter tick; a centred pulse
    // has one edge in each of two cycles.
    let clock = ticks(setting.clock.period().unwrap());
    let room = match (setting.dither_bits > 0, setting.divider.is_whole()) {
        (true, _) => 2.0 * ticks(setting.tick) + 1.0,
        (false, true) => 1.0,
        (false, false) => 2.0 * clock + 1.0,
    };
    let near = |(least, most): (i64, i64), wanted: f64| {
        (least as f64 - wanted).abs() <= room && (most as f64 - wanted).abs() <= room
    };
    let period = timing.period.ends().unwrap();
    prop_assert!(near(period, ticks(setting.period)), "{period:?} {}", ticks(setting.period));
    let active = if output.level == Level::Low { &timing.low } else { &timing.high };
    prop_assert!(
        near(active.ends().unwrap(), ticks(output.pulse)),
        "{:?} {}",
        active.ends(),
        ticks(output.pulse)
    );
    Ok(())
}

/// A servo's signal: 50 Hz and 1.5 ms from 16 MHz.
fn servo() -> Vec<WaveLine> {
    let reading = decoded("stm32f411/tim3", "16MHz", "PSC=4 ARR=63999 CCR1=4800");
    lines(&reading.timer, &reading.setting, "servo").unwrap()
}

#[test]
fn faults_that_were_put_in_are_found_again() {
    let rehearsal = Rehearsal {
        clock_error: "-0.8%".parse().unwrap(),
        jitter: "2us".parse().unwrap(),
        seed: 7,
        missing: vec![30..=30, 80..=81],
        doubled: vec![120..=120],
    };
    let changes = wave(servo(), "4s".parse().unwrap(), ns(10), rehearsal);
    let found = measured(&changes, 1).remove(0);
    assert_eq!((found.missing.count, found.doubled.count, found.irregular.count), (2, 1, 0));
    let timing = found.timing.unwrap();
    // 20 ms / 0.992, and its jitter: the period's has two edges.
    let ratio = timing.clock.period / 2e6 * 0.992 - 1.0;
    assert!(ratio.abs() <= timing.clock.uncertainty(1), "{ratio} {}", timing.clock.uncertainty(1));
    assert!(timing.clock.uncertainty(1) < 2e-6);
    assert!((timing.clock.rms / 200.0 - 1.0).abs() < 0.15, "{}", timing.clock.rms);
    assert!((timing.period.deviation() / (200.0 * 2_f64.sqrt()) - 1.0).abs() < 0.15);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(40))]
    #[test]
    fn a_clock_error_lies_within_the_stated_uncertainty(
        ppb in -5_000_000_i64..5_000_000, periods in 4_i64..60, tick in 1_i128..2000,
    ) {
        let error = Rational::new(ppb.into(), 1_000_000_000).unwrap();
        let clock_error = kairotic_core::quantity::Deviation::new(error);
        let rehearsal = Rehearsal { clock_error, ..Rehearsal::PERFECT };
        let length = Time::new(Rational::new(periods.into(), 50).unwrap());
        // Whole multiples of a nanosecond, that fall on all places of a period.
        let changes = wave(servo(), length, ns(tick), rehearsal);
        let timing = measured(&changes, 1).remove(0).timing.unwrap();
        let wanted = 0.02 / (1.0 + error.approx()) / (tick as f64 * 1e-9);
        let off = (timing.clock.period / wanted - 1.0).abs();
        prop_assert!(off <= timing.clock.uncertainty(1) + 1e-15, "{off} {}", timing.clock.uncertainty(1));
    }
}

#[test]
fn complementary_outputs_keep_their_dead_time() {
    let reading = decoded(
        "stm32f411/tim1",
        "100MHz",
        "PSC=0 ARR=4999 CCR1=1250 BDTR.DTG=50 CR1.CKD=0 CCER.CC1NE=1 CCER.CC1E=1 CCMR1.OC1M=6 BDTR.MOE=1",
    );
    let lines = lines(&reading.timer, &reading.setting, "half").unwrap();
    let names: Vec<&str> = lines.iter().map(|line| line.name.as_str()).collect();
    assert_eq!(names, ["half", "halfn"]);
    let changes = wave(lines, "1ms".parse().unwrap(), ns(10), Rehearsal::PERFECT);
    let mut meters = Meters::new(&[true, true], &[(0, 1)], 0);
    meters.take(&changes);
    let found = meters.finish();
    let (signals, pairs) = (found.signals, found.pairs);
    let pair = &pairs[0].1;
    // 50 clocks of 10 ns after either edge, and never both.
    assert_eq!(
        (pair.dead_after_first.ends(), pair.dead_after_second.ends()),
        (Some((50, 50)), Some((50, 50)))
    );
    assert_eq!(pair.overlap.count(), 0);
    assert_eq!(signals[0].1.timing.as_ref().unwrap().high.ends(), Some((1200, 1200)));
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
    // Short vectors are filled up with noughts, and only bits that differ are told.
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

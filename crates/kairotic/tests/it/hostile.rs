//! Input that would hurt: it is refused, or read, in little time and memory, and comes out in no way that it could do harm.

use std::fs;
use std::os::unix::fs::{PermissionsExt, symlink};
use std::path::Path;
use std::process::{Command, Stdio};
use std::time::{Duration, Instant};

use kairotic_core::limits;
use proptest::prelude::*;
use tempfile::tempdir;

use crate::run::{Run, json, result_of, run, run_words};

const DOME: &str = include_str!("../../../../demo/dome.toml");
const SERVO: &str = "--on stm32f411/tim3 --clock 96MHz+-30ppm --freq 50Hz --pulse 1500us";

/// Runs a line with 256 MiB of memory and two seconds of processor time, beyond which it is ended.
fn within_bounds(folder: &Path, line: &str) -> Run {
    let program = env!("CARGO_BIN_EXE_kairotic");
    let shell = format!("ulimit -v 262144 && ulimit -t 2 && exec {program} {line}");
    let output = Command::new("sh").args(["-c", &shell]).current_dir(folder).output().unwrap();
    let text = |bytes: Vec<u8>| String::from_utf8(bytes).unwrap();
    let code = output.status.code().unwrap_or_else(|| panic!("{line}: {}", output.status));
    Run { stdout: text(output.stdout), stderr: text(output.stderr), code }
}

/// A dump whose header declares what is given.
fn dump(declared: &str, changes: &str) -> String {
    format!(
        "$timescale 1ns $end $scope module top $end\n{declared}$upscope $end $enddefinitions $end\n{changes}"
    )
}

#[test]
fn large_declarations_are_refused_by_their_limit() {
    let folder = tempdir().unwrap();
    let vectors: String = (0..250).map(|n| format!("$var wire 4096 v{n} v{n} $end\n")).collect();
    let scope = format!("$scope module {} $end\n$var wire 1 ! a $end\n", "s".repeat(100_000));
    // 5000 signals may be declared, and not all of them measured.
    let many: String = (0..5000).map(|n| format!("$var wire 1 v{n} v{n} $end\n")).collect();
    for (name, text, says) in [
        ("vectors.vcd", dump(&vectors, "#0\n"), "69632 signals, and at most 65536 are taken"),
        ("scope.vcd", dump(&scope, "#0\n0!\n"), "100001 bytes, and at most 1000 are taken"),
        ("many.vcd", dump(&many, "#0\n0v1\n"), "5000 signals, and at most 1024 are taken"),
    ] {
        fs::write(folder.path().join(name), text).unwrap();
        for line in [format!("measure {name}"), format!("tach {name} --pulses-per-turn 2")] {
            let run = within_bounds(folder.path(), &line);
            let told = run.stderr.split_whitespace().collect::<Vec<_>>().join(" ");
            assert!(run.code == 2 && told.contains(says) && run.stdout.is_empty(), "{line}: {told}");
        }
    }
    let some = within_bounds(folder.path(), "measure many.vcd --signals 'v1*'");
    assert!(some.code == 2 && some.stderr.contains("1111 signals"), "{}", some.stderr);
    assert_eq!(within_bounds(folder.path(), "measure many.vcd --signals 'v12*'").code, 0);
}

#[test]
fn levels_at_the_ends_of_what_there_is_are_measured() {
    let folder = tempdir().unwrap();
    for (name, table) in [
        ("ends.csv", "t,v\n0,-5e9\n1,5e9\n2,-5e9\n"),
        ("over.csv", "t,v\n0,-9.2e9\n1,9.2e9\n2,-9.2e9\n3,9.2e9\n"),
    ] {
        fs::write(folder.path().join(name), table).unwrap();
        assert_eq!(within_bounds(folder.path(), &format!("measure {name}")).code, 0, "{name}");
        assert_eq!(
            within_bounds(folder.path(), &format!("tach {name} --pulses-per-turn 2")).code,
            0,
            "{name}"
        );
    }
}

#[test]
fn complaints_are_told_at_once_and_counted() {
    let folder = tempdir().unwrap();
    let keys: String = (0..2000).map(|n| format!("k{n} = 1\n")).collect();
    let signals: String = (0..2000)
        .map(|n| format!("[[signal]]\nname = \"s{n}\"\non = \"tim3/3\"\nfreq = \"50Hz\"\nduty = \"5%\"\n"))
        .collect();
    for (name, text, least) in [("keys.toml", keys, 1980), ("signals.toml", signals, 1900)] {
        fs::write(folder.path().join(name), format!("{DOME}\n{text}")).unwrap();
        let run = within_bounds(folder.path(), &format!("derive --board {name} --signal shutter"));
        let more =
            run.stderr.lines().find_map(|line| line.trim().strip_prefix("and ")?.strip_suffix(" more"));
        let more: u64 = more.unwrap_or_else(|| panic!("{name}: {}", run.stderr)).parse().unwrap();
        assert!(run.code == 2 && more >= least && run.stderr.len() < 8000, "{name} {more}");
    }
}

#[test]
fn what_never_ends_is_bounded() {
    let folder = tempdir().unwrap();
    fs::write(folder.path().join("large.toml"), vec![b'#'; 2 << 20]).unwrap();
    let wide = DOME.replace("120deg", "999999999999999deg");
    fs::write(folder.path().join("wide.toml"), wide).unwrap();
    for (line, code, says) in [
        ("derive --board /dev/zero --signal a", 2, "1048576 bytes"),
        ("derive --board large.toml --signal a", 2, "1048576 bytes"),
        ("parts --parts /dev/zero", 2, "1048576 bytes"),
        ("scale --from 32bit --to 0..100 --every 1", 2, "4294967296 rows"),
        (&format!("wave {SERVO} --for 100000000000s"), 2, "at most 1000000000"),
        (&format!("wave {SERVO} --clock-error -100%"), 2, "-50 % to 50 %"),
        (&format!("wave {SERVO} --periods 1000000 --plot a.svg"), 2, "100000 are taken"),
        // 0.1 Hz on a counter of 32 bits: half a billion ticks to each edge.
        ("wave --on stm32f411/tim2 --clock 100MHz --freq 0.1Hz --duty 50% --periods 2", 0, ""),
        // A fractional multiplier has more ways within a hundredth than memory holds; the nearest are told, none is exact.
        ("clock --on stm32h743/tim17 --reach 1718092318/28265Hz --within 1%", 1, ""),
    ] {
        let run = within_bounds(folder.path(), line);
        let told = run.stderr.split_whitespace().collect::<Vec<_>>().join(" ");
        assert!(run.code == code && told.contains(says), "{line}: {told}");
    }
    let wide = within_bounds(folder.path(), "derive --board wide.toml --signal shutter");
    assert!(wide.code <= 2, "{}", wide.stderr);
}

#[test]
fn observations_are_wrong_in_their_file() {
    let folder = tempdir().unwrap();
    fs::write(folder.path().join("dome.toml"), DOME).unwrap();
    for (text, says) in [
        ("1000us,8deg\n1500us,58deg,9\n", "seen.csv:2: expected what was given and what was seen"),
        ("given,seen\n1000us,8deg\n1500us,58rpm\n", "seen.csv:3: expected an angle, found `58rpm`"),
    ] {
        fs::write(folder.path().join("seen.csv"), text).unwrap();
        let run =
            within_bounds(folder.path(), "scale --observed seen.csv --board dome.toml --signal shutter");
        assert!(run.code == 2 && run.stderr.contains(says), "{}", run.stderr);
    }
}

#[test]
fn of_all_settings_the_best_ten_thousand_are_shown_and_the_rest_counted() {
    // A tick of 200 us from 100 MHz is 20 000 clocks; 30 % either way are the divisions 14 000 to 26 000, 12 001 of them.
    let line = "derive --on stm32f411/tim3 --clock 100MHz --tick 200us --within 30% --all";
    let table = run(&format!("{line} --format csv"));
    assert_eq!(table.stdout.lines().count(), 1 + 10_000);
    let page = run(line).stdout;
    let told = page.split_whitespace().collect::<Vec<_>>().join(" ");
    assert!(told.contains("settings-left-out") && told.contains("2001 more are within"), "{}", page.len());
    // 10 Hz are 10 000 000 clocks: of the divisions with a top of 16 bits within a tenth, all but those shown are left out.
    let signal = json("derive --on stm32f411/tim3 --clock 100MHz --freq 10Hz --within 10% --all");
    assert_eq!(signal["others"].as_array().unwrap().len(), 9_999);
    let few = run("derive --on stm32f411/tim3 --clock 100MHz --tick 200us --within 20% --all").stdout;
    // 16 000 to 24 000.
    assert!(!few.contains("settings-left-out"), "{}", few.len());
}

/// Names as a capture may have them, but for blanks, which end them there.
fn captured_name() -> impl Strategy<Value = String> {
    let hurtful = prop_oneof![
        Just("\u{1b}[2J".to_owned()),
        Just("=cmd".to_owned()),
        Just("\u{202e}".to_owned()),
        Just("</text>&\"'".to_owned()),
        Just("|`*_".to_owned()),
        Just("\u{7}\u{9b}".to_owned()),
        "[a-z+@-]{1,6}",
        any::<char>().prop_map(String::from),
    ];
    proptest::collection::vec(hurtful, 1..4)
        .prop_map(|parts| parts.concat())
        .prop_filter("a word", |name| !name.contains(char::is_whitespace) && !name.starts_with('$'))
}

fn is_harmless(text: &str) -> bool {
    text.chars().all(|letter| {
        letter == '\n' || kairotic_core::name::cleaned(&letter.to_string()) == letter.to_string()
    })
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(12))]

    #[test]
    fn no_name_does_harm_in_any_format(name in captured_name()) {
        let folder = tempdir().unwrap();
        let edges: String = (0..20).map(|n| format!("#{}\n{}!\n", n * 500, n % 2)).collect();
        fs::write(folder.path().join("a.vcd"), dump(&format!("$var wire 1 ! {name} $end\n"), &edges)).unwrap();
        for format in ["text", "json", "csv", "markdown"] {
            let run = within_bounds(folder.path(), &format!("measure a.vcd --format {format} --plot {format}.svg"));
            prop_assert_eq!(run.code, 0, "{}", run.stderr);
            prop_assert!(is_harmless(&run.stdout), "{:?}", run.stdout);
            if format == "csv" {
                // As a spreadsheet has it: unquoted once, so that a quote of the name's own stays before what follows it.
                let row = csv::Reader::from_reader(run.stdout.as_bytes()).into_records().next().unwrap().unwrap();
                prop_assert!(!row[0].starts_with(['=', '+', '-', '@']), "{}", &row[0]);
            }
            let svg = fs::read_to_string(folder.path().join(format!("{format}.svg"))).unwrap();
            prop_assert!(is_harmless(&svg));
            // Every `<` begins a tag and every `&` an entity.
            for (at, _) in svg.match_indices('<') {
                prop_assert!(svg[at + 1..].starts_with(|c: char| c.is_ascii_alphabetic() || c == '/' || c == '!'), "{}", &svg[at..]);
            }
            for (at, _) in svg.match_indices('&') {
                prop_assert!(svg[at..].split_once(';').is_some_and(|(entity, _)| entity.len() < 9), "{}", &svg[at..]);
            }
        }
    }

    #[test]
    fn a_board_s_names_come_back_from_a_capture(names in proptest::collection::hash_set("[\\p{L}0-9_-]{1,12}", 2..4)) {
        let folder = tempdir().unwrap();
        let names: Vec<String> = names.into_iter().collect();
        let signals: String = names.iter().zip(["tim3/1", "tim9/1", "tim2/1"]).map(|(name, on)| {
            format!("[[signal]]\nname = \"{name}\"\non = \"{on}\"\nfreq = \"1kHz\"\nduty = \"25%\"\n")
        }).collect();
        let board = format!("schema = 1\npart = \"stm32f411\"\n[clock]\nfrequency = \"96MHz\"\n{signals}");
        fs::write(folder.path().join("b.toml"), board).unwrap();
        for ending in ["vcd", "csv"] {
            let wave = within_bounds(folder.path(), &format!("wave --board b.toml --for 5ms --save w.{ending}"));
            prop_assert_eq!(wave.code, 0, "{}", wave.stderr);
            let run = within_bounds(folder.path(), &format!("measure w.{ending} --board b.toml --format json"));
            let found: serde_json::Value = result_of(&run.stdout);
            let signals = found["signals"].as_array().unwrap();
            let read: Vec<&str> = signals.iter().map(|one| one["signal"].as_str().unwrap()).collect();
            prop_assert_eq!(&read, &names, "{}", ending);
            for (signal, name) in signals.iter().zip(&names) {
                prop_assert_eq!(&signal["plan"]["cause"], "as_planned", "{}", name);
                // 5 ms of 1 kHz: ten edges within, and the first level, which is none where it is there from the start.
                let edges = signal["edges"].as_u64().unwrap();
                prop_assert!((9..=10).contains(&edges), "{edges}");
            }
        }
    }
}

#[test]
fn a_name_that_no_output_could_carry_is_refused() {
    let folder = tempdir().unwrap();
    for (name, says) in [
        (r"a\u001b[2J", "found '\\u{1b}' in `a\u{fffd}[2J`"),
        ("a,b", "found ','"),
        ("$end", "found '$'"),
        ("", "found an empty text"),
    ] {
        fs::write(folder.path().join("b.toml"), DOME.replacen("shutter", name, 2)).unwrap();
        let run = within_bounds(folder.path(), "derive --board b.toml --signal shutter");
        assert!(run.code == 2 && run.stderr.contains(says), "{name}: {}", run.stderr);
        assert!(is_harmless(&run.stderr), "{:?}", run.stderr);
    }
}

#[test]
fn files_are_replaced_only_by_force_and_as_they_were() {
    let folder = tempdir().unwrap();
    let at = |line: &str| run_words(line.split(' '), folder.path(), &[]);
    let save = format!("wave {SERVO} --save pin.vcd");
    assert_eq!(at(&save).code, 0);
    let pin = folder.path().join("pin.vcd");
    fs::set_permissions(&pin, fs::Permissions::from_mode(0o640)).unwrap();
    symlink("pin.vcd", folder.path().join("link.vcd")).unwrap();
    assert_eq!(at(&save).code, 2);
    assert_eq!(at(&format!("wave {SERVO} --periods 3 --save link.vcd --force")).code, 0);
    // The link is one still, and what it leads to is new and as readable as it was.
    assert!(fs::symlink_metadata(folder.path().join("link.vcd")).unwrap().is_symlink());
    assert_eq!(fs::metadata(&pin).unwrap().permissions().mode() & 0o777, 0o640);
    assert!(fs::read_to_string(&pin).unwrap().ends_with("#60000000\n1!\n"));
    // Pictures obey as well, and never go over what is read.
    assert_eq!(at(&format!("wave {SERVO} --plot pin.svg")).code, 0);
    let again = at(&format!("wave {SERVO} --plot pin.svg"));
    assert!(again.code == 2 && again.stderr.contains("pin.svg is there already"), "{again:?}");
    assert_eq!(at(&format!("wave {SERVO} --plot pin.svg --force")).code, 0);
    fs::rename(&pin, folder.path().join("in.svg")).unwrap();
    let input = at("measure in.svg --plot in.svg --force");
    assert!(input.code == 2 && input.stderr.contains("is read by the same command"), "{input:?}");
    let device = at(&format!("wave {SERVO} --save null.vcd --force"));
    assert_eq!(device.code, 0);
    symlink("/dev/null", folder.path().join("dev.vcd")).unwrap();
    let device = at(&format!("wave {SERVO} --save dev.vcd --force"));
    assert!(device.code == 2 && device.stderr.contains("is no file"), "{device:?}");
}

/// The names of what is in a folder.
fn names(folder: &Path) -> Vec<String> {
    fs::read_dir(folder).unwrap().map(|entry| entry.unwrap().file_name().into_string().unwrap()).collect()
}

#[test]
fn an_unfinished_file_goes_away_when_the_program_is_told_to_stop() {
    for signal in ["INT", "TERM", "HUP"] {
        let folder = tempdir().unwrap();
        let line = format!("wave {SERVO} --for 1000000s --save long.vcd");
        let mut child = Command::new(env!("CARGO_BIN_EXE_kairotic"))
            .args(line.split(' '))
            .current_dir(folder.path())
            .stdout(Stdio::null())
            .spawn()
            .unwrap();
        let began = Instant::now();
        while names(folder.path()).is_empty() && began.elapsed() < Duration::from_secs(10) {
            std::thread::sleep(Duration::from_millis(5));
        }
        let unfinished = names(folder.path());
        assert!(unfinished.iter().all(|name| name.starts_with(".long.vcd.unfinished-")), "{unfinished:?}");
        assert_eq!(unfinished.len(), 1);
        assert!(
            Command::new("kill")
                .args([&format!("-{signal}"), &child.id().to_string()])
                .status()
                .unwrap()
                .success()
        );
        assert!(!child.wait().unwrap().success());
        assert_eq!(names(folder.path()), Vec::<String>::new(), "{signal}");
    }
}

#[test]
fn what_cannot_be_written_is_told() {
    for line in ["--help", "derive --help", "--version", "parts"] {
        let program = env!("CARGO_BIN_EXE_kairotic");
        let full =
            Command::new("sh").args(["-c", &format!("{program} {line} > /dev/full")]).output().unwrap();
        assert_eq!(full.status.code(), Some(3), "{line}");
    }
}

#[test]
fn every_limit_is_on_the_page() {
    let page = include_str!("../../../../docs/limits.md");
    for (name, limit) in limits::ALL {
        let row = format!("| {name} | {} | {} |", limit.most, limit.of);
        assert!(page.contains(&row), "{row}");
    }
}

//! Numbers, transfers and attributes of a board: they say what the program says, in the form that each reader takes.

use std::fs;
use std::process::Command;

use kairotic_core::program::Action;
use kairotic_core::setting::Written;
use kairotic_formats::emit::{EmitError, EmitForm, EmittedFrom, drift, head_of};
use serde_json::Value;
use tempfile::tempdir;

use crate::emit::{DOME, emitted_as, emitted_by};

const LAMPS: &str = "schema = 1\npart = \"pca9685\"\n[[signal]]\nname = \"red\"\non = \"pwm/led3\"\nfreq = \"200Hz\"\nduty = \"5%\"\nneeds = { frequency = \"2%\" }\n[[signal]]\nname = \"white\"\non = \"pwm/led4\"\nfreq = \"200Hz\"\nduty = \"15%\"\nneeds = { frequency = \"2%\" }\n";

#[test]
fn both_formats_of_the_numbers_say_the_same_and_every_write_is_there() {
    let (plan, made) = emitted_as(DOME, "dome", &[EmitForm::Values]).unwrap();
    let toml: Value = toml::from_str(&made.files[0].text).unwrap();
    let mut json: Value = serde_json::from_str(&made.files[1].text).unwrap();
    json.as_object_mut().unwrap().remove("about");
    assert_eq!(toml, json);
    let writes = plan.program.steps.iter().filter_map(|step| match &step.action {
        Action::Write(write) => Some(write),
        _ => None,
    });
    let told: Vec<&Value> =
        json["steps"].as_array().unwrap().iter().filter(|step| step["action"] == "write").collect();
    assert_eq!(told.len(), writes.clone().count());
    for (write, told) in writes.zip(told) {
        let Written::Number(value) = write.value else { panic!("{write:?}") };
        let is = ["address", "value", "mask"].map(|key| told[key].as_u64().unwrap());
        assert_eq!(is, [write.register.address.unwrap(), value, write.mask]);
    }
    assert_eq!(json["signals"][0]["levels"]["per_unit"], 100);
}

/// What a file says of itself is a list of texts in JSON, whatever is typed on the command line.
#[test]
fn a_line_with_quotes_leaves_the_numbers_readable() {
    let line = "kairotic emit \"a b\\dome.toml\" --to \"c\" --as values";
    let (_, made) = emitted_by(DOME, "dome", &[EmitForm::Values], line).unwrap();
    let json: Value = serde_json::from_str(&made.files[1].text).unwrap();
    assert!(json["about"][1].as_str().unwrap().contains("a b/dome.toml"), "{}", json["about"]);
    assert!(head_of(&made.files[1].text).is_some() && toml::from_str::<Value>(&made.files[0].text).is_ok());
}

#[test]
fn transfers_are_those_of_the_program_in_its_order() {
    let (plan, made) = emitted_as(LAMPS, "lamps", &[EmitForm::Bytes]).unwrap();
    let folder = tempdir().unwrap();
    fs::write(folder.path().join("lamps_bytes.h"), &made.files[0].text).unwrap();
    let main = "#include <stdio.h>\n#include \"lamps_bytes.h\"\nint main(void) {\n    for (unsigned i = 0; i < sizeof lamps_transfers / sizeof *lamps_transfers; i++) {\n        for (unsigned j = 0; j < lamps_transfers[i].length; j++) printf(\"%02x \", lamps_transfers[i].bytes[j]);\n        if (lamps_transfers[i].rest_us > 0) printf(\"%u us\", lamps_transfers[i].rest_us);\n        printf(\"\\n\");\n    }\n    return LAMPS_BUS_ADDRESS != 0x40;\n}\n";
    fs::write(folder.path().join("main.c"), main).unwrap();
    let warned = ["-std=c99", "-pedantic", "-Wall", "-Wextra", "-Wconversion", "-Werror"];
    let cc = Command::new("cc")
        .args(warned)
        .args(["main.c", "-o", "main"])
        .current_dir(folder.path())
        .output()
        .unwrap();
    assert!(cc.status.success(), "{}", String::from_utf8_lossy(&cc.stderr));
    let ran = Command::new(folder.path().join("main")).output().unwrap();
    assert!(ran.status.success());
    let mut expected: Vec<String> = Vec::new();
    for step in &plan.program.steps {
        match &step.action {
            Action::Transfer { bytes, .. } => {
                expected.push(bytes.iter().map(|byte| format!("{byte:02x} ")).collect());
            }
            Action::Delay { .. } => expected.last_mut().unwrap().push_str("500 us"),
            other => panic!("{other:?}"),
        }
    }
    assert_eq!(String::from_utf8(ran.stdout).unwrap().lines().collect::<Vec<_>>(), expected);
    assert_eq!(
        emitted_as(DOME, "dome", &[EmitForm::Bytes]).unwrap_err().to_string(),
        "stm32f411 is at the end of no bus"
    );
}

/// A compiler of device trees takes the overlays without a warning, and what it makes has the numbers.
#[test]
fn overlays_compile_without_a_warning() {
    let fan = "[[load]]\nname = \"fan\"\nkind = \"fan\"\n[[load]]\nname = \"lamp\"\nkind = \"lamp\"\n";
    let signal = |name: &str, on: &str, load: &str, freq: &str| {
        let load = if load.is_empty() { String::new() } else { format!("load = \"{load}\"\n") };
        format!(
            "[[signal]]\nname = \"{name}\"\non = \"{on}\"\nfreq = \"{freq}\"\nduty = \"25%\"\n{load}needs = {{ frequency = \"2%\" }}\n"
        )
    };
    let boards = [
        ("pca9685", [("pwm/led3", "fan"), ("pwm/led4", "lamp"), ("pwm/led0", "")], "200Hz"),
        ("bcm2835", [("pwm0-1", "fan"), ("pwm0-2", "lamp"), ("", "")], "25kHz"),
    ];
    for (part, signals, freq) in boards {
        let signals = signals.iter().enumerate().filter(|(_, (on, _))| !on.is_empty());
        let signals: String =
            signals.map(|(place, (on, load))| signal(&format!("s_{place}"), on, load, freq)).collect();
        let clock = if part == "bcm2835" { "[clock]\nfrequency = \"19.2MHz\"\n" } else { "" };
        let board = format!("schema = 1\npart = \"{part}\"\n{clock}{fan}{signals}");
        let (plan, made) = emitted_as(&board, "dome", &[EmitForm::Devicetree]).unwrap();
        let period = plan.timers[plan.signals[0].timer].setting.period.value().approx() * 1e9;
        let number = if part == "pca9685" { 3 } else { 0 };
        assert!(
            made.files[0].text.contains(&format!("pwms = <&pwm {number} {}", period.ceil())),
            "{}",
            made.files[0].text
        );
        compiles(&made.files[0].text);
    }
    // A fan that keeps no speed below 20 %, of 255.
    let fan = format!(
        "schema = 1\npart = \"kernel-pwm\"\n[[load]]\nname = \"fan\"\nkind = \"fan\"\nlowest = \"20%\"\n{}",
        signal("a", "pwm/0", "fan", "25kHz")
    );
    let (_, made) = emitted_as(&fan, "dome", &[EmitForm::Devicetree]).unwrap();
    assert!(made.files[0].text.contains("cooling-levels = <0 51 119 187 255>;"), "{}", made.files[0].text);
    let inverted = LAMPS.replace("duty = \"5%\"", "duty = \"5%\"\nactive = \"low\"");
    assert!(matches!(emitted_as(&inverted, "lamps", &[EmitForm::Devicetree]), Err(EmitError::Values(_))));
    assert!(matches!(emitted_as(DOME, "dome", &[EmitForm::Devicetree]), Err(EmitError::NoKernel(_))));
}

/// Every binding that the board can name, through a compiler of device trees.
#[test]
fn a_signal_goes_to_the_consumer_that_the_board_names() {
    let board = |consumer: &str| {
        format!(
            "schema = 1\npart = \"pca9685\"\n[[signal]]\nname = \"dome\"\non = \"pwm/led0\"\nfreq = \"440Hz\"\n\
             duty = \"25%\"\nneeds = {{ frequency = \"2%\" }}\n{consumer}"
        )
    };
    let says = [
        ("consumer = \"fan\"", "cooling-levels = <0 85 170 255>;"),
        ("consumer = \"leds\"", "max-brightness = <255>;"),
        ("consumer = \"backlight\"", "default-brightness-level = <255>;"),
        // 25 MHz by 4096 steps and 14.
        ("consumer = \"beeper\"", "beeper-hz = <436>;"),
        ("consumer = \"regulator\"\nregulates = \"0.8V..1.2V\"", "regulator-min-microvolt = <800000>;"),
        ("consumer = \"plain\"", "pwm-names = \"dome-dome\";"),
    ];
    for (consumer, line) in says {
        let (_, made) = emitted_as(&board(consumer), "dome", &[EmitForm::Devicetree]).unwrap();
        let text = &made.files[0].text;
        assert!(text.contains(line), "{text}");
        compiles(text);
    }
    let finer = board("consumer = \"regulator\"\nregulates = \"0.8V..1.2000005V\"");
    assert!(matches!(emitted_as(&finer, "dome", &[EmitForm::Devicetree]), Err(EmitError::Values(_))));
}

/// A compiler of device trees has nothing to say to an overlay.
fn compiles(overlay: &str) {
    let folder = tempdir().unwrap();
    fs::write(folder.path().join("dome.dtso"), overlay).unwrap();
    let arguments = ["-@", "-I", "dts", "-O", "dtb", "-o", "dome.dtbo", "dome.dtso"];
    match Command::new("dtc").args(arguments).current_dir(folder.path()).output() {
        Ok(output) => {
            let said = String::from_utf8_lossy(&output.stderr);
            assert!(output.status.success() && said.is_empty(), "{said}\n{overlay}");
        }
        Err(error) => assert!(std::env::var_os("CI").is_none(), "dtc: {error}"),
    }
}

/// What a shell does with the attributes of one channel: the values in their order, and what the files hold then.
fn shell(period: u64, active: u64, calls: &str) -> (Vec<String>, [String; 4]) {
    let (_, made) = emitted_as(DOME, "dome", &[EmitForm::Kernel]).unwrap();
    let folder = tempdir().unwrap();
    fs::write(folder.path().join("dome_pwm.sh"), &made.files[0].text).unwrap();
    fs::write(folder.path().join("period"), format!("{period}\n")).unwrap();
    fs::write(folder.path().join("duty_cycle"), format!("{active}\n")).unwrap();
    let script = format!(". ./dome_pwm.sh; set -x; {calls}");
    let ran = Command::new("sh").args(["-euc", &script]).current_dir(folder.path()).output().unwrap();
    let trace = String::from_utf8(ran.stderr).unwrap();
    assert!(ran.status.success(), "{trace}");
    let echoed = trace.lines().filter_map(|line| line.trim_start_matches('+').trim().strip_prefix("echo "));
    let held = ["period", "duty_cycle", "polarity", "enable"]
        .map(|name| fs::read_to_string(folder.path().join(name)).unwrap_or_default().trim().to_owned());
    (echoed.map(ToOwned::to_owned).collect(), held)
}

#[test]
fn a_channel_of_a_kernel_is_set_in_the_order_that_it_accepts() {
    // 50 Hz, and 45 of 120 degrees between 900 and 2100 us.
    let (order, held) = shell(0, 0, "dome_shutter_start .");
    assert_eq!(order, ["0", "normal", "20000000", "1350000", "1"]);
    assert_eq!(held, ["20000000", "1350000", "normal", "1"]);
    // A period that gets shorter than what is active now waits for that to be shorter.
    let (order, held) = shell(20_000_000, 1_350_000, "dome_put . 1000000 400000");
    assert_eq!(
        (order, held[0].as_str(), held[1].as_str()),
        (vec!["400000".to_owned(), "1000000".to_owned()], "1000000", "400000")
    );
    let (order, _) = shell(20_000_000, 1_350_000, "dome_shutter_stop .");
    assert_eq!(order, ["0"]);
}

#[test]
fn every_file_says_what_it_was_made_of_and_which_lines_come_from_where() {
    let forms = [EmitForm::C, EmitForm::Rust, EmitForm::Kernel, EmitForm::Values];
    let (_, made) = emitted_as(DOME, "dome", &forms).unwrap();
    assert_eq!(made.files.len(), 6);
    for file in &made.files {
        let head = head_of(&file.text).unwrap_or_else(|| panic!("{}", file.text));
        assert_eq!(
            (head.file.as_str(), head.line.as_str()),
            ("dome.toml", "kairotic emit dome.toml --to . --as c")
        );
        assert_eq!(file.text.lines().count(), file.origins.len(), "{}", file.name);
        assert_eq!(drift(&file.text, file), None);
        let numbered = |(_, line): &(usize, &str)| line.contains(|letter: char| letter.is_ascii_digit());
        let (at, line) = file.text.lines().enumerate().filter(numbered).last().unwrap();
        let edited = file.text.replacen(line, &format!("{line}7"), 1);
        let found = drift(&edited, file).unwrap();
        assert!(found.edited && !found.planned && found.code, "{}: {found:?}", file.name);
        assert!(found.line <= at + 1 && found.diff.is_some(), "{}: {found:?}", file.name);
    }
    let header = &made.files[0];
    let top = header.text.lines().position(|line| line.contains("DOME_VENT_TOP")).unwrap();
    assert_eq!(header.origins[top], EmittedFrom::Signal(2));
    assert_eq!(head_of("/* mine */\nint x;\n"), None);
    assert_eq!(head_of("print('Made by Kairotic 1 from x')\n\n\n"), None);
}

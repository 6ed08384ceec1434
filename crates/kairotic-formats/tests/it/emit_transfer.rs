//! Compare values of a part at the end of a bus: what the data sheet makes of the bytes, in both languages.

use kairotic_formats::emit::EmitForm;

use crate::emit::{emitted_as, run_with};
use crate::emit_rust;

const LAMPS: &str = "schema = 1\npart = \"pca9685\"\n[[load]]\nname = \"lamp\"\nkind = \"lamp\"\n[[signal]]\nname = \"red\"\non = \"pwm/led3\"\nfreq = \"200Hz\"\nload = \"lamp\"\nat = \"5%\"\nneeds = { frequency = \"2%\" }\n";

/// What sends bytes, and shows them.
const IN_C: &str = "#define DOME_TRANSFER_SUPPLIED\nvoid dome_transfer(uint8_t device, const uint8_t *bytes, uint8_t count) { printf(\"%x\", device); for (unsigned i = 0; i < count; i++) printf(\" %x\", bytes[i]); printf(\"\\n\"); }\nvoid dome_delay_us(uint32_t us) { printf(\"%u us\\n\", (unsigned)us); }\n";
const IN_RUST: &str = "struct Mine;\nimpl dome::Supplied for Mine {\n    fn transfer(device: u8, bytes: &[u8]) { print!(\"{device:x}\"); for byte in bytes { print!(\" {byte:x}\"); } println!(); }\n    fn delay_us(us: u32) { println!(\"{us} us\"); }\n}\n";

/// Counts that an output is high of 4096, by LEDn_ON and LEDn_OFF, four bytes: bit 12 of OFF is off and of ON is on, and off
/// wins; else it is high from one count to the other.
fn high_counts(bytes: &[u64]) -> u64 {
    let word = |at: usize| bytes[at] | bytes[at + 1] << 8;
    let (on, off) = (word(0), word(2));
    match (on & 0x1000, off & 0x1000) {
        (_, 1..) => 0,
        (1.., _) => 4096,
        _ => (off + 4096 - on) % 4096,
    }
}

fn transferred(line: &str) -> Vec<u64> {
    line.split(' ').map(|byte| u64::from_str_radix(byte, 16).unwrap()).collect()
}

#[test]
fn only_what_calls_it_needs_it() {
    for (form, supplied) in
        [(EmitForm::C, 1), (EmitForm::Rust, 1), (EmitForm::Bytes, 0), (EmitForm::Devicetree, 0)]
    {
        let (_, made) = emitted_as(LAMPS, "dome", &[form]).unwrap();
        assert_eq!(made.supplied.len(), supplied, "{form:?}");
    }
}

#[test]
fn every_compare_value_is_as_many_counts() {
    let compares = [0, 1, 255, 256, 257, 1000, 4094, 4095, 4096];
    let c: String = compares.iter().map(|compare| format!("dome_red_set_compare({compare}); ")).collect();
    let rust: String =
        compares.iter().map(|compare| format!("dome::set_red_compare::<Mine>({compare}); ")).collect();
    let (_, sent) = run_with(LAMPS, IN_C, &c);
    assert_eq!(emit_rust::run_with(LAMPS, IN_RUST, &rust), sent);
    for (line, compare) in sent.iter().zip(compares) {
        let bytes = transferred(line);
        // The device, and LED3_ON_L.
        assert_eq!(bytes[..2], [0x40, 0x12], "{line}");
        assert_eq!((bytes.len(), high_counts(&bytes[2..])), (6, compare), "{line}");
    }
}

/// From start over levels to rest, the same in both; 100 % is a hundred units.
#[test]
fn levels_go_over_the_bus() {
    let c = "dome_start(); dome_red_set(50 * DOME_RED_LEVELS_PER_UNIT); dome_stop();";
    let rust = "dome::start::<Mine>(); dome::set_red::<Mine>(dome::RedLevel::saturating(dome::RedLevel::HIGHEST.get() / 2)); dome::stop::<Mine>();";
    let (plan, sent) = run_with(LAMPS, IN_C, c);
    assert_eq!(emit_rust::run_with(LAMPS, IN_RUST, rust), sent);
    assert!(sent.contains(&"500 us".to_owned()), "{sent:?}");
    let [.., half, rest] = sent.as_slice() else { panic!("{sent:?}") };
    assert_eq!([half, rest].map(|line| high_counts(&transferred(line)[2..])), [2048, 0]);
    assert_eq!(plan.program.steps.len() + 2, sent.len());
}

/// Two lines of a motor: the calls that are supplied are passed on.
#[test]
fn a_motor_turns_both_ways_behind_a_bus() {
    let signal = |name: &str, on: &str, more: &str| {
        format!(
            "[[signal]]\nname = \"{name}\"\non = \"pwm/{on}\"\nfreq = \"200Hz\"\nload = \"vent\"\nneeds = {{ frequency = \"2%\" }}\n{more}"
        )
    };
    let board = format!(
        "schema = 1\npart = \"pca9685\"\n[[load]]\nname = \"vent\"\nkind = \"motor\"\nsupply = \"12V\"\nrated = \"12V\"\nwiring = \"two-lines\"\n{}{}",
        signal("vent", "led0", "second-line = \"back\"\n"),
        signal("back", "led1", "")
    );
    let c = "dome_vent_set(DOME_VENT_LEVEL_HIGHEST); dome_vent_set(DOME_VENT_LEVEL_LOWEST);";
    let rust =
        "dome::set_vent::<Mine>(dome::VentLevel::HIGHEST); dome::set_vent::<Mine>(dome::VentLevel::LOWEST);";
    let (_, sent) = run_with(&board, IN_C, c);
    assert_eq!(emit_rust::run_with(&board, IN_RUST, rust), sent);
    let seen: Vec<(u64, u64)> =
        sent.iter().map(|line| transferred(line)).map(|bytes| (bytes[1], high_counts(&bytes[2..]))).collect();
    // LED0 all on; both off; LED1 all on.
    assert_eq!(seen, [(6, 4096), (6, 0), (10, 0), (10, 4096)]);
}

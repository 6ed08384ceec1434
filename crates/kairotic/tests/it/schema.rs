//! What each command writes for programs, held against its published schema: a key that comes, goes or changes its type
//! breaks a test. `KAIROTIC_WRITE_SCHEMA=1` writes the schemas anew, from what the commands write now.

use std::collections::{BTreeMap, BTreeSet};
use std::path::PathBuf;
use std::{env, fs};

use serde_json::{Map, Value, json as value};

use crate::run::run;

/// Commands, each with lines that together make it write everything that it can.
const LINES: &[(&str, &[&str])] = &[
    (
        "parts",
        &[
            "parts",
            "parts samd21g18",
            "parts samd21g18/tc4",
            "parts stm32f103 --pins",
            "parts stm32f411",
            "parts --pin PA8 --can centre",
            "parts --search samd",
            "parts check ../../parts/stm32f411.toml",
        ],
    ),
    (
        "derive",
        &[
            "derive --on rp2040/slice0 --clock 125MHz+-9ppm --freq 21kHz --duty 40% --span 10%..90% --explain",
            "derive --on rp2040/slice0 --clock 125MHz --period 2ms --pulse 40us --span 10us..90us",
            "derive --on stm32f411/tim3 --tick 3us",
            "derive --on stm32f446/tim1 --sysclk 180MHz --freq 18kHz..25kHz --duty 5% --dead-time 1us --min-bits 9",
            "derive --on stm32f446 --pin PB6 --freq 50Hz --duty 5%",
            "derive --on pca9685/pwm --freq 100Hz --within 1% --pulse 2ms --phase 45deg",
            "derive --port-from rp2040/slice0@125MHz --registers DIV=16 --registers TOP=99 --registers CC=33 --on stm32f411/tim3",
            "derive --board ../../demo/dome.toml --signal vent",
            "derive --board ../../demo/dome.toml --signal shutter",
            "derive --board ../../demo/dome.toml --signal dome",
            "derive --on pic18f45k22/ccp4 --clock 16MHz --freq 5kHz --duty 0%",
            "derive --on stm32f411/tim3/1 --sysclk 96MHz --source 12MHz --freq 25kHz --duty 35% --from-reset",
            "derive --on nrf52840/pwm0/0 --pin P0.13 --freq 50Hz --duty 5% --from-reset",
            "derive --on pca9685/pwm/led3 --freq 50Hz --duty 5% --within 1% --from-reset",
            "derive --on kernel-pwm --freq 50Hz --duty 5% --from-reset",
            "derive --on atmega328p/timer1 --clock 16MHz --source 16MHz --freq 50Hz --duty 5% --from-reset",
        ],
    ),
    (
        "decode",
        &[
            "decode --on rp2040/slice0 --clock 125MHz DIV=17 TOP=99 CC=33 --expect 50Hz",
            "decode --on stm32f411/tim3 --clock 100MHz PSC=40 ARR=50000 CCR1=3750 --expect 50Hz --explain",
            "decode --on stm32f411/tim3 --clock 100MHz --dump ../../demo/timer.txt",
        ],
    ),
    (
        "clock",
        &[
            "clock --on stm32f411/tim3",
            "clock --on stm32f411/tim3 --sysclk 100MHz",
            "clock --on stm32f411/tim3 --source hsi --reach 100MHz",
            "clock --on stm32f411/tim3 --source 12MHz --reach 96MHz",
            "clock --on stm32f411/tim3 --source 12MHz --reach-pwm 44.1kHz",
            "clock --board ../../demo/dome.toml --source 12MHz",
        ],
    ),
    (
        "survey",
        &[
            "survey --freq 50Hz --span 900us..2100us --part stm32*",
            "survey --freq 1kHz --duty 30% --part esp32*",
        ],
    ),
    (
        "scale",
        &[
            "scale --from 0deg..120deg --board ../../demo/dome.toml --signal shutter --read-back 3000",
            "scale --observed 1000us=8deg,2000us=107deg --board ../../demo/dome.toml --signal shutter",
            "scale --from 12bit --to 2880..6720 --word 16 --code c",
            "scale --from 0..1023 --to 1800..4200 --word 16",
        ],
    ),
    (
        "move",
        &[
            "move --board ../../demo/dome.toml --signal slit --to 85deg --code c",
            "move --board ../../demo/dome.toml --signal slit --to 85deg --in 1s",
            "move --tick 1us --fastest 2000steps/s --acceleration 1000steps/s2 --jerk 9000steps/s3 --by 75deg --gear 25792/405 --max-error 30",
            "move --tick 1us --fastest 2000steps/s --start 1000steps/s --acceleration 900steps/s2 --steps 500 --max-error 0.1",
            "move --tick 1ms --board ../../demo/dome.toml --signal vent --by 60deg",
            "move --tick 1ms --speed 140rpm --by 60deg --need 5deg --speed-spread 2% --clock-error 1% --spin-up 9ms --encoder 20",
            "move --board ../../demo/dome.toml --signal shutter --to 120deg --rate 60deg/s",
            "move --board {folder}/slit.toml --signal slit --to 120deg",
            "move --tick 1us --windings 30 --microsteps 64 --fastest 900steps/s --acceleration 900steps/s2 --steps 40",
            "move --on atmega328p/timer1 --clock 16MHz --phases half --fastest 2000steps/s --acceleration 1000steps/s2 --steps 1",
        ],
    ),
    (
        "sequence",
        &[
            "sequence opens --board ../../demo/dome.toml --code rust --save {folder}/levels.csv",
            "sequence --board ../../demo/dome.toml --signal dome --steps arm",
            "sequence --board ../../demo/dome.toml --signal shutter --steps 1500us,60deg",
            "sequence --board ../../demo/dome.toml --signal dew-heater --steps 2W",
            "sequence --on stm32f411/tim3/1 --clock 1MHz --freq 50Hz --duty 9% --steps 20%",
        ],
    ),
    (
        "budget",
        &[
            "budget --board ../../demo/dome.toml --signal shutter --need level=9deg",
            "budget --board ../../demo/dome.toml --signal shutter --population 99",
            "budget --board ../../demo/dome.toml --signal shutter --measured 49.9Hz",
            "budget --on atmega328p/timer1 --clock 16MHz+-1% --freq 50Hz --pulse 1500us --need pulse=5us",
        ],
    ),
    (
        "tach",
        &[
            "tach --on stm32f411/tim9 --pulses-per-turn 2 --speed-range 9rpm..900rpm",
            "tach ../../demo/fan.vcd --pulses-per-turn 2",
        ],
    ),
    (
        "wave",
        &[
            "wave --board ../../demo/dome.toml --signal shutter",
            "wave --board ../../demo/dome.toml --signal slit --move 0deg..85deg --save {folder}/slit.csv",
        ],
    ),
    (
        "measure",
        &[
            "measure ../../demo/night.vcd --board ../../demo/dome.toml --fit-clock --between shutter,dome",
            "measure ../../demo/software.csv --board ../../demo/dome.toml --signal shutter",
            "measure {folder}/slit.vcd --board ../../demo/dome.toml --sequence opens",
        ],
    ),
    ("emit", &["emit ../../demo/dome.toml --to {folder}", "emit {folder}/bare.toml --to {folder}/bare"]),
    (
        "check",
        &[
            "check ../../demo/dome.toml",
            "check {folder}/bare.toml",
            "check {folder}/clash.toml",
            "check {folder}/few.toml",
            "check ../../demo/dome.toml --against {folder}",
        ],
    ),
    ("why", &["why", "why step"]),
    ("demo", &["demo"]),
];

/// A board of which nothing is said but its signal.
const BARE: &str = "schema = 1\npart = \"stm32f411\"\n[[signal]]\nname = \"lamp\"\non = \"tim3/1\"\nfreq = \"1kHz\"\nduty = \"30%\"\n";

/// A board with a stepper on four wires.
const SLIT: &str = "schema = 1\npart = \"stm32f411\"\n[[load]]\nname = \"slit\"\nkind = \"stepper\"\nsteps-per-turn = 200\ndrive = \"four-wire\"\nmode = \"half\"\nfastest = \"900steps/s\"\nacceleration = \"900steps/s2\"\nbacklash = \"1deg\"\n[[signal]]\nname = \"slit\"\non = \"tim10\"\nlines = [\"PB12\", \"PB13\", \"PB14\", \"PB15\"]\nload = \"slit\"\n";

/// Objects whose keys are names, not fields: registers, documents, pins and the like.
const NAMED: &[&str] =
    &["registers", "documents", "pins", "blocks", "clocks", "fields", "variations", "roles", "*"];

/// What is a whole object of its own, with a schema of its own.
const ENVELOPE: &str = "answer";

/// What values of one place have in common.
#[derive(Debug, Default, PartialEq)]
struct Shape {
    types: BTreeSet<&'static str>,
    items: Option<Box<Shape>>,
    fields: BTreeMap<String, Shape>,
    /// How many objects there were, and how many of them had each field.
    objects: usize,
    seen: BTreeMap<String, usize>,
    named: bool,
}

impl Shape {
    fn add(&mut self, key: &str, found: &Value) {
        self.types.insert(match found {
            Value::Null => "null",
            Value::Bool(_) => "boolean",
            Value::Number(number) if number.is_f64() => "number",
            Value::Number(_) => "integer",
            Value::String(_) => "string",
            Value::Array(_) => "array",
            Value::Object(_) => "object",
        });
        match found {
            Value::Array(items) => {
                let shape = self.items.get_or_insert_default();
                items.iter().for_each(|item| shape.add("", item));
            }
            Value::Object(fields) if key != ENVELOPE => {
                self.objects += 1;
                self.named = NAMED.contains(&key);
                for (name, field) in fields {
                    let name = if self.named { "*" } else { name };
                    *self.seen.entry(name.to_owned()).or_default() += 1;
                    self.fields.entry(name.to_owned()).or_default().add(name, field);
                }
            }
            _ => {}
        }
    }

    fn is_quantity(&self) -> bool {
        let names: Vec<&str> = self.fields.keys().map(String::as_str).collect();
        self.types.iter().all(|kind| ["object", "null"].contains(kind))
            && [&["approx", "exact"][..], &["approx", "exact", "unit"], &["approx"], &["approx", "unit"]]
                .contains(&names.as_slice())
    }

    fn schema(&self) -> Value {
        if self.is_quantity() {
            let reference = value!({ "$ref": "#/$defs/quantity" });
            return match self.types.contains("null") {
                true => value!({ "anyOf": [reference, { "type": "null" }] }),
                false => reference,
            };
        }
        let mut schema = Map::new();
        let mut types: Vec<&str> = self.types.iter().copied().collect();
        // Every whole number is a number.
        if types.contains(&"number") {
            types.retain(|kind| *kind != "integer");
        }
        schema.insert("type".to_owned(), if let [only] = *types { value!(only) } else { value!(types) });
        if let Some(items) = self.items.as_ref().filter(|items| !items.types.is_empty()) {
            schema.insert("items".to_owned(), items.schema());
        }
        if self.named {
            let any = self.fields.get("*").map_or(Value::Bool(true), Shape::schema);
            schema.insert("additionalProperties".to_owned(), any);
        } else if self.objects > 0 {
            let fields = self.fields.iter().map(|(name, shape)| (name.clone(), shape.schema()));
            schema.insert("properties".to_owned(), Value::Object(fields.collect()));
            let always = self.seen.iter().filter(|(_, count)| **count == self.objects).map(|(name, _)| name);
            schema.insert("required".to_owned(), value!(always.collect::<Vec<_>>()));
            schema.insert("additionalProperties".to_owned(), Value::Bool(false));
        }
        Value::Object(schema)
    }
}

fn path(command: &str) -> PathBuf {
    PathBuf::from(env!("CARGO_MANIFEST_DIR")).join("../../docs/schema").join(format!("{command}.schema.json"))
}

fn schema_of(command: &str, lines: &[&str]) -> Value {
    let mut shape = Shape::default();
    for line in lines {
        let folder = tempfile::tempdir().unwrap();
        fs::write(folder.path().join("bare.toml"), BARE).unwrap();
        let second = BARE.replace("\"lamp\"", "\"fan\"").replace("schema = 1\npart = \"stm32f411\"\n", "");
        fs::write(folder.path().join("slit.toml"), SLIT).unwrap();
        let capture = folder.path().join("slit.vcd");
        let wave = "wave --board ../../demo/dome.toml --signal slit --move 0deg..85deg --save";
        assert_eq!(run(&format!("{wave} {}", capture.display())).code, 0);
        fs::write(folder.path().join("clash.toml"), format!("{BARE}{second}")).unwrap();
        let few = BARE.replace("duty = ", "needs = { steps = 99999 }\nduty = ");
        fs::write(folder.path().join("few.toml"), few).unwrap();
        // Code of a board, one line of which was changed.
        let made = run(&format!("emit ../../demo/dome.toml --to {}", folder.path().display()));
        assert_eq!(made.code, 0, "{made:?}");
        let header = fs::read_to_string(folder.path().join("dome.h")).unwrap();
        fs::write(folder.path().join("dome.h"), header.replace("_TOP 63999UL", "_TOP 1UL")).unwrap();
        let line = line.replace("{folder}", &folder.path().display().to_string());
        let run = run(&format!("{line} --format json"));
        assert!(run.stderr.is_empty() && run.code <= 1, "{run:?}");
        shape.add("", &serde_json::from_str(&run.stdout).unwrap());
    }
    let mut schema = shape.schema();
    schema["$schema"] = value!("https://json-schema.org/draft/2020-12/schema");
    schema["title"] = value!(format!("kairotic {command} --format json"));
    schema["properties"]["kairotic"] = value!({ "const": 2 });
    schema["properties"]["command"] = value!({ "const": command });
    schema["$defs"] = value!({
        "quantity": {
            "description": "An exact number as `p/q` or `p` where there is one, the same as a float, and its unit; a ratio has none.",
            "type": "object",
            "properties": {
                "exact": { "type": "string" },
                "approx": { "type": "number" },
                "unit": { "type": "string" }
            },
            "required": ["approx"],
            "additionalProperties": false
        }
    });
    schema
}

#[test]
fn what_programs_read_keeps_its_schema() {
    for (command, lines) in LINES {
        let written = format!("{:#}\n", schema_of(command, lines));
        if env::var_os("KAIROTIC_WRITE_SCHEMA").is_some() {
            fs::create_dir_all(path("x").parent().unwrap()).unwrap();
            fs::write(path(command), &written).unwrap();
        }
        let published = fs::read_to_string(path(command)).unwrap_or_default();
        let differs = published.lines().zip(written.lines()).position(|(left, right)| left != right);
        assert!(published == written, "{command}: from line {:?} on", differs.map(|line| line + 1));
    }
}

#[test]
fn every_command_has_a_schema() {
    let help = run("--help").stdout;
    let commands = help.lines().skip_while(|line| *line != "Commands:").skip(1);
    let commands = commands.take_while(|line| !line.is_empty()).filter(|line| line.starts_with("  "));
    for command in commands.filter_map(|line| line.strip_prefix("  ")).filter(|line| !line.starts_with(' ')) {
        let name = command.split(' ').next().unwrap();
        let text_only = ["completions", "manual"].contains(&name);
        assert!(text_only || LINES.iter().any(|(known, _)| *known == name), "{name}");
    }
}

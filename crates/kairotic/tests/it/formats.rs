//! The shapes of the outputs.

use std::path::Path;

use snapbox::{assert_data_eq, str};

use crate::run::{json, run, run_words};

const DERIVE: &str = "derive --on samd21g18/tcc0 --clock 48MHz --freq 25kHz --duty 35%";

#[test]
fn text_is_laid_out_in_blocks() {
    assert_data_eq!(
        run(DERIVE).stdout,
        str![[r#"
samd21g18/tcc0/0    25 kHz at 35 %    from 48 MHz

write    CTRLA.PRESCALER       0   divide by 1
         PER                1919   1920 ticks a period
         CC0                 672   672 ticks active
         WAVE.WAVEGEN          2   single slope
         WAVE.RAMP             0   single ramp
         CTRLA.RESOLUTION      0   no dithering
         WAVE.POL0             0   active until the match
         DRVCTRL.INVEN0        0   active high
         CTRLA.ENABLE          1   counter on

gives    frequency      25 kHz     exact
         period         40 us
         duty           35 %       exact
         pulse          14 us
         tick           20.83 ns
         step           20.83 ns   0.05208 % of the period
         resolution   1920 steps   10.9 bit

because  exact frequency and exact duty with the most steps that a standard mode gets from this
         clock

"#]]
    );
}

#[test]
fn markdown_has_the_same_blocks_as_tables() {
    assert_data_eq!(
        run("decode --on stm32f411/tim3 --clock 100MHz PSC=40 ARR=49999 --expect 50Hz --format markdown")
            .stdout,
        str![[r#"
## stm32f411/tim3 · from 100 MHz · 50 Hz was meant: -2.439 %

### gives

| figure | value | note |
| --- | ---: | --- |
| frequency | 48.7805 Hz |  |
| period | 20.5 ms |  |
| tick | 410 ns |  |
| step | 410 ns | 0.002 % of the period |
| resolution | 50000 steps | 15.6 bit |

### because

mode up: edge-aligned, counting up, PWM mode 1; divided by 41

assumed: CR1.CMS=0 (edge-aligned), CR1.DIR=0 (counts up)

### findings

- **divider-off-by-one** (error): PSC=40 divides by 41, and the frequency is 48.7805 Hz; with PSC=39 it is 50 Hz. Remedy: write PSC=39.

"#]]
    );
}

#[test]
fn csv_has_a_row_for_each_setting_and_channel() {
    let text =
        run("derive --on stm32f411/tim3 --clock 100MHz --freq 50Hz --pulse 1500us --duty 50% --format csv")
            .stdout;
    let mut reader = csv::Reader::from_reader(text.as_bytes());
    let header = reader.headers().unwrap().clone();
    let rows: Vec<csv::StringRecord> = reader.records().map(Result::unwrap).collect();
    let cell = |row: usize, name: &str| {
        rows[row][header.iter().position(|column| column == name).unwrap()].to_owned()
    };
    assert_eq!(
        (cell(0, "rank"), cell(0, "channel"), cell(0, "pulse_s")),
        ("1".into(), "1".into(), "0.0015".into())
    );
    assert_eq!(
        (cell(1, "rank"), cell(1, "channel"), cell(1, "duty")),
        ("1".into(), "2".into(), "0.5".into())
    );
    assert!(cell(0, "registers").starts_with("PSC=39 ARR=49999 CCR1=3750 CCR2=25000 "));
    assert_eq!(cell(2, "rank"), "2");
}

#[test]
fn every_page_of_the_catalogue_fits_the_terminal() {
    let list = json("parts");
    for part in list["parts"].as_array().unwrap() {
        let timers =
            part["timers"].as_array().unwrap().iter().map(|timer| format!("/{}", timer.as_str().unwrap()));
        for timer in timers.chain([String::new()]) {
            let run = run(&format!("parts {}{timer}", part["part"].as_str().unwrap()));
            assert!(run.code == 0 && run.stderr.is_empty(), "{run:?}");
            let wide = run.stdout.lines().find(|line| line.chars().count() > 100);
            assert_eq!(wide, None, "{timer}");
        }
    }
}

#[test]
fn every_command_speaks_every_format() {
    let lines = [
        "parts",
        "parts rp2040",
        "parts samd21g18/tc4",
        DERIVE,
        "derive --on rp2040/slice0 --tick 3us --within 50%",
        "decode --on atmega328p/timer0 TCCR0A=0x83 TCCR0B=3 OCR0A=127",
        "tach --on stm32f411/tim9 --pulses-per-turn 2 --speed-range 300rpm..3000rpm",
        "tach ../../demo/fan.vcd --pulses-per-turn 2",
        "budget --board ../../demo/dome.toml --signal shutter",
        "clock --on stm32f411/tim3 --source 12MHz --reach 96MHz",
        "survey --freq 25kHz --duty 35% --part stm32f411",
        "measure ../../demo/night.vcd --board ../../demo/dome.toml",
        "demo",
    ];
    for line in lines {
        let text = run(line).stdout;
        let wide = text
            .lines()
            .find(|line| line.chars().count() > 100 && !line.trim_start().starts_with("kairotic "));
        assert_eq!(wide, None, "{line}");
        assert!(!json(line).is_null(), "{line}");
        assert!(run(&format!("{line} --format markdown")).stdout.contains("| --- |"), "{line}");
        let csv = run(&format!("{line} --format csv")).stdout;
        let mut reader = csv::Reader::from_reader(csv.as_bytes());
        let header = reader.headers().unwrap().clone();
        let rows: Vec<csv::StringRecord> = reader.records().map(Result::unwrap).collect();
        assert!(!rows.is_empty(), "{line}");
        let units = ["_s", "_hz", "_deg", "_rpm", "_error", "duty"];
        for (column, cell) in rows.iter().flat_map(|row| header.iter().zip(row)) {
            let is_figure = units.iter().any(|unit| column.ends_with(unit)) && !cell.is_empty();
            assert!(!is_figure || cell.parse::<f64>().is_ok(), "{line}: {column} is {cell}");
        }
    }
}

#[test]
fn colour_is_for_those_who_ask() {
    let coloured = |extra: &str, variables: &[(&str, &str)]| {
        let line = format!("{DERIVE}{extra}");
        run_words(line.split(' '), Path::new("."), variables).stdout.contains('\u{1b}')
    };
    assert!(!coloured("", &[]), "a pipe is no terminal");
    assert!(coloured(" --color always", &[]));
    assert!(coloured(" --color always", &[("NO_COLOR", "1")]), "what is asked for on the line counts");
    assert!(!coloured(" --color never", &[("CLICOLOR_FORCE", "1")]));
    assert!(!coloured(" --color auto", &[("NO_COLOR", "1"), ("CLICOLOR_FORCE", "1")]));
}

#[test]
fn completions_and_manual_pages_name_every_command() {
    for shell in ["bash", "zsh", "fish", "elvish", "powershell"] {
        let script = run(&format!("completions {shell}")).stdout;
        assert!(script.contains("derive") && script.contains("allow-overclock"), "{shell}");
    }
    let page = run("manual").stdout;
    for command in ["derive", "decode", "parts", "demo"] {
        assert!(page.contains(command), "{command}");
        assert!(run(&format!("manual {command}")).stdout.starts_with(".ie"), "{command}");
    }
    assert!(run("manual derive").stdout.contains("allow\\-overclock"));
}

//! `demo`: a short tour on the controller of an observatory dome, each command before its output.

use std::collections::BTreeMap;
use std::fs;
use std::io::Write as _;
use std::path::Path;

use clap::Parser;
use serde::Serialize;
use serde_json::value::RawValue;

use crate::arguments::demo::DemoArgs;
use crate::arguments::{Cli, Common, Format};
use crate::fault::{Fault, Result};
use crate::format::{envelope, of_files_only};
use crate::part_library::PartLibrary;

/// One stop of the tour.
struct TourStop {
    why: &'static str,
    line: &'static str,
}

/// The files of the tour, as they stand in the repository.
const FILES: &[(&str, &[u8])] = &[
    ("dome.toml", include_bytes!("../../../../demo/dome.toml")),
    ("night.vcd", include_bytes!("../../../../demo/night.vcd")),
    ("fan.vcd", include_bytes!("../../../../demo/fan.vcd")),
    ("software.csv", include_bytes!("../../../../demo/software.csv")),
    ("timer.txt", include_bytes!("../../../../demo/timer.txt")),
    ("generated/dome.h", include_bytes!("../../../../demo/generated/dome.h")),
    ("generated/dome.c", include_bytes!("../../../../demo/generated/dome.c")),
    ("generated/dome_opens.h", include_bytes!("../../../../demo/generated/dome_opens.h")),
    ("generated/dome_opens.c", include_bytes!("../../../../demo/generated/dome_opens.c")),
];

const TOUR: &[TourStop] = &[
    TourStop {
        why: "The shutter has a servo: 900 us is closed, 2100 us is open. How many positions are there between?",
        line: "derive --on stm32f411/tim3 --clock 100MHz+-30ppm --freq 50Hz --span 900us..2100us --pulse 1500us",
    },
    TourStop {
        why: "The dome turns on a DC motor. Its driver likes 25 kHz; here is the arithmetic as well.",
        line: "derive --on samd21g18/tcc0 --clock 48MHz --freq 25kHz --duty 35% --explain",
    },
    TourStop {
        why: "Two lamps, one red for the night and one white, dimmed on one timer without a glow at 0 %.",
        line: "derive --on atmega328p/timer1 --clock 16MHz --freq 1kHz --duty a=0% --duty b=60% --mode centre",
    },
    TourStop {
        why: "The dew heater's fan wants a frequency that the clock does not divide.",
        line: "derive --on rp2040/slice0 --clock 125MHz --freq 21kHz --duty 40%",
    },
    TourStop {
        why: "The focuser's stepper needs a time base that counts microseconds.",
        line: "derive --on stm32f411/tim2 --clock 100MHz --tick 1us",
    },
    TourStop {
        why: "A board file says all that at once, in the units of what is driven. The shutter, 45 degrees open:",
        line: "derive --board dome.toml --signal shutter",
    },
    TourStop {
        why: "What has to be written between reset and the moving shutter, in which order?",
        line: "derive --board dome.toml --signal shutter --from-reset",
    },
    TourStop {
        why: "Last night the shutter was slow. A debugger shows what the firmware left in its timer:",
        line: "decode --on stm32f411/tim3 --clock 96MHz --dump timer.txt --expect 50Hz",
    },
    TourStop {
        why: "The vent has a 9 V motor on the 24 V supply: 60 % throttle must not be 60 % duty.",
        line: "derive --board dome.toml --signal vent",
    },
    TourStop {
        why: "The flat-field lamp, a quarter as bright as the eye sees it.",
        line: "derive --board dome.toml --signal flat-field",
    },
    TourStop {
        why: "The slit has a stepper behind a gear. How does it get to 85 degrees in two seconds?",
        line: "move --board dome.toml --signal slit --to 85deg --in 2s",
    },
    TourStop {
        why: "In the evening the dome opens: controller armed, shutter and vent together, then the slit.",
        line: "sequence opens --board dome.toml",
    },
    TourStop {
        why: "What is the error budget of the shutter, and is that good enough?",
        line: "budget --board dome.toml --signal shutter",
    },
    TourStop {
        why: "All seven signals at once, as for every commit: is each in its place, made, and as good as required?",
        line: "check dome.toml",
    },
    TourStop {
        why: "The firmware has code that emit made of that board. Is it still what would be made?",
        line: "check dome.toml --against generated",
    },
    TourStop { why: "What was that about, and what can be done?", line: "why code-differs" },
    TourStop {
        why: "Which of these chips would give the shutter the most positions?",
        line: "survey --freq 50Hz --span 900us..2100us --part stm32f4* --part rp2040 --part pca9685 --clock max",
    },
    TourStop {
        why: "The bell at the door wants 44.1 kHz exactly. Which clock lets the timer make it?",
        line: "clock --on stm32f411/tim3 --source 12MHz --reach-pwm 44.1kHz",
    },
    TourStop {
        why: "The old firmware moved the shutter's servo, but not quite as it should. What do its registers make?",
        line: "decode --on stm32f411/tim3 --clock 100MHz PSC=40 ARR=50000 CCR1=3750 --expect 50Hz",
    },
    TourStop {
        why: "A recorder watched the pins for a tenth of a second. Is it what was asked for, and if not, why?",
        line: "measure night.vcd --board dome.toml --signals shutter,vent --recorder 100MHz+-20ppm --fit-clock",
    },
    TourStop {
        why: "The first firmware timed the shutter's pulse in software.",
        line: "measure software.csv --board dome.toml --signal shutter",
    },
    TourStop {
        why: "The camera's fan gives two pulses per revolution: how does a spare timer measure its speed best?",
        line: "tach --on stm32f411/tim9 --board dome.toml --signal camera-fan --speed-range 300rpm..3000rpm",
    },
    TourStop {
        why: "A recorder watched the fan. Does it turn as fast as it should, and all the time?",
        line: "tach fan.vcd --board dome.toml --signal camera-fan",
    },
];

pub(super) fn run(
    arguments: &DemoArgs,
    common: &Common,
    catalogue: &PartLibrary,
    coloured: bool,
) -> Result<String> {
    if let Some(folder) = &arguments.save {
        return save(folder);
    }
    let catalogue = &catalogue.bringing(FILES);
    let mut stops = Vec::new();
    for stop in TOUR {
        stops.push((stop, output(stop, common, catalogue, coloured)?));
    }
    match common.format {
        Format::Text => Ok(told(&stops, "", "\n\n")),
        Format::Markdown => Ok(told(&stops, "# The controller of an observatory dome\n\n", "\n")),
        Format::Csv => Ok(rows(&stops)),
        Format::Sarif | Format::Junit => Err(of_files_only(common.format)),
        Format::Json => {
            let stops = stops.iter().map(|(TourStop { why, line }, output)| {
                let answer = RawValue::from_string(output.trim_end().to_owned())?;
                Ok(StopView { why, run: format!("kairotic {line}"), answer })
            });
            let stops = stops.collect::<Result<Vec<StopView>, serde_json::Error>>()?;
            Ok(envelope("demo", BTreeMap::from([("stops", stops)]), &[])? + "\n")
        }
    }
}

/// Saves the files of the tour, and says so. What is there already is left alone.
fn save(folder: &Path) -> Result<String> {
    let fault = |path: &Path, error| Fault::Save { path: path.to_owned(), error };
    fs::create_dir_all(folder).map_err(|error| fault(folder, error))?;
    let mut told = String::new();
    for (name, bytes) in FILES {
        let path = folder.join(name);
        let parent = path.parent().unwrap_or(folder);
        fs::create_dir_all(parent).map_err(|error| fault(parent, error))?;
        let mut file = fs::File::create_new(&path).map_err(|error| fault(&path, error))?;
        if let Err(error) = file.write_all(bytes) {
            // No file is left half written; that it cannot be removed either changes nothing about the error.
            let _ = fs::remove_file(&path);
            return Err(fault(&path, error));
        }
        told.push_str(&format!("saved    {}\n", path.display()));
    }
    Ok(told)
}

/// Runs the line of a stop as if it had been typed.
fn output(stop: &TourStop, common: &Common, catalogue: &PartLibrary, coloured: bool) -> Result<String> {
    let words = std::iter::once("kairotic").chain(stop.line.split(' '));
    let cli = Cli::try_parse_from(words).map_err(|error| Fault::Usage {
        message: format!("the tour's own line `{}` is refused: {error}", stop.line),
        hint: String::new(),
    })?;
    Ok(super::run(&cli, catalogue, coloured)?.output(common.format, coloured)?.into_owned())
}

fn told(stops: &[(&TourStop, String)], title: &str, gap: &str) -> String {
    let mut out = title.to_owned();
    for (index, (TourStop { why, line }, output)) in stops.iter().enumerate() {
        if index > 0 {
            out.push_str(gap);
        }
        out.push_str(&format!("{why}\n\n    kairotic {line}\n\n{output}"));
    }
    out
}

/// The settings of all stops under one header, each with the line that made it. Stops with other columns, those that
/// show no setting of one timer, are left out: a table has one header.
fn rows(stops: &[(&TourStop, String)]) -> String {
    let mut out = String::new();
    for (TourStop { line, .. }, output) in stops {
        let mut lines = output.lines();
        let header = format!("run,{}\n", lines.next().unwrap_or_default());
        if out.is_empty() {
            out.push_str(&header);
        }
        if !out.starts_with(&header) {
            continue;
        }
        out.extend(lines.map(|row| format!("kairotic {line},{row}\n")));
    }
    out
}

#[derive(Serialize)]
struct StopView {
    why: &'static str,
    run: String,
    answer: Box<RawValue>,
}

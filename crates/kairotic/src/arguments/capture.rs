//! How a capture is read: which signals, and what its file does not say.

use clap::{Args, ValueEnum};
use kairotic_core::quantity::{Deviation, Frequency, FrequencyDimension, Time, TimeDimension, Tolerance};
use kairotic_formats::capture::TableHints;

use super::typed::{Refusal, clock, positive};

/// How a capture is read.
#[derive(Debug, Args)]
pub struct CaptureOptions {
    /// The signals to measure, by name or pattern, with commas between; all of them where none is named
    #[arg(long, value_name = "NAMES", value_delimiter = ',', help_heading = "Capture")]
    pub signals: Vec<String>,
    /// Ignore pulses shorter than this
    #[arg(long, value_name = "TIME", help_heading = "Capture", value_parser = positive::<TimeDimension>)]
    pub glitch: Option<Time>,
    /// Sample rate, where the file does not say, and how far the recorder's clock may be off: 24MHz+-50ppm
    #[arg(long, value_name = "FREQUENCY[+-PPM]", help_heading = "Capture", value_parser = clock)]
    pub recorder: Option<Tolerance<Frequency>>,
    /// Sample rate of a table with one sample per row
    #[arg(long, value_name = "FREQUENCY", help_heading = "Table", value_parser = positive::<FrequencyDimension>)]
    rate: Option<Frequency>,
    /// The column with the times, by name or by number
    #[arg(long, value_name = "COLUMN", help_heading = "Table", conflicts_with = "rate")]
    time_column: Option<String>,
    /// The unit of the times
    #[arg(long, value_name = "UNIT", value_enum, help_heading = "Table")]
    time_unit: Option<TimeUnit>,
    /// Column separator: one character, or tab
    #[arg(long, value_name = "CHARACTER", help_heading = "Table", value_parser = separator)]
    separator: Option<u8>,
    /// Analogue columns are low up to the first and high from the second, in their own unit: 0.8..2.0
    #[arg(long, value_name = "LOW..HIGH", allow_hyphen_values = true, help_heading = "Table", value_parser = thresholds)]
    threshold: Option<(i64, i64)>,
}

impl CaptureOptions {
    /// How far the recorder's clock may be off, where it is said.
    pub fn accuracy(&self) -> Option<Deviation> {
        let told = self.recorder.map(|told| told.deviation);
        told.filter(|deviation| *deviation > Deviation::ZERO)
    }

    /// What is said of a table.
    pub fn hints(&self) -> TableHints {
        let time_power = self.time_unit.map(|unit| match unit {
            TimeUnit::S => 0,
            TimeUnit::Ms => -3,
            TimeUnit::Us => -6,
            TimeUnit::Ns => -9,
            TimeUnit::Ps => -12,
        });
        TableHints {
            rate: self.rate,
            time_column: self.time_column.clone(),
            time_power,
            separator: self.separator,
            thresholds: self.threshold,
        }
    }
}

/// The unit of a column of times.
#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
enum TimeUnit {
    S,
    Ms,
    Us,
    Ns,
    Ps,
}

/// One character, or the word for a tabulator.
fn separator(text: &str) -> Result<u8, Refusal> {
    match (text, text.as_bytes()) {
        ("tab", _) => Ok(b'\t'),
        (_, [byte]) => Ok(*byte),
        _ => Err(Refusal::new(
            format!("expected one character, found `{text}`"),
            "for example --separator ';' or --separator tab",
        )),
    }
}

/// Two levels, in billionths.
fn thresholds(text: &str) -> Result<(i64, i64), Refusal> {
    let wrong = || {
        Refusal::new(
            format!("expected two rising levels with two dots, found `{text}`"),
            "for example --threshold 0.8..2.0",
        )
    };
    let (low, high) = text.split_once("..").ok_or_else(wrong)?;
    let level = |text: &str| {
        let value = text.trim().trim_end_matches('V').trim().parse::<f64>().ok();
        value.filter(|value| value.abs() < 1e9).map(|value| (value * 1e9).round() as i64)
    };
    level(low).zip(level(high)).filter(|(low, high)| low <= high).ok_or_else(wrong)
}

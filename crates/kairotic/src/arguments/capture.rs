//! How a capture is read: which signals, and what its file does not say.

use clap::Args;
use kairotic_core::quantity::{Deviation, Frequency, Time, Tolerance, parse};
use kairotic_formats::capture::TableHints;

use super::quantities::read;
use crate::fault::{Fault, Result};

/// How a capture is read.
#[derive(Debug, Args)]
pub struct CaptureOptions {
    /// The signals to measure, by name or pattern, with commas between; all of them where none is named
    #[arg(long, value_name = "NAMES", value_delimiter = ',', help_heading = "Capture")]
    pub signals: Vec<String>,
    /// Ignore pulses shorter than this
    #[arg(long, value_name = "TIME", help_heading = "Capture")]
    glitch: Option<String>,
    /// Samples a second and how far the recorder's clock is off, where the file does not say: 24MHz+-50ppm
    #[arg(long, value_name = "FREQUENCY[+-PPM]", help_heading = "Capture")]
    recorder: Option<String>,
    /// Samples a second of a table with a sample a row
    #[arg(long, value_name = "FREQUENCY", help_heading = "Table")]
    rate: Option<String>,
    /// The column with the times, by name or by number
    #[arg(long, value_name = "COLUMN", help_heading = "Table", conflicts_with = "rate")]
    time_column: Option<String>,
    /// The unit of the times
    #[arg(long, value_name = "UNIT", value_parser = ["s", "ms", "us", "ns", "ps"], help_heading = "Table")]
    time_unit: Option<String>,
    /// What stands between cells: one character, or tab
    #[arg(long, value_name = "CHARACTER", help_heading = "Table")]
    separator: Option<String>,
    /// Analogue columns are low up to the first and high from the second, in their own unit: 0.8..2.0
    #[arg(long, value_name = "LOW..HIGH", allow_hyphen_values = true, help_heading = "Table")]
    threshold: Option<String>,
}

impl CaptureOptions {
    /// Pulses that are shorter are none.
    ///
    /// # Errors
    /// [`Fault::Option`].
    pub fn glitch(&self) -> Result<Option<Time>> {
        let text = self.glitch.as_ref();
        text.map(|text| read("glitch", text, |text| parse::quantity(text)?.positive())).transpose()
    }

    /// What is said of the recorder.
    ///
    /// # Errors
    /// [`Fault::Option`].
    pub fn recorder(&self) -> Result<Option<Tolerance<Frequency>>> {
        let Some(text) = &self.recorder else { return Ok(None) };
        let told: Tolerance<Frequency> = read("recorder", text, parse::tolerance)?;
        read("recorder", text, |_| told.nominal.positive())?;
        Ok(Some(told))
    }

    /// How far the recorder's clock may be off, where it is said.
    ///
    /// # Errors
    /// [`Fault::Option`].
    pub fn accuracy(&self) -> Result<Option<Deviation>> {
        let told = self.recorder()?.map(|told| told.deviation);
        Ok(told.filter(|deviation| *deviation > Deviation::ZERO))
    }

    /// What is said of a table.
    ///
    /// # Errors
    /// [`Fault`] for texts that are none of what they should be.
    pub fn hints(&self) -> Result<TableHints> {
        let rate = self.rate.as_ref();
        let rate =
            rate.map(|text| read("rate", text, |text| parse::quantity(text)?.positive())).transpose()?;
        let time_power = self.time_unit.as_deref().map(|unit| match unit {
            "ms" => -3,
            "us" => -6,
            "ns" => -9,
            "ps" => -12,
            _ => 0,
        });
        let separator = match self.separator.as_deref() {
            None => None,
            Some("tab") => Some(b'\t'),
            Some(text) => match text.as_bytes() {
                [byte] => Some(*byte),
                _ => {
                    return Err(Fault::Usage {
                        message: format!("--separator: expected one character, found `{text}`"),
                        hint: "for example --separator ';' or --separator tab".to_owned(),
                    });
                }
            },
        };
        let thresholds = self.threshold.as_deref().map(thresholds).transpose()?;
        Ok(TableHints { rate, time_column: self.time_column.clone(), time_power, separator, thresholds })
    }
}

/// Two levels, in billionths.
fn thresholds(text: &str) -> Result<(i64, i64)> {
    let wrong = || Fault::Usage {
        message: format!("--threshold: expected two rising levels with two dots, found `{text}`"),
        hint: "for example --threshold 0.8..2.0".to_owned(),
    };
    let (low, high) = text.split_once("..").ok_or_else(wrong)?;
    let level = |text: &str| {
        let value = text.trim().trim_end_matches('V').trim().parse::<f64>().ok();
        value.filter(|value| value.abs() < 1e9).map(|value| (value * 1e9).round() as i64)
    };
    level(low).zip(level(high)).filter(|(low, high)| low <= high).ok_or_else(wrong)
}

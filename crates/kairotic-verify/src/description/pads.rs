//! What the pads of an i.MX RT can carry, as macro calls: `pwm!(module: U1, submodule: U0, alt: 1, pad: GPIO_EMC_23, output: A, …);`.

use std::collections::BTreeMap;
use std::fs;
use std::path::Path;

use anyhow::{Context as _, Result};

use super::DescribedPin;

/// The pads in a file.
///
/// # Errors
/// A file that is missing.
pub fn read(path: &Path) -> Result<Vec<DescribedPin>> {
    let text = fs::read_to_string(path).with_context(|| path.display().to_string())?;
    Ok(text.lines().filter_map(|line| pad(line.trim().strip_prefix("pwm!(")?)).collect())
}

fn pad(arguments: &str) -> Option<DescribedPin> {
    let all: BTreeMap<&str, &str> = arguments
        .split(',')
        .filter_map(|argument| argument.split_once(':'))
        .map(|(name, value)| (name.trim(), value.trim()))
        .collect();
    let unit = |name: &str| all.get(name)?.strip_prefix('U');
    Some(DescribedPin {
        peripheral: format!("pwm{}-{}", unit("module")?, unit("submodule")?),
        pin: (*all.get("pad")?).to_owned(),
        signal: (*all.get("output")?).to_owned(),
        code: all.get("alt").map(|alt| format!("ALT{alt}")),
    })
}

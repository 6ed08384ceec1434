//! Lists of pins in drivers, most of them handed to macros, in the forms that are met:
//! `Pwm0: (0, [Gpio0, Gpio1], 0),`, where even pins have output A and odd ones B;
//! `TIMER0, NoRemap: [ ch0: PA8, ch1: PA9 ],`; and `timer0, …, even: [gpiob::PB6, gpiof::PF0], odd: [gpiob::PB7]`, whose halves are timers
//! of their own; and in words, `//! - Channel 2: Pin 21 IOF1` below `//! # PWM1`.

use std::fs;
use std::path::Path;

use anyhow::{Context as _, Result};

use super::{DescribedPin, PackageDescription};

/// The pins in a driver's file.
///
/// # Errors
/// A file that is missing.
pub fn read(path: &Path) -> Result<PackageDescription> {
    let text = fs::read_to_string(path).with_context(|| path.display().to_string())?;
    let mut pins = Vec::new();
    let mut timer = String::new();
    for line in text.lines().map(str::trim) {
        let name = line.trim_end_matches(',').to_lowercase();
        if name.strip_prefix("timer").is_some_and(|number| number.parse::<u8>().is_ok()) {
            timer = name;
            continue;
        }
        if let Some(title) = line.strip_prefix("//! # ") {
            timer = title.split(' ').next().unwrap_or_default().to_lowercase();
        }
        pins.extend(worded_pin(&timer, line));
        let Some((head, listed)) = line.split_once('[') else { continue };
        let listed = listed.split(']').next().unwrap_or_default().split(',').map(str::trim);
        let head = head.split(':').next().unwrap_or_default();
        pins.extend(listed.filter_map(|of| listed_pin(&timer, head, of)));
    }
    Ok(PackageDescription { pins, ..PackageDescription::default() })
}

/// What a line of the documentation says.
fn worded_pin(timer: &str, line: &str) -> Option<DescribedPin> {
    let (channel, rest) = line.strip_prefix("//! - Channel ")?.split_once(": Pin ")?;
    let (number, code) = rest.split_once(' ')?;
    let pin = format!("GPIO{number}");
    let (signal, code) = (channel.to_owned(), Some(code.to_owned()));
    Some(DescribedPin { peripheral: timer.to_owned(), pin, signal, code })
}

/// What a list's head and one of its words say.
fn listed_pin(timer: &str, head: &str, word: &str) -> Option<DescribedPin> {
    let number = |text: &str, before: &str| text.strip_prefix(before)?.parse::<u32>().ok();
    let last = word.rsplit(':').next()?.trim();
    let (peripheral, pin, signal) = match head {
        "NoRemap" => (timer.to_owned(), last.to_owned(), number(word.split(':').next()?, "ch")?.to_string()),
        "even" => (format!("{timer}a"), last.to_owned(), "0".to_owned()),
        "odd" => (format!("{timer}b"), last.to_owned(), "1".to_owned()),
        _ => {
            let pin = number(word, "Gpio")?;
            let signal = if pin % 2 == 0 { "a" } else { "b" };
            (format!("slice{}", number(head, "Pwm")?), format!("GPIO{pin}"), signal.to_owned())
        }
    };
    Some(DescribedPin { peripheral, pin, signal, code: None })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn lists_of_drivers_say_what_comes_out_where() {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("pwm.rs");
        fs::write(
            &path,
            "//! # PWM1 - 16 bit
            //! - Channel 2: Pin 21 IOF1
            Pwm7: (7, [Gpio14, Gpio15], 7)
            pwm_pin! {
                TIMER1,
                    NoRemap: [ ch0: PA0, ch1: PA1 ],
                    FullRemap: [ ch0: PA15, ch1: PB3 ],
            }
            impl_for_timer!(
                timer4,
                even: [gpioc::PC0],
                odd: [gpioc::PC1]
            );
            let other: [u8; 4] = [0; 4];",
        )
        .unwrap();
        let found = read(&path).unwrap();
        let seen: Vec<String> =
            found.pins.iter().map(|of| format!("{}/{} {}", of.peripheral, of.signal, of.pin)).collect();
        let listed = [
            "pwm1/2 GPIO21",
            "slice7/a GPIO14",
            "slice7/b GPIO15",
            "timer1/0 PA0",
            "timer1/1 PA1",
            "timer4a/0 PC0",
            "timer4b/1 PC1",
        ];
        assert_eq!(seen, listed);
    }
}

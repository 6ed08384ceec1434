//! Which lines of a four-wire drive are on, step by step.

use serde::Serialize;

use crate::load::PhaseMode;

impl PhaseMode {
    /// The lines that are on, a bit each beginning with the first line, for step after step towards larger angles; then it
    /// begins anew.
    pub const fn patterns(self) -> &'static [u8] {
        match self {
            Self::Wave => &[0b0001, 0b0010, 0b0100, 0b1000],
            Self::Full => &[0b0011, 0b0110, 0b1100, 0b1001],
            Self::Half => &[0b0001, 0b0011, 0b0010, 0b0110, 0b0100, 0b1100, 0b1000, 0b1001],
        }
    }
}

/// What a step does to the port that has all four lines.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct PortWords {
    /// The port: what the names of its pins begin with.
    pub port: String,
    /// The bits to set, for step after step.
    pub set: Vec<u32>,
    /// The bits to clear, for step after step.
    pub clear: Vec<u32>,
}

impl PortWords {
    /// The words for lines on these pins, in their order; `None` where they are not all on one port of at most 32 pins.
    pub fn of(mode: PhaseMode, pins: &[String]) -> Option<Self> {
        let parted = pins.iter().map(|pin| parted(pin)).collect::<Option<Vec<_>>>()?;
        let (port, _) = *parted.first()?;
        if parted.iter().any(|(other, bit)| *other != port || *bit >= u32::BITS) {
            return None;
        }
        let word = |pattern: u8| {
            let lines = (0_u32..).zip(&parted).filter(|(line, _)| pattern >> line & 1 == 1);
            lines.fold(0_u32, |word, (_, (_, bit))| word | 1 << bit)
        };
        let all = word(u8::MAX);
        let set: Vec<u32> = mode.patterns().iter().map(|pattern| word(*pattern)).collect();
        let clear = set.iter().map(|set| all & !set).collect();
        Some(Self { port: port.to_owned(), set, clear })
    }
}

/// What a pin's name begins with, and the number at its end.
fn parted(pin: &str) -> Option<(&str, u32)> {
    let letters = pin.trim_end_matches(|letter: char| letter.is_ascii_digit());
    let number = pin.get(letters.len()..)?.parse().ok()?;
    Some((letters, number))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_step_changes_as_many_lines_as_its_mode_says() {
        for (mode, on) in [(PhaseMode::Wave, 1..=1), (PhaseMode::Full, 2..=2), (PhaseMode::Half, 1..=2)] {
            let patterns = mode.patterns();
            for (index, pattern) in patterns.iter().enumerate() {
                assert!(on.contains(&pattern.count_ones()));
                let next = patterns[(index + 1) % patterns.len()];
                let changes = (pattern ^ next).count_ones();
                assert_eq!(changes, if mode == PhaseMode::Half { 1 } else { 2 });
            }
            // Every pattern once, and the lines that are opposite are never on together.
            assert!(patterns.iter().all(|one| patterns.iter().filter(|other| one == *other).count() == 1));
            assert!(patterns.iter().all(|pattern| pattern & (pattern >> 2) & 0b11 == 0));
        }
    }

    #[test]
    fn port_words_hold_the_bits_of_the_pins_in_the_order_of_the_lines() {
        let pins = |names: [&str; 4]| names.map(str::to_owned);
        let words = PortWords::of(PhaseMode::Full, &pins(["PB12", "PB3", "PB14", "PB15"])).unwrap();
        assert_eq!(words.port, "PB");
        assert_eq!(words.set, [1 << 12 | 1 << 3, 1 << 3 | 1 << 14, 1 << 14 | 1 << 15, 1 << 15 | 1 << 12]);
        let all = 1 << 12 | 1 << 3 | 1 << 14 | 1 << 15;
        assert!(words.set.iter().zip(&words.clear).all(|(set, clear)| set ^ clear == all));
        assert_eq!(PortWords::of(PhaseMode::Full, &pins(["PB12", "PA3", "PB14", "PB15"])), None);
        assert_eq!(PortWords::of(PhaseMode::Full, &pins(["PB12", "PB32", "PB14", "PB15"])), None);
        assert_eq!(
            PortWords::of(PhaseMode::Wave, &pins(["P0.13", "P0.1", "P0.2", "P0.31"])).unwrap().set[3],
            1 << 31
        );
    }
}

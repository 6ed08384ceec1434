//! What a timer has, in words that a part can be looked for with.

use std::fmt;
use std::str::FromStr;

use serde::{Serialize, Serializer};

use super::law::{Alignment, UpdatePoint};
use super::{Mode, Timer};
use crate::error::Error;

/// Something that a timer has.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Ability {
    /// A counter of at least so many bits.
    Bits(u32),
    /// Complementary outputs that are both off for a while between one and the other.
    DeadTime,
    /// A counter that counts up and down.
    Centre,
    /// Edges that latch the counter.
    Capture,
    /// Pulses that clock the counter.
    Count,
    /// Pulses that are longer in some periods than in others.
    Dither,
    /// Compare values that take effect together with the next period.
    Buffered,
}

impl Ability {
    /// The words without a number.
    const WORDS: [(&'static str, Self); 6] = [
        ("dead time", Self::DeadTime),
        ("centre", Self::Centre),
        ("capture", Self::Capture),
        ("count", Self::Count),
        ("dither", Self::Dither),
        ("buffered", Self::Buffered),
    ];

    /// All words, for messages.
    pub fn words() -> String {
        let words: Vec<&str> = std::iter::once("32 bit").chain(Self::WORDS.map(|(word, _)| word)).collect();
        words.join(", ")
    }
}

impl FromStr for Ability {
    type Err = Error;

    /// # Errors
    /// [`Error::UnknownName`] with the nearest words.
    fn from_str(text: &str) -> Result<Self, Error> {
        let wanted = text.trim().to_lowercase().replace('-', " ");
        let bits = wanted.strip_suffix("bits").or_else(|| wanted.strip_suffix("bit"));
        if let Some(bits) =
            bits.and_then(|bits| bits.trim().parse().ok()).filter(|bits| (1..=64).contains(bits))
        {
            return Ok(Self::Bits(bits));
        }
        let known = Self::WORDS.iter().find(|(word, _)| *word == wanted).map(|(_, ability)| *ability);
        known.ok_or_else(|| {
            let words = std::iter::once("32 bit").chain(Self::WORDS.iter().map(|(word, _)| *word));
            Error::unknown("ability", text, "a timer", words)
        })
    }
}

impl fmt::Display for Ability {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Bits(bits) => write!(f, "{bits} bit"),
            other => f.write_str(
                Self::WORDS.iter().find(|(_, ability)| ability == other).map_or("", |(word, _)| *word),
            ),
        }
    }
}

impl Serialize for Ability {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        serializer.collect_str(self)
    }
}

impl Timer {
    /// Whether it has that, in any of its modes.
    pub fn can(&self, ability: Ability) -> bool {
        let block = &self.block;
        let modes = |fits: fn(&Mode) -> bool| block.modes.iter().any(fits);
        match ability {
            Ability::Bits(bits) => block.counter_bits >= bits,
            Ability::DeadTime => self.dead_time.is_some(),
            Ability::Centre => modes(|mode| mode.alignment == Alignment::Centre),
            Ability::Capture => block.inputs.as_ref().is_some_and(|inputs| inputs.capture),
            Ability::Count => block.inputs.as_ref().is_some_and(|inputs| inputs.count),
            Ability::Dither => modes(|mode| mode.dither.is_some()),
            Ability::Buffered => modes(|mode| mode.updates.compare != UpdatePoint::Immediate),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn words_come_back() {
        for text in ["32 bit", "dead time", "centre", "capture", "count", "dither", "buffered"] {
            assert_eq!(text.parse::<Ability>().unwrap().to_string(), text);
        }
        assert_eq!("16-bit".parse(), Ok(Ability::Bits(16)));
        assert_eq!("Dead-Time".parse(), Ok(Ability::DeadTime));
        for wrong in ["0 bit", "65 bit", "bit", "", "dead"] {
            assert!(wrong.parse::<Ability>().is_err(), "{wrong}");
        }
    }
}

//! The texts of a board file that are no plain quantities.

use kairotic_core::board::Consumer;
use kairotic_core::clock::{Bus, SourceAsk};
use kairotic_core::load::{KINDS, KindEntry, LoadKey, Stepper};
use kairotic_core::part::Assignment;
use kairotic_core::sequence::LevelShape;
use kairotic_core::target::{Aim, Level, Span};

use super::given::{FromText, complaint};

/// A word of a few, with what it stands for.
fn one_of<T: Copy>(text: &str, words: &[(&str, T)]) -> Result<T, String> {
    words.iter().find(|(word, _)| *word == text).map(|(_, value)| *value).ok_or_else(|| {
        let known: Vec<&str> = words.iter().map(|(word, _)| *word).collect();
        format!("expected {}, found `{text}`", known.join(", "))
    })
}

/// What a load is: something that a signal holds at a level, or something that is moved by steps.
#[derive(Debug, Clone, Copy)]
pub(super) enum LoadWord {
    Levelled(&'static KindEntry),
    Stepper,
}

impl LoadWord {
    /// Every kind.
    pub(super) fn all() -> impl Iterator<Item = Self> {
        KINDS.iter().map(|kind| Self::Levelled(kind)).chain([Self::Stepper])
    }

    /// The word for it.
    pub(super) const fn word(self) -> &'static str {
        match self {
            Self::Levelled(entry) => entry.word,
            Self::Stepper => Stepper::WORD,
        }
    }

    /// The keys of its own.
    pub(super) const fn keys(self) -> &'static [LoadKey] {
        match self {
            Self::Levelled(entry) => entry.keys,
            Self::Stepper => Stepper::KEYS,
        }
    }
}

impl FromText for LoadWord {
    fn from_text(text: &str) -> Result<Self, String> {
        let words: Vec<(&str, Self)> = Self::all().map(|kind| (kind.word(), kind)).collect();
        one_of(text, &words)
    }
}

impl FromText for Level {
    fn from_text(text: &str) -> Result<Self, String> {
        one_of(text, &[("high", Self::High), ("low", Self::Low)])
    }
}

/// What takes a signal, before it is known what a regulator makes of it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum ConsumerWord {
    Regulator,
    Other(Consumer),
}

impl FromText for ConsumerWord {
    fn from_text(text: &str) -> Result<Self, String> {
        let words = [
            ("fan", Self::Other(Consumer::Fan)),
            ("leds", Self::Other(Consumer::Leds)),
            ("backlight", Self::Other(Consumer::Backlight)),
            ("beeper", Self::Other(Consumer::Beeper)),
            ("regulator", Self::Regulator),
            ("plain", Self::Other(Consumer::Plain)),
        ];
        one_of(text, &words)
    }
}

impl FromText for LevelShape {
    fn from_text(text: &str) -> Result<Self, String> {
        let words = [Self::Linear, Self::Smooth].map(|shape| (shape.word(), shape));
        one_of(text, &words)
    }
}

/// What the core reads itself.
macro_rules! read_by_the_core {
    ($($kind:ty),*) => {$(
        impl FromText for $kind {
            fn from_text(text: &str) -> Result<Self, String> {
                text.parse().map_err(complaint)
            }
        }
    )*};
}

read_by_the_core!(Aim, Span, SourceAsk, Assignment, Bus);

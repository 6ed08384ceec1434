//! The texts of a board file that are no plain quantities.

use kairotic_core::Error;
use kairotic_core::clock::{Bus, SourceAsk};
use kairotic_core::load::{KINDS, KindEntry};
use kairotic_core::part::Assignment;
use kairotic_core::quantity::{Frequency, parse};
use kairotic_core::target;
use kairotic_core::target::Span;

use super::given::{FromText, complaint};

/// A kind of load.
#[derive(Debug, Clone, Copy)]
pub(super) struct LoadKind(pub(super) &'static KindEntry);

/// A word of a few, with what it stands for.
fn one_of<T: Copy>(text: &str, words: &[(&str, T)]) -> Result<T, String> {
    words.iter().find(|(word, _)| *word == text).map(|(_, value)| *value).ok_or_else(|| {
        let known: Vec<&str> = words.iter().map(|(word, _)| *word).collect();
        format!("expected {}, found `{text}`", known.join(", "))
    })
}

impl FromText for LoadKind {
    fn from_text(text: &str) -> Result<Self, String> {
        let words: Vec<(&str, Self)> = KINDS.iter().map(|kind| (kind.word, Self(kind))).collect();
        one_of(text, &words)
    }
}

/// The pin's level while a signal is active.
#[derive(Debug, Clone, Copy)]
pub(super) struct Level(pub(super) target::Level);

impl FromText for Level {
    fn from_text(text: &str) -> Result<Self, String> {
        one_of(text, &[("high", target::Level::High), ("low", target::Level::Low)]).map(Self)
    }
}

/// A frequency, or a window of them.
#[derive(Debug, Clone, Copy)]
pub(super) struct Aim(pub(super) target::Aim);

impl FromText for Aim {
    fn from_text(text: &str) -> Result<Self, String> {
        let read = if text.contains("..") {
            let window = parse::range(text).map_err(Error::from).and_then(target::rising);
            window.map(target::Aim::Window).map_err(complaint)
        } else {
            let frequency = parse::quantity(text).and_then(|frequency: Frequency| frequency.positive());
            frequency.map(target::Aim::Frequency).map_err(complaint)
        };
        read.map(Self)
    }
}

/// A span of pulses or of duties.
#[derive(Debug, Clone, Copy)]
pub(super) struct LoadSpan(pub(super) Span);

impl FromText for LoadSpan {
    fn from_text(text: &str) -> Result<Self, String> {
        text.parse().map(Self).map_err(complaint)
    }
}

/// Where a clock starts.
#[derive(Debug, Clone)]
pub(super) struct Source(pub(super) SourceAsk);

impl FromText for Source {
    fn from_text(text: &str) -> Result<Self, String> {
        text.parse().map(Self).map_err(complaint)
    }
}

/// A register of the clock tree with its value.
#[derive(Debug, Clone)]
pub(super) struct RegisterValue(pub(super) Assignment);

impl FromText for RegisterValue {
    fn from_text(text: &str) -> Result<Self, String> {
        text.parse().map(Self).map_err(complaint)
    }
}

/// A bus divider or switch that is settled.
#[derive(Debug, Clone)]
pub(super) struct BusSetting(pub(super) Bus);

impl FromText for BusSetting {
    fn from_text(text: &str) -> Result<Self, String> {
        text.parse().map(Self).map_err(complaint)
    }
}

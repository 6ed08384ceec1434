//! The keys that a load has in a board file: what each kind says of its own, and how it reads them.

use crate::error::{Error, Result};
use crate::quantity::{Dimension, Duty, Quantity, Range, Rational, parse};

/// A key that a kind of load has in a board file.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct LoadKey {
    /// The key.
    pub name: &'static str,
    /// What its value means, with an example where that helps.
    pub about: &'static str,
    /// Whether it is a whole number, and not a text.
    pub whole: bool,
}

impl LoadKey {
    /// A key whose value is a text.
    pub(super) const fn text(name: &'static str, about: &'static str) -> Self {
        Self { name, about, whole: false }
    }

    /// A key whose value is a whole number.
    pub(super) const fn whole(name: &'static str, about: &'static str) -> Self {
        Self { name, about, whole: true }
    }
}

/// The values that a load's table has, however they are read. What is wrong with one is reported, and then it is missing.
pub trait KeyValues {
    /// The text of a key, where there is one.
    fn text(&mut self, key: &str) -> Option<String>;

    /// The whole number of a key, where there is one.
    fn whole(&mut self, key: &str) -> Option<u64>;

    /// Whether the key is there at all.
    fn has(&self, key: &str) -> bool;

    /// Says what is wrong with a key, or with the whole table where none is named.
    fn report(&mut self, key: Option<&str>, message: String);

    /// Says what an error of this crate has to say of a key.
    fn refuse(&mut self, key: &str, error: Error);
}

/// A value that stands as text.
pub trait KeyText: Sized {
    /// The value.
    ///
    /// # Errors
    /// A text that means nothing.
    fn of(text: &str) -> Result<Self>;
}

impl<D: Dimension> KeyText for Quantity<D> {
    fn of(text: &str) -> Result<Self> {
        Ok(parse::quantity(text)?)
    }
}

impl<D: Dimension> KeyText for Range<Quantity<D>> {
    fn of(text: &str) -> Result<Self> {
        Ok(parse::range(text)?)
    }
}

/// A load's table as its kind reads it.
pub struct Keys<'v>(pub &'v mut dyn KeyValues);

impl Keys<'_> {
    /// A value that may be left out.
    pub(super) fn take<T: KeyText>(&mut self, key: &str) -> Option<T> {
        let text = self.0.text(key)?;
        T::of(&text).map_err(|error| self.0.refuse(key, error)).ok()
    }

    /// A value that has to be there.
    pub(super) fn need<T: KeyText>(&mut self, key: &str) -> Option<T> {
        if !self.0.has(key) {
            self.0.report(None, format!("`{key}` is missing"));
        }
        self.take(key)
    }

    /// One of some words.
    pub(super) fn word<T: Copy>(&mut self, key: &str, words: &[(&str, T)]) -> Option<T> {
        let text = self.0.text(key)?;
        let found = words.iter().find(|(word, _)| *word == text).map(|(_, value)| *value);
        if found.is_none() {
            let known: Vec<&str> = words.iter().map(|(word, _)| *word).collect();
            self.0.report(Some(key), format!("expected {}, found `{text}`", known.join(", ")));
        }
        found
    }

    /// A quantity greater than zero that has to be there.
    pub(super) fn positive<D: Dimension>(&mut self, key: &str) -> Option<Quantity<D>> {
        let value: Quantity<D> = self.need(key)?;
        value.positive().map_err(|error| self.0.refuse(key, error.into())).ok()
    }

    /// A duty from 0 to 100 %, where there is one.
    pub(super) fn share(&mut self, key: &str) -> Option<Duty> {
        let value: Duty = self.take(key)?;
        if value < Duty::ZERO || value.value() > Rational::ONE {
            self.report(key, format!("expected 0 % to 100 %, found {value}"));
            return None;
        }
        Some(value)
    }

    /// A range, where there is one, whose lower end is not less than zero and stands first.
    pub(super) fn rising<D: Dimension + Copy>(
        &mut self,
        key: &str,
        range: Option<Range<Quantity<D>>>,
    ) -> Option<Range<Quantity<D>>> {
        let range = range?;
        if range.low.value() >= range.high.value() || range.low.value() < Rational::ZERO {
            self.report(key, format!("expected the lower end first, found {range}"));
            return None;
        }
        Some(range)
    }

    /// Says what is wrong with a key.
    pub(super) fn report(&mut self, key: &str, message: impl Into<String>) {
        self.0.report(Some(key), message.into());
    }
}

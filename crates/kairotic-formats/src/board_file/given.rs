//! A value as it stands in a board file: right, or wrong with a complaint, so that one wrong value does not hide others.

use std::fmt;

use kairotic_core::quantity::{Dimension, Quantity, Range, Tolerance, parse};
use kairotic_core::{Error, limits, name};
use serde::de::{IgnoredAny, MapAccess, SeqAccess, Visitor};
use serde::{Deserialize, Deserializer};

/// A value, or what is wrong with it.
#[derive(Debug, Clone)]
pub(super) struct Given<T>(pub(super) Result<T, String>);

/// Something that stands in a file as a text.
pub(super) trait FromText: Sized {
    /// The value, or what is wrong.
    fn from_text(text: &str) -> Result<Self, String>;

    /// The same from a whole number, which only a count is.
    fn from_whole(_: u64) -> Option<Self> {
        None
    }

    /// The same from `true` or `false`, which only a flag is.
    fn from_flag(_: bool) -> Option<Self> {
        None
    }
}

/// An error of the core with what to try.
pub(super) fn complaint(error: impl Into<Error>) -> String {
    let error = error.into();
    let hint = error.hint().map(|hint| format!("; {hint}")).unwrap_or_default();
    format!("{error}{hint}")
}

/// A name or another text that is taken as it is.
#[derive(Debug, Clone)]
pub(super) struct Words(pub(super) String);

impl FromText for Words {
    fn from_text(text: &str) -> Result<Self, String> {
        if text.trim().is_empty() {
            Err("expected a text that says something".to_owned())
        } else {
            Ok(Self(text.to_owned()))
        }
    }
}

/// The name of a signal or a load, which every output carries as it is.
#[derive(Debug, Clone)]
pub(super) struct Name(pub(super) String);

impl FromText for Name {
    fn from_text(text: &str) -> Result<Self, String> {
        let length = text.len() as u64;
        if limits::GIVEN_NAME.is_below(length) {
            return Err(limits::GIVEN_NAME.refusal("the name has", length));
        }
        match name::refused(text) {
            None if text.is_empty() => Err("expected a name, found an empty text".to_owned()),
            None => Ok(Self(text.to_owned())),
            Some(letter) => Err(format!(
                "expected a name of letters, digits, hyphens and underscores, found {letter:?} in `{}`",
                name::cleaned(text)
            )),
        }
    }
}

/// A whole number.
#[derive(Debug, Clone, Copy)]
pub(super) struct Count(pub(super) u64);

impl FromText for Count {
    fn from_text(text: &str) -> Result<Self, String> {
        Err(format!("expected a whole number, as in 240, found the text `{text}`"))
    }

    fn from_whole(number: u64) -> Option<Self> {
        Some(Self(number))
    }
}

/// Whether something is so.
#[derive(Debug, Clone, Copy)]
pub(super) struct Flag(pub(super) bool);

impl FromText for Flag {
    fn from_text(text: &str) -> Result<Self, String> {
        Err(format!("expected true or false, found the text `{text}`"))
    }

    fn from_flag(value: bool) -> Option<Self> {
        Some(Self(value))
    }
}

impl<D: Dimension> FromText for Quantity<D> {
    fn from_text(text: &str) -> Result<Self, String> {
        text.parse().map_err(complaint)
    }
}

impl<D: Dimension> FromText for Range<Quantity<D>> {
    fn from_text(text: &str) -> Result<Self, String> {
        parse::range(text).map_err(complaint)
    }
}

impl<D: Dimension> FromText for Tolerance<Quantity<D>> {
    fn from_text(text: &str) -> Result<Self, String> {
        parse::tolerance(text).map_err(complaint)
    }
}

impl<'de, T: FromText> Deserialize<'de> for Given<T> {
    fn deserialize<S: Deserializer<'de>>(deserializer: S) -> Result<Self, S::Error> {
        Raw::deserialize(deserializer).map(|raw| Self(raw.read()))
    }
}

/// A value as it stands in the file, whatever it should be.
#[derive(Debug, Clone)]
pub(super) enum Raw {
    /// A text.
    Text(String),
    /// A whole number.
    Whole(u64),
    /// `true` or `false`.
    Flag(bool),
    /// Neither, in words.
    Other(String),
}

impl Raw {
    /// What it means.
    pub(super) fn read<T: FromText>(self) -> Result<T, String> {
        let found = match self {
            Self::Text(text) => return T::from_text(&text),
            Self::Whole(number) => match T::from_whole(number) {
                Some(value) => return Ok(value),
                None => format!("the number {number}"),
            },
            Self::Flag(value) => match T::from_flag(value) {
                Some(value) => return Ok(value),
                None => value.to_string(),
            },
            Self::Other(what) => what,
        };
        let article = match () {
            () if T::from_whole(0).is_some() => "a whole number",
            () if T::from_flag(true).is_some() => "true or false",
            () => "a text in quotes",
        };
        Err(format!("expected {article}, found {found}"))
    }
}

impl<'de> Deserialize<'de> for Raw {
    fn deserialize<S: Deserializer<'de>>(deserializer: S) -> Result<Self, S::Error> {
        deserializer.deserialize_any(TextVisitor)
    }
}

struct TextVisitor;

impl<'de> Visitor<'de> for TextVisitor {
    type Value = Raw;

    fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str("a text in quotes")
    }

    fn visit_str<E>(self, text: &str) -> Result<Raw, E> {
        Ok(Raw::Text(text.to_owned()))
    }

    fn visit_i64<E>(self, number: i64) -> Result<Raw, E> {
        let other = || Raw::Other(format!("the number {number}"));
        Ok(u64::try_from(number).map_or_else(|_| other(), Raw::Whole))
    }

    fn visit_f64<E>(self, number: f64) -> Result<Raw, E> {
        Ok(Raw::Other(format!("the number {number}")))
    }

    fn visit_bool<E>(self, value: bool) -> Result<Raw, E> {
        Ok(Raw::Flag(value))
    }

    fn visit_seq<A: SeqAccess<'de>>(self, mut list: A) -> Result<Raw, A::Error> {
        while list.next_element::<IgnoredAny>()?.is_some() {}
        Ok(Raw::Other("a list".to_owned()))
    }

    fn visit_map<A: MapAccess<'de>>(self, mut table: A) -> Result<Raw, A::Error> {
        while table.next_entry::<IgnoredAny, IgnoredAny>()?.is_some() {}
        Ok(Raw::Other("a table".to_owned()))
    }
}

//! Which pins a recipe is for, and what their names say: `P{port=A..H}{pin=0..15}`.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};

/// A pattern of pin names: text, and `{name=FIRST..LAST}` for a capital letter or a whole number in a range.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(try_from = "String", into = "String")]
pub struct PinPattern {
    text: String,
    pieces: Vec<Piece>,
}

#[derive(Debug, Clone, PartialEq, Eq)]
enum Piece {
    /// Stands there as it is.
    Text(String),
    /// A capital letter.
    Letter(String, char, char),
    /// A whole number.
    Number(String, u64, u64),
}

/// What the name of a pin says.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct PinVars {
    /// As it is written, by name: `port` is `B`.
    pub texts: BTreeMap<String, String>,
    /// As a number, by name: the letters count from zero, so that `port` is 1.
    pub numbers: BTreeMap<String, u64>,
}

/// A text that is no pattern.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("expected a pattern of pin names such as `P{{port=A..H}}{{pin=0..15}}`, found `{0}`")]
pub struct PatternError(String);

impl TryFrom<String> for PinPattern {
    type Error = PatternError;

    fn try_from(text: String) -> Result<Self, PatternError> {
        match pieces(&text) {
            Some(pieces) => Ok(Self { text, pieces }),
            None => Err(PatternError(text)),
        }
    }
}

impl From<PinPattern> for String {
    fn from(pattern: PinPattern) -> Self {
        pattern.text
    }
}

fn pieces(text: &str) -> Option<Vec<Piece>> {
    let mut pieces = Vec::new();
    let mut rest = text;
    while let Some((before, after)) = rest.split_once('{') {
        if !before.is_empty() {
            pieces.push(Piece::Text(before.to_owned()));
        }
        let (inside, behind) = after.split_once('}')?;
        let (name, range) = inside.split_once('=')?;
        let (first, last) = range.split_once("..")?;
        let letter = |text: &str| {
            let mut letters = text.chars();
            letters.next().filter(|c| c.is_ascii_uppercase() && letters.next().is_none())
        };
        let piece = match (letter(first), letter(last)) {
            (Some(first), Some(last)) if first <= last => Piece::Letter(name.to_owned(), first, last),
            _ => {
                let (first, last) = (first.parse().ok()?, last.parse().ok()?);
                (first <= last).then(|| Piece::Number(name.to_owned(), first, last))?
            }
        };
        pieces.push(piece);
        rest = behind;
    }
    if !rest.is_empty() {
        pieces.push(Piece::Text(rest.to_owned()));
    }
    (!text.is_empty()).then_some(pieces)
}

impl PinPattern {
    /// What the name of a pin says, where the pattern is for it. Small letters count as capital ones.
    pub fn vars(&self, pin: &str) -> Option<PinVars> {
        let pin = pin.to_uppercase();
        let (mut vars, mut rest) = (PinVars::default(), pin.as_str());
        for piece in &self.pieces {
            let (name, text, number) = match piece {
                Piece::Text(text) => {
                    rest = rest.strip_prefix(text.to_uppercase().as_str())?;
                    continue;
                }
                Piece::Letter(name, first, last) => {
                    let letter = rest.chars().next().filter(|letter| (first..=last).contains(&letter))?;
                    (name, rest.get(..letter.len_utf8())?, u64::from(u32::from(letter) - u32::from('A')))
                }
                Piece::Number(name, first, last) => {
                    let end = rest.find(|c: char| !c.is_ascii_digit()).unwrap_or(rest.len());
                    let digits = rest.get(..end)?;
                    let number = digits.parse().ok().filter(|number| (first..=last).contains(&number))?;
                    (name, digits, number)
                }
            };
            vars.texts.insert(name.clone(), text.to_owned());
            vars.numbers.insert(name.clone(), number);
            rest = rest.get(text.len()..)?;
        }
        rest.is_empty().then_some(vars)
    }

    /// The names that it has, for checks.
    pub fn names(&self) -> impl Iterator<Item = &str> {
        self.pieces.iter().filter_map(|piece| match piece {
            Piece::Text(_) => None,
            Piece::Letter(name, ..) | Piece::Number(name, ..) => Some(name.as_str()),
        })
    }

    /// A pin that it is for, the first of each range.
    pub fn example(&self) -> String {
        let pieces = self.pieces.iter().map(|piece| match piece {
            Piece::Text(text) => text.clone(),
            Piece::Letter(_, first, _) => first.to_string(),
            Piece::Number(_, first, _) => first.to_string(),
        });
        pieces.collect()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn pattern(text: &str) -> PinPattern {
        PinPattern::try_from(text.to_owned()).unwrap()
    }

    #[test]
    fn a_pin_says_its_port_and_number() {
        let vars = pattern("P{port=A..H}{pin=0..7}").vars("pb6").unwrap();
        assert_eq!(vars.texts["port"], "B");
        assert_eq!((vars.numbers["port"], vars.numbers["pin"]), (1, 6));
        let vars = pattern("P{port=0..1}.{pin=0..31}").vars("P1.03").unwrap();
        assert_eq!((vars.texts["pin"].as_str(), vars.numbers["pin"]), ("03", 3));
    }

    #[test]
    fn other_pins_do_not_fit() {
        let pattern = pattern("P{port=A..C}{pin=0..7}");
        for pin in ["", "P", "PA", "PD0", "PA8", "PA0x", "QA0", "PAB", "PA-1", "Pä0"] {
            assert_eq!(pattern.vars(pin), None, "{pin}");
        }
        assert!(pattern.vars(&pattern.example()).is_some());
    }

    #[test]
    fn other_texts_are_refused() {
        for text in ["", "P{port}", "P{port=A}", "P{port=C..A}", "P{pin=0..", "P{pin=7..0}", "P{pin=0..A}"] {
            assert!(PinPattern::try_from(text.to_owned()).is_err(), "{text}");
        }
    }
}

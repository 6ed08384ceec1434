//! What the header of a dump declares.

use kairotic_core::limits;
use kairotic_core::name::cleaned;
use kairotic_core::quantity::Rational;

use super::super::CaptureError;
use super::codes::{Codes, Variable};

/// The widest vector that is taken apart.
const WIDEST: u32 = 4096;

/// Where the header ends, if it does.
pub(super) fn header_end(bytes: &[u8]) -> Option<usize> {
    const WORD: &[u8] = b"$enddefinitions";
    let start = memchr::memmem::find(bytes, WORD)? + WORD.len();
    let end = memchr::memmem::find(bytes.get(start..)?, b"$end")?;
    Some(start + end + 4)
}

/// What a header declares.
#[derive(Default)]
pub(super) struct Declared {
    pub(super) signals: Vec<String>,
    pub(super) codes: Codes,
    /// Seconds in a tick.
    pub(super) tick: Option<Rational>,
    /// The scopes that are open: how long the path was before each; and that path.
    scopes: Vec<usize>,
    path: String,
    /// How many variables are no signals.
    pub(super) passed: usize,
}

impl Declared {
    pub(super) fn read(&mut self, bytes: &[u8]) -> Result<(), CaptureError> {
        let text = String::from_utf8_lossy(bytes);
        // Sections: a keyword, words, `$end`.
        let mut section: Vec<(u64, &str)> = Vec::new();
        for (line, text) in (1..).zip(text.split('\n')) {
            for word in text.split_whitespace() {
                if word == "$end" {
                    self.section(&section)?;
                    section.clear();
                } else {
                    section.push((line, word));
                }
            }
        }
        Ok(())
    }

    fn section(&mut self, words: &[(u64, &str)]) -> Result<(), CaptureError> {
        let Some(((line, keyword), rest)) = words.split_first() else { return Ok(()) };
        let rest: Vec<&str> = rest.iter().map(|(_, word)| *word).collect();
        match (keyword.trim_start_matches('\u{feff}'), rest.as_slice()) {
            ("$timescale", words) => {
                self.tick = Some(timescale(&words.concat()).ok_or_else(|| {
                    let found = words.join(" ");
                    let text = format!("expected a timescale such as `10 ns`, found `{found}`");
                    CaptureError::at(*line, text)
                })?);
            }
            ("$scope", [_, name, ..]) => {
                self.scopes.push(self.path.len());
                // The outermost scope is the whole capture, and in no name.
                if self.scopes.len() > 1 {
                    self.path.push_str(&cleaned(name));
                    self.path.push('.');
                }
                named(*line, &self.path)?;
            }
            ("$upscope", _) => self.path.truncate(self.scopes.pop().unwrap_or(0)),
            ("$var", [kind, width, code, name, range @ ..]) => {
                if matches!(*kind, "real" | "realtime" | "string" | "event" | "time") {
                    self.passed += 1;
                    return Ok(());
                }
                let width = width.parse().ok().filter(|width| (1..=WIDEST).contains(width));
                let width: u32 = width.ok_or_else(|| {
                    CaptureError::at(*line, format!("expected a width from 1 to {WIDEST} of `{name}`"))
                })?;
                self.variable(*line, code, name, &range.concat(), width)?;
            }
            ("$var", _) => {
                return Err(CaptureError::at(*line, "expected `$var KIND WIDTH CODE NAME $end`"));
            }
            _ => {}
        }
        Ok(())
    }

    fn variable(
        &mut self,
        line: u64,
        code: &str,
        name: &str,
        range: &str,
        width: u32,
    ) -> Result<(), CaptureError> {
        // The same wire under another name: its first name serves.
        if self.codes.get(code.as_bytes()).is_some() {
            return Ok(());
        }
        let first = u32::try_from(self.signals.len()).unwrap_or(u32::MAX);
        let all = u64::from(first) + u64::from(width);
        if limits::SIGNALS.is_below(all) {
            return Err(CaptureError::at(line, limits::SIGNALS.refusal("the header declares", all)));
        }
        self.codes.insert(code.as_bytes(), Variable { first, width });
        let (name, range) = (cleaned(name), cleaned(range));
        let path = format!("{}{name}", self.path);
        named(line, &path)?;
        if width == 1 {
            self.signals.push(format!("{path}{range}"));
            return Ok(());
        }
        let numbers = range.trim_matches(['[', ']']).split_once(':');
        let ends = numbers.and_then(|(high, low)| Some((high.parse().ok()?, low.parse().ok()?)));
        let (high, low): (i64, i64) = ends.unwrap_or((i64::from(width) - 1, 0));
        for bit in 0..i64::from(width) {
            let number = if high >= low { high.saturating_sub(bit) } else { high.saturating_add(bit) };
            self.signals.push(format!("{path}[{number}]"));
        }
        Ok(())
    }
}

/// Refuses a name that is too long.
fn named(line: u64, name: &str) -> Result<(), CaptureError> {
    let length = name.len() as u64;
    if limits::NAME.is_below(length) {
        return Err(CaptureError::at(
            line,
            limits::NAME.refusal("the name of a signal or scope has", length),
        ));
    }
    Ok(())
}

/// Seconds in a tick: 1, 10 or 100 of a unit.
fn timescale(text: &str) -> Option<Rational> {
    let digits = text.bytes().take_while(u8::is_ascii_digit).count();
    let (number, unit) = text.split_at_checked(digits)?;
    let number: i128 = if number.is_empty() { 1 } else { number.parse().ok()? };
    let parts = match unit {
        "s" => 1,
        "ms" => 1_000,
        "us" => 1_000_000,
        "ns" => 1_000_000_000,
        "ps" => 1_000_000_000_000,
        "fs" => 1_000_000_000_000_000,
        _ => return None,
    };
    Rational::new(number, parts).filter(|tick| tick.is_positive())
}

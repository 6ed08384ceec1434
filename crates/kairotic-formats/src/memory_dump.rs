//! Memory as a debugger prints it: an address and the words from there on, a line each.

use std::str::FromStr;

use kairotic_core::decode::MemoryWord;

use crate::lines::{LineError, lines};
use crate::text_file::Source;

/// A text that is no word of memory.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error(
    "expected an address and what is there, at most 64 bits a word, such as `0x40000428{between}0x0027`; found `{found}`"
)]
pub struct WordError {
    /// What stands between the two.
    between: char,
    /// What came.
    found: String,
}

impl WordError {
    fn of(between: char, text: &str) -> Self {
        Self { between, found: text.chars().take(60).collect() }
    }
}

/// One `ADDRESS=VALUE`, both hexadecimal with `0x`; without it the value is decimal.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct AddressedWord(pub MemoryWord);

impl FromStr for AddressedWord {
    type Err = WordError;

    fn from_str(text: &str) -> Result<Self, WordError> {
        let wrong = || WordError::of('=', text);
        let (address, value) = text.split_once('=').ok_or_else(wrong)?;
        let address = hex(address.trim()).filter(|_| address.trim().starts_with("0x")).ok_or_else(wrong)?;
        let value = value.trim();
        let known = match value.strip_prefix("0x") {
            Some(digits) => hex(digits),
            None => value.parse().ok(),
        };
        let value = known.ok_or_else(wrong)?;
        Ok(Self(MemoryWord { address, value, bytes: 1 }))
    }
}

/// The words of a dump. A line holds an address and one or more words, hexadecimal with or without `0x`, with spaces,
/// `:`, `=`, `,` or `<NAME>` between; words that follow the first one are as far apart as they have digits. Empty lines
/// and lines that begin with `#` are passed over.
///
/// # Errors
/// [`LineError`] for the first line that is none.
pub fn read(source: &Source) -> Result<Vec<MemoryWord>, LineError> {
    let mut words = Vec::new();
    for line in lines(source) {
        let (line, text) = line?;
        let wrong = |message: String| LineError { file: source.file.clone(), line, message };
        words.extend(of_line(text).ok_or_else(|| wrong(WordError::of(' ', text).to_string()))?);
    }
    Ok(words)
}

/// The words of one line.
fn of_line(text: &str) -> Option<Vec<MemoryWord>> {
    let cells = text.split(|c: char| c.is_whitespace() || ":=,".contains(c));
    let mut cells = cells.filter(|cell| !cell.is_empty() && !cell.starts_with('<'));
    let mut address = hex(cells.next()?)?;
    let mut words = Vec::new();
    for cell in cells {
        let digits = cell.strip_prefix("0x").unwrap_or(cell).len();
        // A word of more than 64 bits would be no number.
        let bytes = u32::try_from(digits.div_ceil(2)).ok().filter(|bytes| *bytes <= 8)?;
        words.push(MemoryWord { address, value: hex(cell)?, bytes });
        address = address.checked_add(bytes.into())?;
    }
    (!words.is_empty()).then_some(words)
}

fn hex(text: &str) -> Option<u64> {
    let digits = text.strip_prefix("0x").or(text.strip_prefix("0X")).unwrap_or(text);
    // A sign would be taken for part of the number.
    u64::from_str_radix(digits, 16).ok().filter(|_| !digits.starts_with(['+', '-']))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn words(text: &str) -> Result<Vec<(u64, u64, u32)>, LineError> {
        let source = Source { file: "night.txt".to_owned(), bytes: text.as_bytes().to_vec() };
        Ok(read(&source)?.into_iter().map(|word| (word.address, word.value, word.bytes)).collect())
    }

    #[test]
    fn lines_are_read_in_the_ways_that_debuggers_print_them() {
        let expected = vec![(0x4000_0400, 0x81, 4), (0x4000_0404, 0x27, 4)];
        assert_eq!(words("0x40000400: 0x00000081 0x00000027\n").unwrap(), expected);
        assert_eq!(words("# timer\n\n40000400=00000081\n40000404=00000027\r\n").unwrap(), expected);
        assert_eq!(words("0x88 <OCR1A>:\tdc 05").unwrap(), [(0x88, 0xdc, 1), (0x89, 0x05, 1)]);
    }

    #[test]
    fn a_line_that_is_none_is_named() {
        for wrong in [
            "0x40000400",
            "0x40000400 0xgg",
            "timer 5",
            "0x40000400 -5",
            "0x1 0x11112222333344445",
            "0x1 0x000000000000000000000001",
        ] {
            let error = words(&format!("0x10 0x20\n{wrong}\n")).unwrap_err();
            assert_eq!(error.line, 2, "{wrong}");
        }
    }

    #[test]
    fn a_pair_names_its_address_in_hexadecimal() {
        let word = |text: &str| text.parse::<AddressedWord>().map(|word| (word.0.address, word.0.value));
        assert_eq!(word("0x40000428=0x27"), Ok((0x4000_0428, 0x27)));
        assert_eq!(word("0x40000428=39"), Ok((0x4000_0428, 39)));
        for wrong in ["40000428=1", "0x=1", "0x40000428", "0x1=-1", "PSC=1"] {
            assert!(word(wrong).is_err(), "{wrong}");
        }
    }
}

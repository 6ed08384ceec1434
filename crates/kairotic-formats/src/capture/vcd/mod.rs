//! Value change dumps (VCD, IEEE 1364): a header of words, then times and changes.
//!
//! The changes are read byte by byte from large blocks: a capture of many millions of edges is mostly such lines.

mod codes;
mod digits;
mod header;

use std::io::Read;

use kairotic_core::limits;
use kairotic_core::name::distinct;
use kairotic_core::quantity::Rational;
use kairotic_core::simulation::{Change, Logic};

use self::codes::{Codes, OTHER, UNWANTED};
use self::header::{Declared, header_end};
use super::{Batches, CHUNK, CaptureError, Emit, Header, Trailer, in_blocks};

/// Whether a file begins as a dump does: with a keyword.
pub(super) fn is_dump(start: &[u8]) -> bool {
    let text = start.strip_prefix(b"\xef\xbb\xbf").unwrap_or(start).trim_ascii_start();
    text.first() == Some(&b'$')
}

/// Reads a dump.
pub struct VcdReader<R> {
    input: R,
    header: Header,
    codes: Codes,
    /// What was read of the changes already.
    rest: Vec<u8>,
    /// The line at which the changes begin.
    line: u64,
    notes: Vec<String>,
}

impl<R: Read> VcdReader<R> {
    /// Reads the header.
    ///
    /// # Errors
    /// [`CaptureError`] for a header that does not end, or that declares nothing that can be read.
    pub fn open(mut input: R) -> Result<Self, CaptureError> {
        let mut bytes = Vec::new();
        let end = loop {
            let more = Read::by_ref(&mut input).take(CHUNK as u64).read_to_end(&mut bytes)?;
            if let Some(end) = header_end(&bytes) {
                break end;
            }
            let length = bytes.len() as u64;
            if limits::LINE.is_below(length) {
                let refusal = limits::LINE.refusal("the header has more than", length);
                return Err(CaptureError::plain(refusal));
            }
            if more == 0 {
                let line = lines(&bytes) + 1;
                return Err(CaptureError::at(line, "expected `$enddefinitions $end`, found no such line"));
            }
        };
        let rest = bytes.split_off(end);
        let mut declared = Declared::default();
        declared.read(&bytes)?;
        if declared.signals.is_empty() {
            let line = lines(&bytes) + 1;
            return Err(CaptureError::at(line, "the header declares no signal with levels (`$var wire …`)"));
        }
        let mut notes = Vec::new();
        if declared.passed > 0 {
            notes.push(format!("{} that hold numbers or texts are passed over", declared.passed));
        }
        let tick = declared.tick.unwrap_or_else(|| {
            notes.push("the header has no `$timescale`: a tick is taken as 1 ns".to_owned());
            Rational::new(1, 1_000_000_000).unwrap_or(Rational::ONE)
        });
        let signals = distinct(declared.signals);
        let header = Header { kind: "value change dump", signals, tick, interval: None };
        Ok(Self { input, header, codes: declared.codes, line: lines(&bytes) + 1, rest, notes })
    }

    /// What the header says.
    pub fn header(&self) -> &Header {
        &self.header
    }

    /// Reads the changes of the chosen signals.
    ///
    /// # Errors
    /// [`CaptureError`] with the line, for a time that goes back and for words that are none.
    pub fn read(mut self, chosen: &[bool], emit: &mut Emit<'_>) -> Result<Trailer, CaptureError> {
        let mut body = Body {
            codes: &self.codes,
            chosen,
            levels: vec![None; self.header.signals.len()],
            now: 0,
            ones: self.codes.ones(chosen),
            vector: None,
            skip: Skip::Nothing,
            unknown: 0,
            line: self.line,
            batches: Batches::to(emit),
        };
        let rest = std::mem::take(&mut self.rest);
        let kept_up = in_blocks(&mut self.input, rest, |bytes, at_end| {
            if !body.batches.wanted {
                return Ok(None);
            }
            let done = body.words(bytes, at_end)?;
            body.line += lines(bytes.get(..done).unwrap_or_default());
            Ok(Some(done))
        })?;
        if !kept_up {
            return Err(CaptureError::at(
                body.line,
                limits::LINE.refusal("a word has more than", limits::LINE.most),
            ));
        }
        body.batches.flush();
        if body.unknown > 0 {
            self.notes.push(format!("{} changes of signals that the header does not declare", body.unknown));
        }
        Ok(Trailer { end: body.now, interval: None, notes: self.notes })
    }
}

/// What follows that is no change.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Skip {
    Nothing,
    /// A comment, up to `$end`.
    ToEnd,
    /// One word: the code of a number or text.
    Word,
}

/// The part with the changes.
struct Body<'a, 'e> {
    codes: &'a Codes,
    chosen: &'a [bool],
    /// The level of each bit of a vector, where it was told.
    levels: Vec<Option<Logic>>,
    now: u64,
    /// The signals with codes of one character.
    ones: [u32; 256],
    /// The bits of a vector whose code comes next.
    vector: Option<Vec<u8>>,
    skip: Skip,
    unknown: u64,
    line: u64,
    batches: Batches<'a, 'e>,
}

impl Body<'_, '_> {
    /// Reads the words of a block; how far it got. The last word may go on in the next block.
    fn words(&mut self, bytes: &[u8], at_end: bool) -> Result<usize, CaptureError> {
        let mut rest = bytes;
        loop {
            rest = self.plain(rest);
            let [first, after @ ..] = rest else { break };
            if first.is_ascii_whitespace() {
                rest = after;
                continue;
            }
            let Some(end) = after.iter().position(u8::is_ascii_whitespace) else {
                if at_end {
                    self.word(*first, after)?;
                    return Ok(bytes.len());
                }
                break;
            };
            let (word, beyond) = after.split_at_checked(end).unwrap_or((after, &[]));
            match self.word(*first, word) {
                Err(CaptureError::Line { message, .. }) => {
                    let done = bytes.len() - rest.len();
                    let line = self.line + lines(bytes.get(..done).unwrap_or_default());
                    return Err(CaptureError::at(line, message));
                }
                done => done?,
            }
            rest = beyond;
            if !self.batches.wanted {
                break;
            }
        }
        Ok(bytes.len() - rest.len())
    }

    /// Reads lines of the two kinds that nearly all are: a time, and the level of a signal with a code of one character.
    /// What is left begins with something else, or does not end.
    fn plain<'b>(&mut self, bytes: &'b [u8]) -> &'b [u8] {
        let mut rest = bytes;
        if self.skip != Skip::Nothing || self.vector.is_some() {
            return rest;
        }
        loop {
            match rest {
                [level @ (b'0' | b'1'), code, b'\n', after @ ..] => {
                    let Some(place) = self.ones.get(usize::from(*code)).copied().filter(|one| *one != OTHER)
                    else {
                        return rest;
                    };
                    if place != UNWANTED {
                        let level = Logic::of(*level == b'1');
                        self.batches.push(Change { at: self.now, signal: place, level });
                    }
                    rest = after;
                }
                [b'#', after @ ..] => {
                    let (time, digits) = digits::leading(after);
                    match after.split_at_checked(digits).map_or(after, |(_, tail)| tail) {
                        // So many digits always fit.
                        [b'\n', more @ ..] if (1..=19).contains(&digits) && time >= self.now => {
                            self.now = time;
                            rest = more;
                        }
                        _ => return rest,
                    }
                }
                _ => return rest,
            }
            if !self.batches.wanted {
                return rest;
            }
        }
    }

    /// One word: its first character, and the rest.
    fn word(&mut self, first: u8, rest: &[u8]) -> Result<(), CaptureError> {
        if self.skip != Skip::Nothing {
            if self.skip == Skip::Word || (first == b'$' && rest == b"end") {
                self.skip = Skip::Nothing;
            }
            return Ok(());
        }
        if let Some(bits) = self.vector.take() {
            let code: Vec<u8> = std::iter::once(first).chain(rest.iter().copied()).collect();
            self.set(&code, &bits);
            return Ok(());
        }
        if let Some(level) = logic(first) {
            self.level(rest, level);
            return Ok(());
        }
        match first {
            b'#' => return self.time(rest),
            b'b' | b'B' => self.vector = Some(rest.to_vec()),
            b'r' | b'R' | b's' | b'S' => self.skip = Skip::Word,
            b'$' if rest == b"comment" => self.skip = Skip::ToEnd,
            b'$' => {}
            _ => {
                let word: Vec<u8> = std::iter::once(first).chain(rest.iter().copied()).take(40).collect();
                let word = String::from_utf8_lossy(&word).into_owned();
                return Err(CaptureError::at(
                    self.line,
                    format!("expected a time or a change, found `{word}`"),
                ));
            }
        }
        Ok(())
    }

    fn time(&mut self, digits: &[u8]) -> Result<(), CaptureError> {
        let mut time: u64 = 0;
        for byte in digits {
            let digit = byte.wrapping_sub(b'0');
            let next = time.checked_mul(10).and_then(|tens| tens.checked_add(digit.into()));
            time = next.filter(|_| digit < 10).ok_or_else(|| {
                let text = String::from_utf8_lossy(digits.get(..40).unwrap_or(digits)).into_owned();
                CaptureError::at(self.line, format!("expected a time in ticks, found `#{text}`"))
            })?;
        }
        if digits.is_empty() || time < self.now {
            let text = format!("expected a time from #{} on, found `#{time}`: time goes back", self.now);
            return Err(CaptureError::at(self.line, text));
        }
        self.now = time;
        Ok(())
    }

    /// A change of a signal of one bit; of a wider one, all its bits.
    fn level(&mut self, code: &[u8], level: Logic) {
        let Some(variable) = self.codes.get(code) else {
            self.unknown += 1;
            return;
        };
        if variable.width == 1 {
            if self.chosen.get(variable.first as usize) == Some(&true) {
                self.batches.push(Change { at: self.now, signal: variable.first, level });
            }
            return;
        }
        (0..variable.width).for_each(|bit| self.bit(variable.first + bit, level));
    }

    /// A change of a vector, of which only those bits are told that differ.
    fn set(&mut self, code: &[u8], bits: &[u8]) {
        let Some(variable) = self.codes.get(code) else {
            self.unknown += 1;
            return;
        };
        let logic = |bit: u8| logic(bit).unwrap_or(Logic::Unknown);
        // Short values are filled up on the left: with what is unknown if they begin so, else with zero.
        let fill = match bits.first() {
            Some(bit) if logic(*bit) == Logic::Unknown => Logic::Unknown,
            _ => Logic::Low,
        };
        let width = variable.width as usize;
        let missing = width.saturating_sub(bits.len());
        let given = bits.iter().skip(bits.len().saturating_sub(width)).map(|bit| logic(*bit));
        let levels = std::iter::repeat_n(fill, missing).chain(given);
        for (place, level) in (variable.first..).zip(levels) {
            self.bit(place, level);
        }
    }

    fn bit(&mut self, place: u32, level: Logic) {
        let Some(known) = self.levels.get_mut(place as usize) else { return };
        if *known != Some(level) && self.chosen.get(place as usize) == Some(&true) {
            self.batches.push(Change { at: self.now, signal: place, level });
        }
        *known = Some(level);
    }
}

/// How many lines end in some bytes.
fn lines(bytes: &[u8]) -> u64 {
    memchr::memchr_iter(b'\n', bytes).count() as u64
}

/// The level that a character stands for.
const fn logic(letter: u8) -> Option<Logic> {
    Some(match letter {
        b'0' | b'l' | b'L' => Logic::Low,
        b'1' | b'h' | b'H' => Logic::High,
        b'x' | b'X' | b'z' | b'Z' | b'u' | b'U' | b'w' | b'W' | b'-' => Logic::Unknown,
        _ => return None,
    })
}

//! What identifier codes stand for: looked up for every change.

use std::collections::HashMap;

/// What an identifier code stands for.
#[derive(Debug, Clone, Copy)]
pub(super) struct Variable {
    /// The place of its first signal, that of the highest bit.
    pub(super) first: u32,
    pub(super) width: u32,
}

/// Variables by their identifier codes. Short codes, which are nearly all, are looked up by what they are as numbers.
#[derive(Debug, Default)]
pub(super) struct Codes {
    short: Vec<Option<Variable>>,
    long: HashMap<Vec<u8>, Variable>,
}

/// Stands for a code of something other than a signal of one bit.
pub(super) const OTHER: u32 = u32::MAX;
/// Stands for a signal that nobody wants.
pub(super) const UNWANTED: u32 = u32::MAX - 1;

/// The number of a code of one or two characters.
fn short(code: &[u8]) -> Option<usize> {
    const KINDS: usize = 94;
    let digit = |byte: &u8| byte.checked_sub(b'!').map(usize::from).filter(|digit| *digit < KINDS);
    match code {
        [one] => digit(one),
        [one, two] => Some(KINDS + digit(one)? * KINDS + digit(two)?),
        _ => None,
    }
}

impl Codes {
    pub(super) fn insert(&mut self, code: &[u8], variable: Variable) {
        match short(code) {
            Some(place) => {
                if self.short.len() <= place {
                    self.short.resize(place + 1, None);
                }
                if let Some(slot) = self.short.get_mut(place) {
                    *slot = Some(variable);
                }
            }
            None => {
                self.long.insert(code.to_vec(), variable);
            }
        }
    }

    /// The places of the signals of one bit by codes of one character.
    pub(super) fn ones(&self, chosen: &[bool]) -> [u32; 256] {
        let mut ones = [OTHER; 256];
        for (code, one) in (0_u8..=255).zip(&mut ones) {
            if let Some(variable) = self.get(&[code]).filter(|variable| variable.width == 1) {
                let wanted = chosen.get(variable.first as usize) == Some(&true);
                *one = if wanted { variable.first } else { UNWANTED };
            }
        }
        ones
    }

    pub(super) fn get(&self, code: &[u8]) -> Option<Variable> {
        match short(code) {
            Some(place) => self.short.get(place).copied().flatten(),
            None => self.long.get(code).copied(),
        }
    }
}

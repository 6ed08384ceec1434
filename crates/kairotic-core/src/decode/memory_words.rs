//! Words of memory as a debugger reads them, and the registers that they hold.

use crate::error::{Error, Result};
use crate::part::{Access, Assignment, Part, TimerUse, largest};

/// What memory holds at an address.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct MemoryWord {
    /// The address.
    pub address: u64,
    /// What is there, the lowest byte at the address itself.
    pub value: u64,
    /// How many bytes were read.
    pub bytes: u32,
}

/// The registers of a timer in memory.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct RegistersFound {
    /// Their values.
    pub assignments: Vec<Assignment>,
    /// The addresses at which the timer has nothing.
    pub elsewhere: Vec<u64>,
}

/// The registers of a timer that words of memory hold. A register may lie in one word, in a part of one, or in several
/// smaller ones. `part` is the one with everything that its family file says.
///
/// # Errors
/// [`Error::NoAddresses`] where the catalogue does not know where the timer is; names that the part does not have.
pub fn registers_in(part: &Part, on: &TimerUse<'_>, words: &[MemoryWord]) -> Result<RegistersFound> {
    let views = TimerUse { part, ..on.clone() }.views()?;
    let mut assignments: Vec<Assignment> = Vec::new();
    let mut used = vec![false; words.len()];
    let mut known = false;
    for timer in &views {
        for (name, register) in &timer.block.registers {
            let Some(address) = part.address_of(timer, name) else { continue };
            known = true;
            let bytes = part.access_bits(register).div_ceil(8);
            let here = RegisterSpan { address, bytes };
            let mut value = None;
            for (word, used) in words.iter().zip(&mut used) {
                let Some(part) = here.part_of(*word) else { continue };
                *used = true;
                value = Some(value.unwrap_or(0) | part);
            }
            // What only acts when it is written holds nothing; and one name may be in several views.
            let said = assignments.iter().any(|known| known.name == *name);
            if let Some(value) = value.filter(|_| !said && register.access != Access::WriteOnly) {
                assignments.push(Assignment { name: name.clone(), value: value & largest(register.bits) });
            }
        }
    }
    if !known {
        return Err(Error::NoAddresses { timer: on.path() });
    }
    let elsewhere = words.iter().zip(used).filter(|(_, used)| !used).map(|(word, _)| word.address).collect();
    Ok(RegistersFound { assignments, elsewhere })
}

/// Where a register lies.
#[derive(Debug, Clone, Copy)]
struct RegisterSpan {
    address: u64,
    bytes: u32,
}

impl RegisterSpan {
    /// What a word says of the register, in place; `None` where it lies elsewhere.
    fn part_of(self, word: MemoryWord) -> Option<u64> {
        let end = self.address.checked_add(self.bytes.into())?;
        let mask = largest(8 * self.bytes);
        if word.address < self.address {
            let before = self.address - word.address;
            let inside = before < word.bytes.into();
            let shift = u32::try_from(8 * before).unwrap_or(64);
            return inside.then(|| word.value.checked_shr(shift).unwrap_or(0) & mask);
        }
        let behind = word.address - self.address;
        (word.address < end)
            .then(|| word.value.checked_shl(u32::try_from(8 * behind).unwrap_or(64)).unwrap_or(0) & mask)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn word(address: u64, value: u64, bytes: u32) -> MemoryWord {
        MemoryWord { address, value, bytes }
    }

    #[test]
    fn a_register_lies_in_a_word_in_a_part_of_one_or_in_several() {
        let register = RegisterSpan { address: 0x88, bytes: 2 };
        assert_eq!(register.part_of(word(0x88, 0x05dc, 2)), Some(0x05dc));
        assert_eq!(
            register.part_of(word(0x86, 0x05dc_4e1f, 4)),
            Some(0x05dc),
            "the upper half of a longer word"
        );
        assert_eq!(register.part_of(word(0x88, 0xdc, 1)), Some(0xdc));
        assert_eq!(register.part_of(word(0x89, 0x05, 1)), Some(0x0500), "its upper byte");
        assert_eq!(register.part_of(word(0x88, 0x1234_5678, 4)), Some(0x5678));
    }

    #[test]
    fn words_elsewhere_say_nothing() {
        let register = RegisterSpan { address: 0x88, bytes: 2 };
        assert_eq!(register.part_of(word(0x8a, 1, 4)), None);
        assert_eq!(register.part_of(word(0x86, 1, 2)), None);
        assert_eq!(register.part_of(word(0, 1, 4)), None);
        assert_eq!(register.part_of(word(0x7c, 1, 16)), Some(0), "more bytes than a value has");
    }
}

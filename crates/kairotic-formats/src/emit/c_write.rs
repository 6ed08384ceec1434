//! C, statement by statement.

use kairotic_core::part::largest;
use kairotic_core::program::RegisterPlace;

use super::code::CodeText;
use super::words::{is_zero, type_bits};
use super::{EmitError, harmless};

/// C that is being written.
pub(super) struct CWriter<'a> {
    /// The upper-case name that macros begin with.
    pub(super) macros: &'a str,
    pub(super) code: CodeText,
}

impl CWriter<'_> {
    /// A line.
    pub(super) fn line(&mut self, text: impl AsRef<str>) {
        self.code.line(text);
    }

    /// A comment of several lines.
    pub(super) fn comment(&mut self, indent: &str, lines: &[String]) {
        let told: Vec<String> = lines.iter().map(|line| harmless(line)).collect();
        self.line(format!("{indent}/* {} */", told.join(&format!("\n{indent}   "))));
    }

    /// A write of a whole register.
    pub(super) fn write(&mut self, register: &RegisterPlace, value: &str) -> Result<(), EmitError> {
        let text = self.written(register, value)?;
        self.line(format!("    {text}"));
        Ok(())
    }

    /// A write of some bits: the others keep what they have.
    pub(super) fn modify(
        &mut self,
        register: &RegisterPlace,
        mask: u64,
        value: &str,
    ) -> Result<(), EmitError> {
        let text = self.modified(register, mask, value)?;
        self.write(register, &text)
    }

    /// What a register holds, with other bits under a mask.
    pub(super) fn modified(
        &self,
        register: &RegisterPlace,
        mask: u64,
        value: &str,
    ) -> Result<String, EmitError> {
        let keep = number(!mask & largest(register.bits), register.bits);
        let read = self.read(register)?;
        Ok(if is_zero(value) { format!("{read} & {keep}") } else { format!("({read} & {keep}) | {value}") })
    }

    /// The write of a register, as a statement.
    pub(super) fn written(&self, register: &RegisterPlace, value: &str) -> Result<String, EmitError> {
        Ok(format!("{}_WRITE({}, {}, {value});", self.macros, register.bits, address(register)?))
    }

    /// What a register holds, as an expression.
    pub(super) fn read(&self, register: &RegisterPlace) -> Result<String, EmitError> {
        Ok(format!("{}_READ({}, {})", self.macros, register.bits, address(register)?))
    }
}

/// A register's address.
pub(super) fn address(register: &RegisterPlace) -> Result<String, EmitError> {
    let address = register.address.ok_or_else(|| EmitError::Address(register.name.clone()))?;
    Ok(number(address, if address > 0xFFFF { 32 } else { 16 }))
}

/// A number with all digits of its width.
pub(super) fn number(value: u64, bits: u32) -> String {
    let digits = usize::try_from(bits.div_ceil(4)).unwrap_or(1);
    let suffix = if bits > 16 { "UL" } else { "U" };
    format!("0x{value:0digits$X}{suffix}")
}

/// The type that holds numbers up to one.
pub(super) fn word(largest: u64) -> String {
    format!("uint{}_t", type_bits(largest))
}

//! What a register package says of a part, in one form for all packages.

pub mod atdf;
pub mod include_file;
pub mod metapac;
pub mod pads;
pub mod pin_lists;
pub mod ral;
pub mod signals;
pub mod svd;
pub mod svd2pac;
pub mod svd2rust;
mod syntax;

use std::collections::BTreeMap;

/// The registers of a part as a package has them.
#[derive(Debug, Clone, Default)]
pub struct PackageDescription {
    /// Its registers by address; several at one address are views of one register, or lie in parts of it.
    pub registers: BTreeMap<u64, Vec<DescribedRegister>>,
    /// What comes out where.
    pub pins: Vec<DescribedPin>,
    /// What gives peripherals their clocks.
    pub gates: Vec<DescribedGate>,
}

/// A signal on a pin.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct DescribedPin {
    /// The peripheral in lower case.
    pub peripheral: String,
    /// The pin.
    pub pin: String,
    /// The signal as the package has it.
    pub signal: String,
    /// What chooses it, where that is said.
    pub code: Option<String>,
}

/// A field that gives a peripheral its clock.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct DescribedGate {
    /// The peripheral in lower case.
    pub peripheral: String,
    /// The register.
    pub register: String,
    /// The field.
    pub field: String,
}

/// A register.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct DescribedRegister {
    /// Peripheral and register, in lower case.
    pub name: String,
    /// Width in bits, where it is said.
    pub bits: Option<u32>,
    /// What it holds after reset, where that is said.
    pub reset: Option<u64>,
    /// Its fields.
    pub fields: Vec<DescribedField>,
}

/// A field of a register.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct DescribedField {
    /// Its name in lower case.
    pub name: String,
    /// Its lowest bit.
    pub low: u32,
    /// Its highest bit.
    pub high: u32,
    /// What its values mean, where that is said.
    pub codes: Vec<DescribedCode>,
}

/// A value of a field.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct DescribedCode {
    /// The value.
    pub code: u64,
    /// Its name.
    pub name: String,
    /// What is said of it.
    pub says: String,
}

impl PackageDescription {
    /// Adds what another package says.
    pub fn join(&mut self, other: Self) {
        self.pins.extend(other.pins);
        self.gates.extend(other.gates);
        for (address, registers) in other.registers {
            self.registers.entry(address).or_default().extend(registers);
        }
    }

    /// Adds a register.
    pub fn add(&mut self, address: u64, register: DescribedRegister) {
        self.registers.entry(address).or_default().push(register);
    }
}

//! Register values as they stand in somebody's code, and what the fields in them hold.

use std::collections::BTreeMap;
use std::str::FromStr;

use super::register::{self, Field, Register, Slot};
use crate::error::{Error, Result};

/// One `NAME=VALUE`.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Assignment {
    /// A register, `REGISTER.FIELD`, or a field's short name where only one register has it.
    pub name: String,
    /// The value.
    pub value: u64,
}

impl FromStr for Assignment {
    type Err = Error;

    fn from_str(text: &str) -> Result<Self> {
        let wrong = || Error::Assignment { text: text.chars().take(60).collect() };
        let (name, value) = text.split_once('=').ok_or_else(wrong)?;
        let digits = value.trim().replace('_', "");
        let parsed = if let Some(hex) = digits.strip_prefix("0x").or(digits.strip_prefix("0X")) {
            u64::from_str_radix(hex, 16)
        } else if let Some(binary) = digits.strip_prefix("0b").or(digits.strip_prefix("0B")) {
            u64::from_str_radix(binary, 2)
        } else {
            digits.parse()
        };
        let name = name.trim();
        // A sign would be taken for part of the number.
        if name.is_empty() || digits.contains(['+', '-']) {
            return Err(wrong());
        }
        Ok(Self { name: name.to_owned(), value: parsed.map_err(|_| wrong())? })
    }
}

/// Registers as a block or a clock tree describes them, and how somebody's code may call them.
#[derive(Debug, Clone, Copy)]
pub struct Names<'r> {
    /// The registers by name.
    pub registers: &'r BTreeMap<String, Register>,
    /// What may stand before their names.
    pub prefix: &'r str,
    /// Whose they are, for messages.
    pub place: &'r str,
}

/// The values of fields, as far as they are known.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Registers {
    /// By register and field; a register without fields has an empty field name.
    values: BTreeMap<(String, String), u64>,
}

impl Registers {
    /// What `assignments` say about the named fields. A whole register is taken apart.
    ///
    /// # Errors
    /// [`Error::UnknownName`], [`Error::RegisterRange`] and [`Error::RegisterTwice`].
    pub fn of(names: Names<'_>, assignments: &[Assignment]) -> Result<Self> {
        let mut registers = Self::default();
        for assignment in assignments {
            for (field, value) in names.resolve(assignment)? {
                registers.put(field, value)?;
            }
        }
        Ok(registers)
    }

    fn put(&mut self, field: Field, value: u64) -> Result<()> {
        let name = field.name();
        let key = (field.register, field.field.unwrap_or_default());
        match self.values.insert(key, value) {
            Some(first) if first != value => Err(Error::RegisterTwice { name, first, second: value }),
            _ => Ok(()),
        }
    }

    /// The value of a field, if it was given.
    pub fn value(&self, field: &Field) -> Option<u64> {
        self.values.get(&(field.register.clone(), field.field.clone().unwrap_or_default())).copied()
    }

    /// The number in a slot, if all its fields were given.
    pub fn number(&self, slot: &Slot) -> Option<u64> {
        slot.join(|field| self.value(field))
    }

    /// Whether any field of a slot was given.
    pub fn touches(&self, slot: &Slot) -> bool {
        slot.0.iter().any(|field| self.value(field).is_some())
    }

    /// Whether `value` contradicts what was given for a slot; fields not given contradict nothing.
    pub fn contradicts(&self, slot: &Slot, value: u64) -> bool {
        slot.split(value)
            .into_iter()
            .any(|(field, part)| self.value(field).is_some_and(|given| given != part))
    }
}

impl Names<'_> {
    /// The fields that an assignment gives values to.
    fn resolve(self, assignment: &Assignment) -> Result<Vec<(Field, u64)>> {
        let Assignment { name, value } = assignment;
        let prefix = self.prefix.to_lowercase();
        let wanted = name.to_lowercase();
        let short = wanted.strip_prefix(&prefix).filter(|_| !prefix.is_empty());
        let every = register::names(self.registers);
        let found = every.iter().find(|known| {
            let known = known.to_lowercase();
            known == wanted || Some(known.as_str()) == short
        });
        let by_field: Vec<&String> = every
            .iter()
            .filter(|known| {
                known.split_once('.').is_some_and(|(_, field)| {
                    let field = field.to_lowercase();
                    field == wanted || Some(field.as_str()) == short
                })
            })
            .collect();
        let target = match (found, by_field.as_slice()) {
            (Some(found), _) => found,
            (None, [only]) => *only,
            (None, []) => {
                return Err(Error::unknown("register", name, self.place, every.iter().map(String::as_str)));
            }
            (None, several) => {
                let nearest = several.iter().map(|name| (*name).clone()).collect();
                return Err(Error::UnknownName {
                    kind: "single register field",
                    name: name.clone(),
                    place: self.place.to_owned(),
                    known: every.clone(),
                    nearest,
                });
            }
        };
        let whole = self.field(target)?;
        if *value > whole.largest() {
            return Err(Error::RegisterRange { name: whole.name(), value: *value, max: whole.largest() });
        }
        let fields = self.registers.get(target).map(|register| &register.fields);
        Ok(match fields.filter(|fields| !fields.is_empty()) {
            None => vec![(whole, *value)],
            Some(fields) => fields
                .keys()
                .map(|field| {
                    let field = self.field(&format!("{target}.{field}"))?;
                    let part = (value >> field.low) & field.largest();
                    Ok((field, part))
                })
                .collect::<Result<Vec<_>>>()?,
        })
    }

    /// The place that is known to be there.
    fn field(self, name: &str) -> Result<Field> {
        register::find(self.registers, name)
            .ok_or_else(|| Error::unknown("register", name, self.place, std::iter::empty()))
    }
}

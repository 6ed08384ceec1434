//! A program while it is put together: fields collect until something has to stand between them, then each register is
//! written once.

use std::collections::BTreeMap;

use super::step::{Action, Phase, ProgramStep, RegisterPlace, RegisterWrite};
use crate::error::{Error, Result};
use crate::part::{Access, Field, Part, ReachedBy, Register, Timer, Trust, largest};
use crate::setting::{FieldWrite, Written};

/// A register as a program knows it.
#[derive(Debug, Clone)]
pub(super) struct KnownRegister {
    pub(super) place: RegisterPlace,
    pub(super) register: Register,
    /// Whether nothing else is in it that somebody may have set.
    pub(super) own: bool,
    /// Whether it is known what it holds after reset.
    pub(super) tracked: bool,
}

/// One field to write, and what for.
#[derive(Debug)]
struct PendingField {
    field: Field,
    write: FieldWrite,
}

/// A register with the fields that are to be written in one go.
#[derive(Debug)]
struct PendingRegister {
    known: KnownRegister,
    fields: Vec<PendingField>,
    of: Vec<String>,
    trust: Trust,
}

/// A program while it is put together.
pub(super) struct Draft<'p> {
    pub(super) part: &'p Part,
    /// Every timer of the part, for what they have in common.
    pub(super) timers: Vec<Timer>,
    steps: Vec<ProgramStep>,
    pending: Vec<PendingRegister>,
    /// What registers hold, coming from reset; those that are missing hold what they have after reset.
    holds: BTreeMap<String, u64>,
}

impl<'p> Draft<'p> {
    pub(super) fn of(part: &'p Part) -> Self {
        let timers = part.timers.iter().filter_map(|timer| part.instantiate(timer, None).ok()).collect();
        Self { part, timers, steps: Vec::new(), pending: Vec::new(), holds: BTreeMap::new() }
    }

    /// The steps so far.
    pub(super) fn finish(mut self) -> Vec<ProgramStep> {
        self.flush(Phase::Start);
        self.steps
    }

    /// Adds a field to the register's next write.
    pub(super) fn field(
        &mut self,
        known: &KnownRegister,
        field: &Field,
        write: FieldWrite,
        of: &str,
        trust: Trust,
    ) -> Result<()> {
        let same = |pending: &PendingRegister| pending.known.place.name == known.place.name;
        let place = self.pending.iter().position(same).unwrap_or_else(|| {
            self.pending.push(PendingRegister {
                known: known.clone(),
                fields: Vec::new(),
                of: Vec::new(),
                trust,
            });
            self.pending.len() - 1
        });
        let Some(pending) = self.pending.get_mut(place) else { return Ok(()) };
        pending.trust = pending.trust.max(trust);
        if !pending.of.iter().any(|known| known == of) {
            pending.of.push(of.to_owned());
        }
        match pending.fields.iter().find(|known| known.field == *field) {
            None => pending.fields.push(PendingField { field: field.clone(), write }),
            Some(known) if known.write.written == write.written => {}
            Some(known) => {
                return Err(Error::FieldWrittenTwice {
                    field: known.write.name(),
                    first: known.write.written.to_string(),
                    second: write.written.to_string(),
                    of: pending.of.join(" and "),
                });
            }
        }
        Ok(())
    }

    /// Adds a step that stands by itself, after everything that is pending.
    pub(super) fn step(
        &mut self,
        phase: Phase,
        action: Action,
        why: impl Into<String>,
        of: &str,
        trust: Trust,
    ) {
        self.flush(phase);
        // What was waited for is still so, as long as nothing was written since.
        let since = self.steps.iter().rev().take_while(|step| matches!(step.action, Action::Until { .. }));
        if matches!(action, Action::Until { .. }) && since.into_iter().any(|step| step.action == action) {
            return;
        }
        self.steps.push(ProgramStep { phase, action, why: why.into(), of: of.to_owned(), trust });
    }

    /// Whether a register or a field of it was written for a timer in a phase.
    pub(super) fn has_written(&self, name: &str, of: &str, phase: Phase) -> bool {
        let means = |write: &FieldWrite| {
            let written = write.name();
            written == name || write.register == name
        };
        let here =
            self.steps.iter().filter(|step| step.phase == phase && step.of.split(", ").any(|own| own == of));
        here.flat_map(|step| step.action.fields()).any(means)
    }

    /// What a register holds now, coming from reset.
    pub(super) fn held(&self, known: &KnownRegister) -> u64 {
        self.holds.get(&known.place.name).copied().unwrap_or(known.register.reset)
    }

    /// Writes what is pending, each register once.
    pub(super) fn flush(&mut self, phase: Phase) {
        for pending in std::mem::take(&mut self.pending) {
            if let Some(step) = self.written(phase, pending) {
                self.steps.push(step);
            }
        }
    }

    fn written(&mut self, phase: Phase, pending: PendingRegister) -> Option<ProgramStep> {
        let PendingRegister { known, fields, of, trust } = pending;
        let held = self.held(&known);
        let (mut mask, mut value, mut pointer) = (0_u64, 0_u64, None);
        for PendingField { field, write } in &fields {
            mask |= field.mask();
            match &write.written {
                Written::Number(number) => value |= field.in_place(*number),
                Written::AddressOf(name) => pointer = Some(name.clone()),
            }
        }
        let why = fields.iter().map(|part| part.write.note.as_str()).collect::<Vec<_>>().join("; ");
        let fields: Vec<FieldWrite> = fields.into_iter().map(|part| part.write).collect();
        let of = of.join(", ");
        let KnownRegister { place, register, own, tracked } = known;
        if place.access == Access::Programmed {
            let action = Action::Programmed { register: place, mask, value, fields };
            return Some(ProgramStep { phase, action, why, of, trust });
        }
        // What is only read tells of a choice that other registers make.
        if place.access == Access::ReadOnly {
            return None;
        }
        let covered = mask == largest(register.bits);
        let write_only = place.access == Access::WriteOnly;
        let whole = own || covered || write_only;
        // What a register that is only written holds, nobody can tell; the bits of such a one act when they are written.
        let base = if write_only { 0 } else { held & largest(register.bits) };
        let holds = (base & !mask) | value;
        let tracked = tracked && pointer.is_none();
        // Several timers may need the same gate.
        let early = matches!(phase, Phase::Clock | Phase::Gate);
        if early && tracked && !write_only && holds == held {
            return None;
        }
        if !write_only {
            self.holds.insert(place.name.clone(), holds);
        }
        let action = match self.part.memory.as_ref().map(|memory| memory.reach).unwrap_or_default() {
            ReachedBy::I2c { address } => {
                let count = register.bits.div_ceil(8);
                let bytes = (0..count).map(|byte| u8::try_from((holds >> (8 * byte)) & 0xFF).unwrap_or(0));
                let at = u8::try_from(place.address.unwrap_or(0)).unwrap_or(0);
                let bytes = std::iter::once(at).chain(bytes).collect();
                Action::Transfer { register: place.name, address, bytes, fields }
            }
            ReachedBy::Attributes => Action::Attribute { name: place.name, value: holds, fields },
            ReachedBy::Memory => {
                let unlock =
                    register.unlock.as_ref().map(|unlock| (self.unlocking(&unlock.register), unlock.clone()));
                let (value, mask) = if whole { (holds, largest(place.bits)) } else { (value, mask) };
                let held = (tracked || whole).then_some(holds).filter(|_| pointer.is_none());
                let value = pointer.map_or(Written::Number(value), Written::AddressOf);
                Action::Write(RegisterWrite { register: place, value, mask, holds: held, unlock, fields })
            }
        };
        Some(ProgramStep { phase, action, why, of, trust })
    }

    /// The register that another is unlocked by.
    fn unlocking(&self, name: &str) -> RegisterPlace {
        let register = self.part.bring_up_register(name);
        RegisterPlace {
            name: name.to_owned(),
            address: self.part.bring_up_address(name),
            bits: register.map_or(8, |register| self.part.access_bits(register)),
            access: Access::WriteOnly,
        }
    }

    /// A register of bring-up or clock tree.
    pub(super) fn known(&self, name: &str) -> Option<KnownRegister> {
        let register = self.part.bring_up_register(name)?.clone();
        let place = RegisterPlace {
            name: name.to_owned(),
            address: self.part.bring_up_address(name),
            bits: self.part.access_bits(&register),
            access: register.access,
        };
        Some(KnownRegister { place, register, own: false, tracked: true })
    }
}

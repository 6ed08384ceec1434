//! The steps of a recipe: fields to set, flags and times to wait for, and what the catalogue does not know.

use super::draft::Draft;
use super::step::{Action, Phase};
use crate::error::Result;
use crate::part::{Fact, Field, FieldIs, RecipeStep, Trust};
use crate::setting::{FieldWrite, Written};

/// What a step is for.
#[derive(Debug, Clone, Copy)]
pub(super) struct Purpose<'a> {
    pub(super) phase: Phase,
    pub(super) of: &'a str,
    pub(super) trust: Trust,
}

/// How far some statements can be trusted together: as far as the weakest.
pub(super) fn trust<'f>(facts: impl IntoIterator<Item = &'f Fact>) -> Trust {
    facts.into_iter().map(|fact| fact.trust).max().unwrap_or(Trust::Unsure)
}

impl Draft<'_> {
    /// Adds the steps of a recipe.
    pub(super) fn recipe(&mut self, steps: &[RecipeStep], purpose: Purpose<'_>) -> Result<()> {
        for RecipeStep { set, until, delay, supply, means } in steps {
            let Purpose { phase, of, trust } = purpose;
            if let Some(FieldIs { field, value }) = set {
                self.set(std::slice::from_ref(field), *value, means, purpose)?;
            }
            if let Some(until) = until {
                self.until(until, means, purpose)?;
            }
            if let Some(time) = delay {
                self.step(phase, Action::Delay { time: *time }, means, of, trust);
            }
            if let Some(function) = supply {
                self.step(phase, Action::Supply { function: function.clone() }, means, of, trust);
            }
        }
        Ok(())
    }

    /// Adds a number in a slot of bring-up or clock tree.
    pub(super) fn set(
        &mut self,
        slot: &[String],
        value: u64,
        means: &str,
        purpose: Purpose<'_>,
    ) -> Result<()> {
        let slot = self.part.bring_up_slot(slot)?;
        for (field, written) in slot.split(value) {
            self.put(field, written, means, purpose)?;
        }
        Ok(())
    }

    fn put(&mut self, field: &Field, written: u64, means: &str, purpose: Purpose<'_>) -> Result<()> {
        let Some(known) = self.known(&field.register) else { return Ok(()) };
        let write = FieldWrite {
            register: field.register.clone(),
            field: field.field.clone(),
            meant: written.to_string(),
            written: Written::Number(written),
            note: means.to_owned(),
        };
        self.field(&known, field, write, purpose.of, purpose.trust)
    }

    /// Adds a wait for a field of bring-up or clock tree.
    pub(super) fn until(&mut self, until: &FieldIs, means: &str, purpose: Purpose<'_>) -> Result<()> {
        let slot = self.part.bring_up_slot(std::slice::from_ref(&until.field))?;
        for field in &slot.0 {
            let Some(known) = self.known(&field.register) else { continue };
            let action = Action::Until {
                register: known.place,
                mask: field.mask(),
                value: field.in_place(until.value),
            };
            self.step(purpose.phase, action, means, purpose.of, purpose.trust);
        }
        Ok(())
    }
}

//! Any other load: the duty is all there is.

use serde::Serialize;

use super::kind::{KindEntry, LoadKind};
use super::{Kind, Realised};
use crate::error::Result;
use crate::quantity::{Duty, LoadLevel, Rational};
use crate::target::Active;

/// Any other load.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
pub struct Plain;

impl Plain {
    pub(super) const ENTRY: KindEntry = KindEntry {
        word: "plain",
        measures: "level",
        keys: &[],
        read: |_| Some(Kind::Plain(Self)),
        seen: &[],
    };
}

impl LoadKind for Plain {
    fn entry(&self) -> &'static KindEntry {
        &Self::ENTRY
    }

    fn active_of(&self, level: Rational) -> Result<Active> {
        Ok(Active::Duty(Duty::new(level)))
    }

    fn level(&self, realised: Realised) -> Result<LoadLevel> {
        Ok(LoadLevel::Share(realised.duty))
    }
}

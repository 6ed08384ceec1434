//! How fast a load turns, as observed: for moves that run it for a time.

use serde::Serialize;

use super::ObservedValue;
use super::keys::{Keys, LoadKey};
use super::sheet::Sheet;
use crate::error::Result;
use crate::quantity::{Figure, LoadLevel, Speed, Time};

/// How fast a load turns, as far as that was observed.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize)]
pub struct Turning {
    /// At full level; at others it is the share of that.
    pub full_speed: Option<Speed>,
    /// How long it takes until it turns so fast.
    pub spin_up: Option<Time>,
    /// How long it takes until it stands.
    pub run_down: Option<Time>,
}

/// Its keys in a board file.
pub(super) const FULL_SPEED: LoadKey =
    LoadKey::text("full-speed", "how fast it turns at full level, as observed, `140rpm`");
pub(super) const SPIN_UP: LoadKey = LoadKey::text("spin-up", "how long it takes until it turns so fast");
pub(super) const RUN_DOWN: LoadKey = LoadKey::text("run-down", "how long it takes until it stands");

impl Turning {
    pub(super) fn read(keys: &mut Keys<'_>) -> Self {
        let mut time = |key: &LoadKey| {
            let given: Option<Time> = keys.take(key.name);
            given.filter(|time| {
                let wrong = time.positive().err();
                wrong.map(|error| keys.0.refuse(key.name, error.into())).is_none()
            })
        };
        let (spin_up, run_down) = (time(&SPIN_UP), time(&RUN_DOWN));
        let full_speed = if keys.0.has(FULL_SPEED.name) { keys.positive(FULL_SPEED.name) } else { None };
        Self { full_speed, spin_up, run_down }
    }

    /// The speed at a level, whichever way round.
    ///
    /// # Errors
    /// A number that does not fit.
    pub fn speed_at(&self, level: LoadLevel) -> Result<Option<Speed>> {
        let share = level.value().magnitude();
        Ok(self.full_speed.map(|full| full.times(share)).transpose()?)
    }

    /// With the full speed that was seen, where speeds were.
    pub(super) fn seen(self, sheet: &Sheet) -> Self {
        let are_speeds = sheet.all(|reading| matches!(reading, ObservedValue::Speed(_)));
        Self { full_speed: are_speeds.then(|| Speed::new(sheet.full(true))).or(self.full_speed), ..self }
    }

    /// The key of a board file that a calibration finds, with its figure.
    pub(super) fn calibrated_key(self) -> Option<(&'static str, Figure)> {
        Some((FULL_SPEED.name, Figure::Speed(self.full_speed?)))
    }
}

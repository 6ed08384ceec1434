//! A fan with a control input: speed against duty.

use serde::Serialize;

use super::keys::{Keys, LoadKey};
use super::kind::{KeyFigure, KindEntry, LoadKind, Seen};
use super::line::TwoPointLine;
use super::pacing::{Kick, Pacing};
use super::sheet::{Calibrated, Sheet, Through, duty};
use super::turning::{self, Turning};
use super::{Kind, Realised};
use crate::error::{OrOverflow, Result};
use crate::finding::{DutyBelowStart, Finding};
use crate::quantity::{Duty, Figure, Frequency, LoadLevel, Range, Rational};
use crate::setting::{Output, Setting};
use crate::target::{Active, Span};

/// A fan.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
pub struct Fan {
    /// The frequencies that its input takes.
    pub window: Option<Range<Frequency>>,
    /// The duty of its slowest speed.
    pub lowest: Duty,
    /// Its slowest speed as a share of full speed.
    pub slowest: Duty,
    /// Pulses that it gives for each turn.
    pub pulses_per_turn: Option<u32>,
    /// What makes it break away.
    pub kick: Option<Kick>,
    /// How fast it turns, as observed.
    pub turning: Turning,
}

impl Fan {
    pub(super) const ENTRY: KindEntry = KindEntry {
        word: "fan",
        measures: "speed",
        keys: &[
            LoadKey::text("window", "the frequencies that its input takes"),
            LoadKey::text("lowest", "the duty of its slowest speed"),
            LoadKey::text("slowest", "its slowest speed as a share of full speed"),
            LoadKey::whole("pulses-per-turn", "pulses per revolution"),
            LoadKey::text("kick", "what makes it break away from standing, `60% for 150ms`"),
            turning::FULL_SPEED,
            turning::SPIN_UP,
            turning::RUN_DOWN,
        ],
        read: |keys| Self::read(keys).map(Kind::Fan),
        seen: &[Seen::Speed],
    };

    fn read(keys: &mut Keys<'_>) -> Option<Self> {
        let window = keys.take("window");
        let lowest = keys.share("lowest").unwrap_or(Duty::ZERO);
        let slowest = keys.share("slowest").unwrap_or(lowest);
        let (kick, turning) = (keys.take("kick"), Turning::read(keys));
        let pulses_per_turn = keys.0.whole("pulses-per-turn").and_then(|count| u32::try_from(count).ok());
        let one = Duty::new(Rational::ONE);
        if lowest >= one || slowest >= one {
            keys.report("lowest", "expected less than 100 %");
            return None;
        }
        Some(Self { window: keys.rising("window", window), lowest, slowest, pulses_per_turn, kick, turning })
    }

    /// Duty against speed.
    fn line(&self) -> TwoPointLine {
        TwoPointLine { from: (self.slowest.value(), self.lowest.value()), to: (Rational::ONE, Rational::ONE) }
    }
}

impl LoadKind for Fan {
    fn entry(&self) -> &'static KindEntry {
        &Self::ENTRY
    }

    fn span(&self) -> Result<Span> {
        Ok(Span::Duty(Range { low: self.lowest, high: Duty::new(Rational::ONE) }))
    }

    fn active_of(&self, speed: Rational) -> Result<Active> {
        // Below the slowest it is off.
        let duty = match speed < self.slowest.value() {
            true => Duty::ZERO,
            false => Duty::new(self.line().at(speed)?),
        };
        Ok(Active::Duty(duty))
    }

    fn level(&self, realised: Realised) -> Result<LoadLevel> {
        let speed = match realised.duty < self.lowest {
            true => Rational::ZERO,
            false => self.line().turned().at(realised.duty.value())?,
        };
        Ok(LoadLevel::Share(Duty::new(speed)))
    }

    fn at_rest(&self) -> Option<&'static str> {
        Some("speeds below the slowest are off: write the compare value of 0 % for them instead")
    }

    fn frequencies(&self) -> Option<Range<Frequency>> {
        self.window
    }

    fn pulses_per_turn(&self) -> Option<u32> {
        self.pulses_per_turn
    }

    fn pacing(&self) -> Pacing {
        Pacing { kick: self.kick, ..Pacing::default() }
    }

    fn turning(&self) -> Turning {
        self.turning
    }

    fn judge(&self, name: &str, setting: &Setting) -> Result<Vec<Finding>> {
        let slow = |output: &&Output| output.duty > Duty::ZERO && output.duty < self.lowest;
        let below = |output: &Output| {
            DutyBelowStart { load: name.to_owned(), duty: output.duty, start: self.lowest }.into()
        };
        Ok(setting.outputs.iter().filter(slow).map(below).collect())
    }

    fn calibrated(&self, sheet: &mut Sheet) -> Result<Calibrated> {
        let line = sheet.rising(duty, |seen| !seen.is_zero(), Through::Anything)?;
        // Only where it was seen to stand below is the least that turned it its lowest.
        let stood = sheet.standing(duty);
        let lowest = sheet.least_turning().filter(|least| stood.is_some_and(|stood| stood < least.value()));
        let lowest = lowest.unwrap_or(self.lowest);
        let share = line.at(lowest.value())?.over(line.at(Rational::ONE)?).or_overflow("speed")?;
        let slowest = Duty::new(share.max(Rational::ZERO));
        Ok(Self { lowest, slowest, turning: self.turning.seen(sheet), ..*self }.into())
    }

    fn calibrated_keys(&self) -> Vec<(&'static str, KeyFigure)> {
        let one = |duty| KeyFigure::One(Figure::Duty(duty));
        let turning = self.turning.calibrated_key().map(|(key, figure)| (key, KeyFigure::One(figure)));
        let found = [("lowest", one(self.lowest)), ("slowest", one(self.slowest))];
        found.into_iter().chain(turning).collect()
    }
}

//! A speed controller: the length of the pulse is a throttle, in one direction or in both.

use serde::Serialize;

use super::driven::Arming;
use super::keys::{Keys, LoadKey};
use super::kind::{KeyFigure, KindEntry, LoadKind, Seen};
use super::line::TwoPointLine;
use super::pacing::{Pacing, Teaching};
use super::sheet::{Calibrated, Sheet, Through, pulse, refused};
use super::{Driven, Kind, Realised};
use crate::error::{OrOverflow, Result};
use crate::quantity::{Duty, Figure, Frequency, LoadLevel, Range, Rational, Time};
use crate::setting::Output;
use crate::target::{Active, Span};

/// A speed controller.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
pub struct SpeedController {
    /// The pulses for the lowest and for full throttle.
    pub span: Range<Time>,
    /// The pulse at rest of one that goes both ways; one that goes one way rests at its lowest pulse.
    pub neutral: Option<Time>,
    /// What it wants to see before it lets the motor turn.
    pub arming: Option<Arming>,
    /// How long it sees each of its ends where it learns them.
    pub teach_hold: Option<Time>,
    /// The frame rates that it tolerates.
    pub frame: Option<Range<Frequency>>,
}

impl SpeedController {
    pub(super) const ENTRY: KindEntry = KindEntry {
        word: "speed-controller",
        measures: "throttle",
        keys: &[
            LoadKey::text("span", "shortest to longest pulse, `900us..2100us`"),
            LoadKey::text("neutral", "the pulse at rest, where it goes both ways"),
            LoadKey::text("arm-pulse", "the pulse that it wants to see before it lets the motor turn"),
            LoadKey::text("arm-hold", "for how long"),
            LoadKey::text(
                "calibrate-hold",
                "how long it sees the longest pulse, and then the shortest, to learn them",
            ),
            LoadKey::text("frame", "the frame rates that it tolerates"),
        ],
        read: |keys| Self::read(keys).map(Kind::SpeedController),
        seen: &[Seen::Speed],
    };

    fn read(keys: &mut Keys<'_>) -> Option<Self> {
        let (span, neutral) = (keys.need("span"), keys.take::<Time>("neutral"));
        let (pulse, hold) = (keys.take("arm-pulse"), keys.take("arm-hold"));
        let (teach_hold, frame) = (keys.take("calibrate-hold"), keys.take("frame"));
        let span = keys.rising("span", span)?;
        if let Some(neutral) = neutral.filter(|neutral| *neutral <= span.low || *neutral >= span.high) {
            keys.report("neutral", format!("expected a pulse inside {span}, found {neutral}"));
            return None;
        }
        if pulse.is_some() != hold.is_some() {
            keys.0.report(None, "`arm-pulse` and `arm-hold` belong together".to_owned());
        }
        let arming = pulse.zip(hold).map(|(pulse, hold)| Arming { pulse, hold });
        Some(Self { span, neutral, arming, teach_hold, frame: keys.rising("frame", frame) })
    }

    /// The line of forward throttle, or of reverse.
    fn line(&self, forward: bool) -> TwoPointLine {
        let rest = self.neutral.unwrap_or(self.span.low).value();
        if forward || self.neutral.is_none() {
            TwoPointLine { from: (Rational::ZERO, rest), to: (Rational::ONE, self.span.high.value()) }
        } else {
            TwoPointLine { from: (Rational::whole(-1), self.span.low.value()), to: (Rational::ZERO, rest) }
        }
    }
}

impl LoadKind for SpeedController {
    fn entry(&self) -> &'static KindEntry {
        &Self::ENTRY
    }

    fn levels(&self) -> Result<[LoadLevel; 2]> {
        let lowest = if self.neutral.is_some() { Rational::whole(-1) } else { Rational::ZERO };
        Ok([lowest, Rational::ONE].map(|share| LoadLevel::Share(Duty::new(share))))
    }

    fn span(&self) -> Result<Span> {
        Ok(Span::Pulse(self.span))
    }

    fn active_of(&self, throttle: Rational) -> Result<Active> {
        let pulse = self.line(throttle >= Rational::ZERO).at(throttle)?;
        Ok(Active::Pulse(Time::new(pulse)))
    }

    fn level(&self, realised: Realised) -> Result<LoadLevel> {
        let pulse = realised.pulse.value();
        let rest = self.neutral.unwrap_or(self.span.low).value();
        let throttle = self.line(pulse >= rest).turned().at(pulse)?;
        Ok(LoadLevel::Share(Duty::new(throttle)))
    }

    fn steepest(&self) -> Result<Vec<Active>> {
        // Two lines meet in the middle.
        Ok([Some(self.span.low), self.neutral].into_iter().flatten().map(Active::Pulse).collect())
    }

    fn frequencies(&self) -> Option<Range<Frequency>> {
        self.frame
    }

    fn pacing(&self) -> Pacing {
        let Range { low: shortest, high: longest } = self.span;
        let teaching = self.teach_hold.map(|hold| Teaching { longest, shortest, hold });
        Pacing { arming: self.arming, teaching, ..Pacing::default() }
    }

    fn drive(&self, driven: &mut Driven, _: Option<(&Output, LoadLevel)>) -> Result<()> {
        driven.arming = self.arming;
        Ok(())
    }

    fn calibrated(&self, sheet: &mut Sheet) -> Result<Calibrated> {
        let forward = sheet.rising(pulse, |seen| seen.is_positive(), Through::Anything)?;
        let high = Time::new(forward.back(sheet.full(true))?);
        let first = forward.back(Rational::ZERO)?;
        if self.neutral.is_none() {
            if sheet.readings().any(|seen| seen < Rational::ZERO) {
                return Err(refused("a controller without `neutral` goes one way, and was seen to go back"));
            }
            return Ok(Self { span: Range { low: Time::new(first), high }, ..*self }.into());
        }
        let reverse = sheet.rising(pulse, |seen| seen < Rational::ZERO, Through::Anything)?;
        let low = Time::new(reverse.back(sheet.full(false))?);
        let last = reverse.back(Rational::ZERO)?;
        let middle = last.plus(first).and_then(|sum| sum.over(Rational::whole(2))).or_overflow("pulse")?;
        let found = Self { span: Range { low, high }, neutral: Some(Time::new(middle)), ..*self };
        let dead_zone = Range { low: Time::new(last), high: Time::new(first) };
        let dead_zone = Some(dead_zone).filter(|zone| zone.low < zone.high);
        Ok(Calibrated { dead_zone, ..found.into() })
    }

    fn calibrated_keys(&self) -> Vec<(&'static str, KeyFigure)> {
        let [low, high] = [self.span.low, self.span.high].map(Figure::Time);
        let neutral = self.neutral.map(|neutral| ("neutral", KeyFigure::One(Figure::Time(neutral))));
        [("span", KeyFigure::Range(low, high))].into_iter().chain(neutral).collect()
    }
}

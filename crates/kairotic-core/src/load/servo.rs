//! A servo: the length of the pulse is an angle.

use serde::Serialize;

use super::keys::{Keys, LoadKey};
use super::kind::{KeyFigure, KindEntry, LoadKind};
use super::line::TwoPointLine;
use super::pacing::{Pacing, Slew};
use super::sheet::{Calibrated, Sheet, Through, pulse};
use super::{DeadBand, Driven, Kind, Realised};
use crate::error::Result;
use crate::quantity::{Angle, Duty, Figure, Frequency, LoadLevel, Range, Rational, Time};
use crate::setting::Output;
use crate::target::{Active, Span};

/// A servo.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
pub struct Servo {
    /// The shortest and the longest pulse that it is given.
    pub span: Range<Time>,
    /// The angles for the two, in either order.
    pub travel: Range<Angle>,
    /// Changes of the pulse that it does not follow.
    pub dead_band: Option<Time>,
    /// The frame rates that it tolerates.
    pub frame: Option<Range<Frequency>>,
    /// How fast it turns, at most.
    pub slew: Option<Slew>,
}

impl Servo {
    pub(super) const ENTRY: KindEntry = KindEntry {
        word: "servo",
        measures: "angle",
        keys: &[
            LoadKey::text("span", "shortest to longest pulse, `900us..2100us`"),
            LoadKey::text("travel", "the angles for the two, `0deg..120deg`"),
            LoadKey::text("dead-band", "changes of the pulse that it does not follow"),
            LoadKey::text("frame", "the frame rates that it tolerates"),
            LoadKey::text("slew", "how fast it turns at most, `60deg in 120ms`"),
        ],
        read: |keys| Self::read(keys).map(Kind::Servo),
        seen: &[],
    };

    fn read(keys: &mut Keys<'_>) -> Option<Self> {
        let (span, travel) = (keys.need("span"), keys.need::<Range<Angle>>("travel"));
        let (dead_band, frame, slew) = (keys.take("dead-band"), keys.take("frame"), keys.take("slew"));
        let (span, travel) = (keys.rising("span", span)?, travel?);
        if travel.low == travel.high {
            keys.report("travel", "expected two different angles");
            return None;
        }
        Some(Self { span, travel, dead_band, frame: keys.rising("frame", frame), slew })
    }

    /// Angle against pulse.
    fn line(&self) -> TwoPointLine {
        TwoPointLine {
            from: (self.span.low.value(), self.travel.low.value()),
            to: (self.span.high.value(), self.travel.high.value()),
        }
    }
}

impl LoadKind for Servo {
    fn entry(&self) -> &'static KindEntry {
        &Self::ENTRY
    }

    fn read_level(&self, text: &str) -> Result<LoadLevel> {
        Ok(LoadLevel::Angle(text.parse()?))
    }

    fn levels(&self) -> Result<[LoadLevel; 2]> {
        Ok([self.travel.low, self.travel.high].map(LoadLevel::Angle))
    }

    fn span(&self) -> Result<Span> {
        Ok(Span::Pulse(self.span))
    }

    fn active_of(&self, angle: Rational) -> Result<Active> {
        self.line().turned().at(angle).map(|pulse| Active::Pulse(Time::new(pulse)))
    }

    fn level(&self, realised: Realised) -> Result<LoadLevel> {
        self.line().at(realised.pulse.value()).map(|angle| LoadLevel::Angle(Angle::new(angle)))
    }

    fn frequencies(&self) -> Option<Range<Frequency>> {
        self.frame
    }

    fn pacing(&self) -> Pacing {
        Pacing { slew: self.slew, dead_band: self.dead_band, ..Pacing::default() }
    }

    fn drive(&self, driven: &mut Driven, _: Option<(&Output, LoadLevel)>) -> Result<()> {
        if let Some(pulse) = self.dead_band {
            let level = Kind::Servo(*self).level_of_step(Realised { duty: Duty::ZERO, pulse })?;
            driven.dead_band = Some(DeadBand { pulse, level });
        }
        Ok(())
    }

    fn calibrated(&self, sheet: &mut Sheet) -> Result<Calibrated> {
        let line = sheet.line(pulse, |_| true, Through::Anything)?;
        let at = |level: Rational| line.back(level).map(Time::new);
        let Range { low, high } = self.travel;
        let span = Range { low: at(low.value())?, high: at(high.value())? };
        if span.low < span.high {
            return Ok(Self { span, ..*self }.into());
        }
        // It turns the other way.
        let (span, travel) = (Range { low: span.high, high: span.low }, Range { low: high, high: low });
        Ok(Self { span, travel, ..*self }.into())
    }

    fn calibrated_keys(&self) -> Vec<(&'static str, KeyFigure)> {
        let [low, high] = [self.span.low, self.span.high].map(Figure::Time);
        let [first, last] =
            [self.travel.low, self.travel.high].map(|angle| Figure::Level(LoadLevel::Angle(angle)));
        vec![("span", KeyFigure::Range(low, high)), ("travel", KeyFigure::Range(first, last))]
    }
}

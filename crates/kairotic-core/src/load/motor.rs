//! A DC motor on a supply, behind a switch or a bridge.

use serde::Serialize;

use super::keys::{Keys, LoadKey};
use super::kind::{KeyFigure, KindEntry, LoadKind, Seen};
use super::line::TwoPointLine;
use super::pacing::{Kick, Pacing};
use super::sheet::{Calibrated, Sheet, Through, duty, refused};
use super::turning::{self, Turning};
use super::{Driven, Kind, ObservedValue, Realised};
use crate::error::{OrOverflow, Result};
use crate::finding::{AudibleFrequency, DutyBelowStart, Finding, ReversalWithoutPause, VoltsAboveRating};
use crate::quantity::{Duty, Figure, Frequency, LoadLevel, Range, Rational, Time, Voltage};
use crate::setting::{Output, Setting};
use crate::target::{Active, Span};

/// A DC motor.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
pub struct Motor {
    /// What the bridge switches.
    pub supply: Voltage,
    /// What the motor is made for.
    pub rated: Voltage,
    /// The duty below which it hums and stands.
    pub start: Duty,
    /// The duty at full throttle; where none is given, the one whose average is the rated voltage.
    pub full: Option<Duty>,
    /// How it is wired.
    pub wiring: Wiring,
    /// The lowest frequency that is pleasant to hear, or not heard at all.
    pub quiet: Option<Frequency>,
    /// How long it rests before it turns the other way.
    pub pause: Option<Time>,
    /// What makes it break away.
    pub kick: Option<Kick>,
    /// How fast it turns, as observed.
    pub turning: Turning,
}

/// How a motor is wired to what switches it.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum Wiring {
    /// One switch: one direction.
    OneSwitch,
    /// A bridge with two lines: one carries the PWM, the other rests; which one is the direction.
    TwoLines,
    /// A bridge with an enable line that carries the PWM and two lines for the direction.
    EnableAndDirection,
}

impl Wiring {
    /// Whether the motor can turn both ways.
    pub const fn reverses(self) -> bool {
        !matches!(self, Self::OneSwitch)
    }

    /// What the lines do for a throttle.
    pub fn lines(self, throttle: Rational) -> &'static str {
        let forward = throttle >= Rational::ZERO;
        match self {
            Self::OneSwitch => "the switch carries the PWM",
            Self::TwoLines if forward => "the first line carries the PWM, the second rests low",
            Self::TwoLines => "the second line carries the PWM, the first rests low",
            Self::EnableAndDirection if forward => "enable carries the PWM, the first direction line is high",
            Self::EnableAndDirection => "enable carries the PWM, the second direction line is high",
        }
    }
}

impl Motor {
    pub(super) const ENTRY: KindEntry = KindEntry {
        word: "motor",
        measures: "throttle",
        keys: &[
            LoadKey::text("supply", "the supply that is switched"),
            LoadKey::text("rated", "what it is made for"),
            LoadKey::text("start", "the duty below which it hums and stands"),
            LoadKey::text(
                "full",
                "the duty at full throttle; the one that gives the rated voltage where none is given",
            ),
            LoadKey::text("wiring", "`one-switch`, `two-lines` or `enable-and-direction`"),
            LoadKey::text("quiet", "the lowest frequency that is pleasant to hear, or not heard"),
            LoadKey::text("pause", "how long it rests before it turns the other way"),
            LoadKey::text("kick", "what makes it break away from standing, `60% for 150ms`"),
            turning::FULL_SPEED,
            turning::SPIN_UP,
            turning::RUN_DOWN,
        ],
        read: |keys| Self::read(keys).map(Kind::Motor),
        seen: &[Seen::Speed, Seen::Voltage],
    };

    fn read(keys: &mut Keys<'_>) -> Option<Self> {
        let (supply, rated) = (keys.positive("supply"), keys.positive("rated"));
        let (start, full) = (keys.share("start").unwrap_or(Duty::ZERO), keys.share("full"));
        let words = [
            ("one-switch", Wiring::OneSwitch),
            ("two-lines", Wiring::TwoLines),
            ("enable-and-direction", Wiring::EnableAndDirection),
        ];
        let wiring = keys.word("wiring", &words).unwrap_or(Wiring::OneSwitch);
        let (quiet, pause, kick) = (keys.take("quiet"), keys.take("pause"), keys.take("kick"));
        let turning = Turning::read(keys);
        let motor = Self { supply: supply?, rated: rated?, start, full, wiring, quiet, pause, kick, turning };
        let most = full.or_else(|| motor.rated_duty().ok());
        if let Some(most) = most.filter(|most| start >= *most) {
            let most = most.rounded(6);
            let text = format!("it starts at {start}, which is no less than the {most} of full throttle");
            keys.report("start", text);
            return None;
        }
        Some(motor)
    }

    /// The duty whose average is the rated voltage.
    fn rated_duty(&self) -> Result<Duty> {
        Ok(Duty::new(self.rated.ratio_to(self.supply)?))
    }

    /// The duty at full throttle.
    fn full(&self) -> Result<Duty> {
        let rated = || Ok(self.rated_duty()?.min(Duty::new(Rational::ONE)));
        self.full.map_or_else(rated, Ok)
    }

    /// The average voltage of a duty.
    pub(super) fn average(&self, duty: Duty) -> Result<Voltage> {
        duty.value().times(self.supply.value()).or_overflow("voltage").map(Voltage::new)
    }

    /// Duty against throttle, over the part that makes the motor turn.
    fn line(&self) -> Result<TwoPointLine> {
        Ok(TwoPointLine {
            from: (Rational::ZERO, self.start.value()),
            to: (Rational::ONE, self.full()?.value()),
        })
    }
}

impl LoadKind for Motor {
    fn entry(&self) -> &'static KindEntry {
        &Self::ENTRY
    }

    fn levels(&self) -> Result<[LoadLevel; 2]> {
        let lowest = if self.wiring.reverses() { Rational::whole(-1) } else { Rational::ZERO };
        Ok([lowest, Rational::ONE].map(|share| LoadLevel::Share(Duty::new(share))))
    }

    fn span(&self) -> Result<Span> {
        Ok(Span::Duty(Range { low: self.start, high: self.full()? }))
    }

    fn active_of(&self, throttle: Rational) -> Result<Active> {
        // The direction is the wiring's.
        let duty = match throttle.is_zero() {
            true => Duty::ZERO,
            false => Duty::new(self.line()?.at(throttle.magnitude())?),
        };
        Ok(Active::Duty(duty))
    }

    fn level(&self, realised: Realised) -> Result<LoadLevel> {
        let throttle = self.line()?.turned().at(realised.duty.value())?;
        // Below the start it stands.
        Ok(LoadLevel::Share(Duty::new(throttle.max(Rational::ZERO))))
    }

    fn at_rest(&self) -> Option<&'static str> {
        Some("throttle 0 is the start duty here: to rest, write the compare value of 0 % instead")
    }

    fn start_of_line(&self) -> Option<Active> {
        Some(Active::Duty(self.start))
    }

    fn is_undirected(&self) -> bool {
        true
    }

    fn pacing(&self) -> Pacing {
        Pacing { pause: self.pause.filter(|_| self.wiring.reverses()), kick: self.kick, ..Pacing::default() }
    }

    fn turning(&self) -> Turning {
        self.turning
    }

    fn judge(&self, name: &str, setting: &Setting) -> Result<Vec<Finding>> {
        let (mut found, frequency): (Vec<Finding>, _) = (Vec::new(), setting.frequency);
        let load = || name.to_owned();
        for Output { duty, .. } in setting.outputs.iter().cloned() {
            let (average, rated) = (self.average(duty)?, self.rated);
            if average > rated {
                let most = self.rated_duty()?;
                found.push(VoltsAboveRating { load: load(), average, rated, duty, most }.into());
            }
            if duty > Duty::ZERO && duty < self.start {
                found.push(DutyBelowStart { load: load(), duty, start: self.start }.into());
            }
        }
        if let Some(quiet) = self.quiet.filter(|quiet| frequency < *quiet) {
            found.push(AudibleFrequency { load: load(), frequency, quiet }.into());
        }
        if self.wiring.reverses() && self.pause.is_none() {
            found.push(ReversalWithoutPause { load: load() }.into());
        }
        Ok(found)
    }

    fn drive(&self, driven: &mut Driven, first: Option<(&Output, LoadLevel)>) -> Result<()> {
        if let Some((output, level)) = first {
            driven.average = Some(self.average(output.duty)?);
            driven.lines = Some(self.wiring.lines(level.value()));
        }
        Ok(())
    }

    fn calibrated(&self, sheet: &mut Sheet) -> Result<Calibrated> {
        if sheet.all(|reading| matches!(reading, ObservedValue::Voltage(_))) {
            let line = sheet.rising(duty, |_| true, Through::Anything)?;
            let full = sheet.duty("full", line.back(self.rated.value())?);
            return Ok(Self { full: Some(full), ..*self }.into());
        }
        let line = sheet.rising(duty, |seen| !seen.is_zero(), Through::Anything)?;
        let full = sheet.duty("full", line.back(sheet.full(true))?);
        let start = sheet.duty("start", line.back(Rational::ZERO)?);
        // It may need more to break away than to go on.
        let start = sheet.standing(duty).map_or(start, |stood| start.max(Duty::new(stood)));
        if start >= full {
            return Err(refused("it was seen to stand where it should turn at full speed"));
        }
        Ok(Self { start, full: Some(full), turning: self.turning.seen(sheet), ..*self }.into())
    }

    fn calibrated_keys(&self) -> Vec<(&'static str, KeyFigure)> {
        let turning = self.turning.calibrated_key().map(|(key, figure)| (key, KeyFigure::One(figure)));
        let full = self.full.map(|full| ("full", KeyFigure::One(Figure::Duty(full))));
        [("start", KeyFigure::One(Figure::Duty(self.start)))].into_iter().chain(full).chain(turning).collect()
    }
}

//! One particular load, calibrated: its own numbers, from what it was given and what was seen.

use super::LoadKind;
use serde::Serialize;

pub(super) use super::line_fit::Through;
use super::line_fit::{FittedLine, LineFit};
use super::observed::ObservedValue;
use super::{Kind, Realised};
use crate::error::{Error, Result};
use crate::finding::{EndOutsideDuty, Finding, LineDoesNotFit};
use crate::quantity::{Duty, Range, Rational, Time};

/// What a load was given, and what was seen of it.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
pub struct Observation {
    /// What it was given.
    pub given: Realised,
    /// What was seen.
    pub reading: ObservedValue,
}

/// What became of an observation.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum Taken {
    /// It is one of those that the line goes through.
    Fitted,
    /// It is far from the others, and left out.
    Far,
    /// The load stands, which says nothing of how fast it turns.
    Standing,
}

/// An observation next to the line.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
pub struct CalibrationPoint {
    /// The observation.
    pub observation: Observation,
    /// What the line has there; nothing where the load stands.
    pub line: Option<ObservedValue>,
    /// Whether the line heeds it.
    pub taken: Taken,
}

/// A calibration.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct Calibration {
    /// The load with the numbers that were found.
    pub load: Kind,
    /// The observations, in their order.
    pub points: Vec<CalibrationPoint>,
    /// The pulses between which a controller that goes both ways stands.
    pub dead_zone: Option<Range<Time>>,
    /// What is worth knowing.
    #[serde(skip)]
    pub findings: Vec<Finding>,
}

/// Finds a load's numbers: least squares, without what is far from the others.
///
/// # Errors
/// [`Error::NothingToCalibrate`] for a lamp or a plain load, [`Error::NoCalibration`] for observations at fewer than two different pulses or
/// duties, in different units or outside the period, and a load that does not follow them.
pub fn calibrate(load: &Kind, observations: &[Observation]) -> Result<Calibration> {
    let mut sheet = Sheet::of(load, observations)?;
    let Calibrated { load, dead_zone } = load.calibrated(&mut sheet)?;
    Ok(Calibration { load, points: sheet.points, dead_zone, findings: sheet.findings })
}

/// What a kind finds.
#[derive(Debug)]
pub struct Calibrated {
    /// The load with the numbers that were found.
    pub(super) load: Kind,
    /// The pulses between which it stands, where it goes both ways.
    pub(super) dead_zone: Option<Range<Time>>,
}

impl<K: Into<Kind>> From<K> for Calibrated {
    fn from(load: K) -> Self {
        Self { load: load.into(), dead_zone: None }
    }
}

pub(super) fn refused(why: &str) -> Error {
    Error::NoCalibration { why: why.to_owned() }
}

/// The observations, with what is found on the way.
#[derive(Debug)]
pub struct Sheet {
    points: Vec<CalibrationPoint>,
    findings: Vec<Finding>,
}

impl Sheet {
    fn of(load: &Kind, observations: &[Observation]) -> Result<Self> {
        let mut points = Vec::new();
        for one in observations {
            if !(Rational::ZERO..=Rational::ONE).contains(&one.given.duty.value()) {
                let duty = one.given.duty.rounded(5);
                return Err(refused(&format!("something was given that is {duty} of the signal's period")));
            }
            let unit = std::mem::discriminant(&one.reading);
            if observations.first().is_some_and(|first| std::mem::discriminant(&first.reading) != unit) {
                return Err(refused("what was seen is not all in one unit"));
            }
            // A motor's direction is no part of its duty; without any there is no direction.
            let seen = one.reading.value();
            let directed = load.is_undirected() && one.given.duty.value().is_positive();
            let seen = if directed { seen.magnitude() } else { seen };
            let observation = Observation { reading: one.reading.with(seen), ..*one };
            points.push(CalibrationPoint { observation, line: None, taken: Taken::Standing });
        }
        Ok(Self { points, findings: Vec::new() })
    }

    /// The line of what was seen against what was given, through those whose readings are of a kind.
    pub(super) fn line(
        &mut self,
        given: impl Fn(Realised) -> Rational,
        of: impl Fn(Rational) -> bool,
        through: Through,
    ) -> Result<FittedLine> {
        let chosen = |point: &&mut CalibrationPoint| of(point.observation.reading.value());
        let mut chosen: Vec<&mut CalibrationPoint> = self.points.iter_mut().filter(chosen).collect();
        let pair =
            |point: &CalibrationPoint| (given(point.observation.given), point.observation.reading.value());
        let pairs: Vec<(Rational, Rational)> = chosen.iter().map(|point| pair(point)).collect();
        let fit = LineFit::of(&pairs, through)?;
        for (point, far) in chosen.iter_mut().zip(&fit.far) {
            let reading = point.observation.reading;
            point.line = Some(reading.with(fit.line.at(given(point.observation.given))?));
            point.taken = if *far { Taken::Far } else { Taken::Fitted };
        }
        let reading = chosen.first().map(|point| point.observation.reading);
        if let Some(reading) = reading.filter(|_| fit.miss > fit.near) {
            let figure = |value: Rational| reading.with(value).figure();
            self.findings.push(LineDoesNotFit { furthest: figure(fit.miss), limit: figure(fit.near) }.into());
        }
        Ok(fit.line)
    }

    /// As [`Sheet::line`], where more always makes more.
    pub(super) fn rising(
        &mut self,
        given: impl Fn(Realised) -> Rational,
        of: impl Fn(Rational) -> bool,
        through: Through,
    ) -> Result<FittedLine> {
        let line = self.line(given, of, through)?;
        if line.slope.is_positive() {
            return Ok(line);
        }
        Err(refused("what was seen falls where the pulse or duty rises"))
    }

    /// What full speed is in the unit of the readings: of those on one side of zero the furthest, unless they are
    /// shares of it already.
    pub(super) fn full(&self, forward: bool) -> Rational {
        let sign = Rational::whole(if forward { 1 } else { -1 });
        let readings = self.points.iter().filter(|point| point.taken == Taken::Fitted);
        let readings = readings.map(|point| point.observation.reading);
        let seen = readings.filter(|reading| reading.value().is_positive() == forward);
        let full = |reading: ObservedValue| match reading {
            ObservedValue::Level(_) => sign,
            _ => reading.value(),
        };
        seen.map(full).max_by_key(|value| value.magnitude()).unwrap_or(sign)
    }

    /// The largest that was given while the load stood.
    pub(super) fn standing(&self, given: impl Fn(Realised) -> Rational) -> Option<Rational> {
        let standing = self.points.iter().filter(|point| point.taken == Taken::Standing);
        standing.map(|point| given(point.observation.given)).max()
    }

    /// The least duty that turned the load.
    pub(super) fn least_turning(&self) -> Option<Duty> {
        let turning = self.points.iter().filter(|point| point.taken == Taken::Fitted);
        turning.map(|point| point.observation.given.duty).min()
    }

    /// Everything that was seen, in base units.
    pub(super) fn readings(&self) -> impl Iterator<Item = Rational> {
        self.points.iter().map(|point| point.observation.reading.value())
    }

    /// Whether everything that was seen is of a kind.
    pub(super) fn all(&self, is: impl Fn(ObservedValue) -> bool) -> bool {
        self.points.iter().all(|point| is(point.observation.reading))
    }

    /// A duty for a key of the board file; where the line leaves what a duty can be, its nearest end.
    pub(super) fn duty(&mut self, key: &'static str, found: Rational) -> Duty {
        let inside = found.max(Rational::ZERO).min(Rational::ONE);
        if inside != found {
            let (found, inside) = (Duty::new(found), Duty::new(inside));
            self.findings.push(EndOutsideDuty { key: key.to_owned(), found, inside }.into());
        }
        Duty::new(inside)
    }
}

pub(super) fn pulse(given: Realised) -> Rational {
    given.pulse.value()
}

pub(super) fn duty(given: Realised) -> Rational {
    given.duty.value()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::load::{Fan, Heater, Motor, Plain, Servo, SpeedController, Wiring};

    fn us(microseconds: i128) -> Time {
        Time::new(Rational::new(microseconds, 1_000_000).unwrap())
    }

    fn percent(text: &str) -> Duty {
        format!("{text}%").parse().unwrap()
    }

    fn servo() -> Kind {
        let span = Range { low: us(900), high: us(2100) };
        let travel = "0deg..120deg".to_owned().try_into().unwrap();
        Kind::Servo(Servo { span, travel, dead_band: None, frame: None })
    }

    fn controller(neutral: Option<Time>) -> Kind {
        let span = Range { low: us(1000), high: us(2000) };
        Kind::SpeedController(SpeedController { span, neutral, arming: None, frame: None })
    }

    fn motor() -> Kind {
        Kind::Motor(Motor {
            supply: "24V".parse().unwrap(),
            rated: "9V".parse().unwrap(),
            start: percent("14"),
            full: None,
            wiring: Wiring::TwoLines,
            quiet: None,
            pause: None,
        })
    }

    fn fan() -> Kind {
        let (lowest, slowest) = (percent("20"), percent("15"));
        Kind::Fan(Fan { window: None, lowest, slowest, pulses_per_turn: None })
    }

    fn heater() -> Kind {
        Kind::Heater(Heater { supply: "12V".parse().unwrap(), resistance: "18ohm".parse().unwrap() })
    }

    /// Pairs of microseconds in a frame of 20 ms, or of per cent of it, and what was seen.
    fn calibrated(load: &Kind, pairs: &[(i128, &str)]) -> Result<Calibration> {
        let pulses = matches!(load, Kind::Servo(_) | Kind::SpeedController(_));
        let frame = Rational::new(1, 50).unwrap();
        let one = |(given, seen): &(i128, &str)| {
            let pulse = if pulses { us(*given) } else { us(*given * 200) };
            let duty = Duty::new(pulse.value().over(frame).unwrap());
            Observation { given: Realised { duty, pulse }, reading: load.read_observed(seen).unwrap() }
        };
        calibrate(load, &pairs.iter().map(one).collect::<Vec<_>>())
    }

    fn taken(found: &Calibration) -> Vec<Taken> {
        found.points.iter().map(|point| point.taken).collect()
    }

    #[test]
    fn a_servo_that_is_off_gets_its_own_ends() {
        // 0.1 degrees a microsecond, 3 degrees too far: zero is at 930 us.
        let found = calibrated(&servo(), &[(1000, "7deg"), (1500, "57deg"), (2000, "107deg")]).unwrap();
        let Kind::Servo(servo) = found.load else { panic!("{found:?}") };
        assert_eq!(servo.span, Range { low: us(930), high: us(2130) });
        assert!(found.findings.is_empty());
    }

    #[test]
    fn a_servo_that_turns_the_other_way_gets_its_travel_turned() {
        let found = calibrated(&servo(), &[(1000, "107deg"), (2000, "7deg")]).unwrap();
        let Kind::Servo(servo) = found.load else { panic!("{found:?}") };
        assert_eq!(servo.span, Range { low: us(870), high: us(2070) });
        assert_eq!(servo.travel, "120deg..0deg".to_owned().try_into().unwrap());
    }

    #[test]
    fn what_is_far_from_the_others_is_named_and_left_out() {
        let pairs = [
            (1000, "10deg"),
            (1200, "30deg"),
            (1400, "50deg"),
            (1600, "99deg"),
            (1800, "90deg"),
            (2000, "110deg"),
        ];
        let found = calibrated(&servo(), &pairs).unwrap();
        assert_eq!(taken(&found).iter().filter(|taken| **taken == Taken::Far).count(), 1);
        assert_eq!(found.points[3].taken, Taken::Far);
        assert_eq!(found.points[3].line, Some(servo().read_observed("70deg").unwrap()));
    }

    #[test]
    fn a_bend_is_told() {
        let pairs = [(1000, "0deg"), (1250, "10deg"), (1500, "30deg"), (1750, "60deg"), (2000, "100deg")];
        let found = calibrated(&servo(), &pairs).unwrap();
        assert_eq!(
            found.findings.iter().map(|finding| finding.name()).collect::<Vec<_>>(),
            ["line-does-not-fit"]
        );
    }

    #[test]
    fn a_controller_of_one_way_from_throttle_or_speed() {
        // 12 rpm a microsecond from 1100 us on, the fastest at 1900 us.
        let pairs = [(1000, "0rpm"), (1200, "1200rpm"), (1500, "4800rpm"), (1900, "9600rpm")];
        let found = calibrated(&controller(None), &pairs).unwrap();
        let Kind::SpeedController(by_speed) = found.load else { panic!("{found:?}") };
        assert_eq!(by_speed.span, Range { low: us(1100), high: us(1900) });
        assert_eq!(taken(&found)[0], Taken::Standing);
        let pairs = [(1300, "25%"), (1700, "75%")];
        let found = calibrated(&controller(None), &pairs).unwrap();
        let Kind::SpeedController(by_throttle) = found.load else { panic!("{found:?}") };
        assert_eq!(by_throttle.span, by_speed.span);
        assert!(calibrated(&controller(None), &[(1300, "-25%"), (1400, "10%"), (1700, "75%")]).is_err());
    }

    #[test]
    fn a_controller_of_two_ways_has_a_line_for_each_and_rests_between() {
        // Forward from 1520 us, 0.2 % a microsecond; back from 1480 us, 0.25 %.
        let pairs = [(1200, "-70%"), (1400, "-20%"), (1500, "0%"), (1620, "20%"), (1920, "80%")];
        let found = calibrated(&controller(Some(us(1500))), &pairs).unwrap();
        let Kind::SpeedController(two) = found.load else { panic!("{found:?}") };
        assert_eq!((two.span, two.neutral), (Range { low: us(1080), high: us(2020) }, Some(us(1500))));
        assert_eq!(found.dead_zone, Some(Range { low: us(1480), high: us(1520) }));
        // One side alone tells nothing of the other.
        assert!(calibrated(&controller(Some(us(1500))), &pairs[2..]).is_err());
    }

    #[test]
    fn a_motor_from_speed_and_from_volts() {
        // 50 rpm a per cent from 16 % on; the fastest at 46 %.
        let pairs = [(10, "0rpm"), (20, "200rpm"), (26, "-500rpm"), (46, "1500rpm")];
        let found = calibrated(&motor(), &pairs).unwrap();
        let Kind::Motor(by_speed) = found.load else { panic!("{found:?}") };
        assert_eq!((by_speed.start, by_speed.full), (percent("16"), Some(percent("46"))));
        // It stands at 18 %, though the line starts at 16 %.
        let found = calibrated(&motor(), &[(18, "0rpm"), (26, "500rpm"), (46, "1500rpm")]).unwrap();
        assert!(matches!(found.load, Kind::Motor(stuck) if stuck.start == percent("18")));
        // The bridge takes 1 V: 0.25 V a per cent, so that 9 V are at 40 %.
        let found = calibrated(&motor(), &[(20, "4V"), (32, "7V"), (0, "-1V")]).unwrap();
        let Kind::Motor(by_volts) = found.load else { panic!("{found:?}") };
        assert_eq!((by_volts.start, by_volts.full), (percent("14"), Some(percent("40"))));
    }

    #[test]
    fn a_motor_that_never_gets_its_volts_is_told() {
        let found = calibrated(&motor(), &[(20, "1V"), (50, "3V")]).unwrap();
        let names: Vec<&str> = found.findings.iter().map(|finding| finding.name()).collect();
        assert_eq!(names, ["end-outside-duty"]);
        assert!(matches!(found.load, Kind::Motor(weak) if weak.full == Some(Duty::new(Rational::ONE))));
        assert!(calibrated(&motor(), &[(20, "3V"), (50, "1V")]).is_err());
    }

    #[test]
    fn a_fan_from_speed() {
        // 18 rpm a per cent and 200 rpm: 2000 at full, 650 at 25 %, where it turned first.
        let pairs = [(20, "0rpm"), (25, "650rpm"), (50, "1100rpm"), (100, "2000rpm")];
        let found = calibrated(&fan(), &pairs).unwrap();
        let Kind::Fan(found) = found.load else { panic!("{found:?}") };
        assert_eq!((found.lowest, found.slowest), (percent("25"), percent("32.5")));
        // Never seen to stand: its lowest is the board's, 560 of 2000 on the line.
        let found = calibrated(&fan(), &pairs[1..]).unwrap();
        assert!(
            matches!(found.load, Kind::Fan(fan) if fan.lowest == percent("20") && fan.slowest == percent("28"))
        );
    }

    #[test]
    fn a_heater_from_watts() {
        // 8 W at full: 144 / 8 ohms.
        let found = calibrated(&heater(), &[(25, "2W"), (50, "4W")]).unwrap();
        assert!(matches!(found.load, Kind::Heater(found) if found.resistance == "18ohm".parse().unwrap()));
        let warm = calibrated(&heater(), &[(0, "0W"), (50, "3.6W"), (100, "7.2W")]).unwrap();
        assert!(matches!(warm.load, Kind::Heater(found) if found.resistance == "20ohm".parse().unwrap()));
    }

    #[test]
    fn what_says_nothing_is_refused() {
        let says = |load: &Kind, pairs: &[(i128, &str)]| calibrated(load, pairs).unwrap_err().to_string();
        for pairs in [&[][..], &[(1500, "60deg")], &[(1500, "60deg"), (1500, "61deg")]] {
            assert!(says(&servo(), pairs).contains("two different"), "{pairs:?}");
        }
        assert!(says(&servo(), &[(1000, "60deg"), (2000, "60deg")]).contains("changes nothing"));
        assert!(says(&Kind::Plain(Plain), &[]).contains("plain"));
        assert!(says(&motor(), &[(20, "4V"), (30, "50%")]).contains("not all in one unit"));
        assert!(says(&motor(), &[(20, "4V"), (130, "9V")]).contains("130 %"));
        assert!(says(&motor(), &[(60, "0rpm"), (20, "200rpm"), (40, "900rpm")]).contains("stand"));
    }
}

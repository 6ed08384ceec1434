//! One particular load, calibrated: its own numbers, from what it was given and what was seen.

use serde::Serialize;

use super::Kind;
use super::kind::LoadKind;
use super::sheet::{Calibrated, CalibrationPoint, Observation, Sheet};
use crate::error::Result;
use crate::finding::Finding;
use crate::quantity::{Range, Time};

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
/// [`Error::NothingToCalibrate`](crate::Error::NothingToCalibrate) for a lamp or a plain load,
/// [`Error::NoCalibration`](crate::Error::NoCalibration) for observations at fewer than two different pulses or duties,
/// in different units or outside the period, and a load that does not follow them.
pub fn calibrate(load: &Kind, observations: &[Observation]) -> Result<Calibration> {
    let mut sheet = Sheet::of(observations, load.is_undirected())?;
    let Calibrated { load, dead_zone } = load.calibrated(&mut sheet)?;
    Ok(Calibration { load, points: sheet.points, dead_zone, findings: sheet.findings })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::load::{Fan, Heater, Motor, Plain, Realised, Servo, SpeedController, Taken, Wiring};
    use crate::quantity::{Duty, Rational};

    fn us(microseconds: i128) -> Time {
        Time::new(Rational::new(microseconds, 1_000_000).unwrap())
    }

    fn percent(text: &str) -> Duty {
        format!("{text}%").parse().unwrap()
    }

    fn servo() -> Kind {
        let span = Range { low: us(900), high: us(2100) };
        let travel = "0deg..120deg".to_owned().try_into().unwrap();
        Kind::Servo(Servo { span, travel, dead_band: None, frame: None, slew: None })
    }

    fn controller(neutral: Option<Time>) -> Kind {
        let span = Range { low: us(1000), high: us(2000) };
        Kind::SpeedController(SpeedController { span, neutral, arming: None, teach_hold: None, frame: None })
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
            kick: None,
            turning: Default::default(),
        })
    }

    fn fan() -> Kind {
        let (lowest, slowest) = (percent("20"), percent("15"));
        Kind::Fan(Fan {
            window: None,
            lowest,
            slowest,
            pulses_per_turn: None,
            kick: None,
            turning: Default::default(),
        })
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

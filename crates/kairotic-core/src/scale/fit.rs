//! One particular load, calibrated: the line through what was commanded and what was observed.

use crate::error::{Error, Result};
use crate::finding::{Finding, line_does_not_fit};
use crate::load::{Kind, LoadLevel};
use crate::quantity::{OrOverflow, Range, Rational, Time};

/// A pulse, and what the load made of it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Observation {
    /// The pulse.
    pub pulse: Time,
    /// The level that was seen.
    pub level: LoadLevel,
}

/// A calibration.
#[derive(Debug, Clone, PartialEq)]
pub struct Calibration {
    /// Each observation with the level of the line there, and whether it was left out of the line.
    pub points: Vec<(Observation, LoadLevel, bool)>,
    /// The change of the level over a second of pulse.
    pub slope: Rational,
    /// The pulses for the ends of the load's levels.
    pub span: Range<Time>,
    /// What is worth knowing.
    pub findings: Vec<Finding>,
}

/// An observation so many times further from the line than the median is left out of it.
const FAR: i64 = 5;
/// Nearer than this share of all that was observed, nothing is left out, and a line fits.
const NEAR: (i128, i128) = (2, 100);

/// With fewer observations none is left out.
const ENOUGH: usize = 5;

/// Fits a line: first one through the medians, which names what is far from it, then least squares through the rest.
///
/// # Errors
/// [`Error::NoMap`] for fewer than two different pulses, a line without a slope, or a load whose pulse is not its level.
pub fn calibrate(load: &Kind, observations: &[Observation]) -> Result<Calibration> {
    let [low, high] = load.levels()?;
    let straight = match load {
        Kind::Servo(_) => true,
        Kind::SpeedController(controller) => controller.neutral.is_none(),
        _ => false,
    };
    let refused = |why: &str| Error::NoMap { why: why.to_owned() };
    if !straight {
        return Err(refused("a line is fitted to a servo, or to a speed controller that goes one way"));
    }
    let all: Vec<(Rational, Rational)> =
        observations.iter().map(|one| (one.pulse.value(), one.level.value())).collect();
    let rough = Line::of_medians(&all).ok_or_else(|| refused("it takes at least two different pulses"))?;
    let distances = all.iter().map(|point| rough.miss(*point)).collect::<Result<Vec<Rational>>>()?;
    let range = all.iter().map(|(_, level)| *level);
    let spread = range.clone().max().zip(range.min()).and_then(|(most, least)| most.minus(least));
    let near = spread.zip(Rational::new(NEAR.0, NEAR.1)).and_then(|(spread, share)| spread.times(share));
    let near = near.or_overflow("level")?;
    let far = median(distances.clone())
        .and_then(|middle| middle.times(Rational::whole(FAR)))
        .or_overflow("level")?;
    // Among a few nobody can say which is the odd one.
    let enough = observations.len() >= ENOUGH;
    let out = |distance: &Rational| enough && *distance > far && *distance > near;
    let kept: Vec<(Rational, Rational)> =
        all.iter().zip(&distances).filter(|(_, distance)| !out(distance)).map(|(point, _)| *point).collect();
    let line = Line::of_squares(&kept).or_overflow("line")?;
    if line.slope.is_zero() {
        return Err(refused("the pulse changes nothing"));
    }
    let mut findings = Vec::new();
    let misses = kept.iter().map(|point| line.miss(*point)).collect::<Result<Vec<Rational>>>()?;
    if let Some(most) = misses.into_iter().max().filter(|most| *most > near) {
        findings.push(line_does_not_fit::new(&low.with(most).rounded(3), &low.with(near).rounded(3)));
    }
    let points = observations
        .iter()
        .zip(&distances)
        .map(|(one, distance)| Ok((*one, low.with(line.at(one.pulse.value())?), out(distance))))
        .collect::<Result<_>>()?;
    let pulse = |level: LoadLevel| line.back(level.value()).map(Time::new);
    let span = Range { low: pulse(low)?, high: pulse(high)? };
    Ok(Calibration { points, slope: line.slope, span, findings })
}

/// `level = start + slope · pulse`.
#[derive(Debug, Clone, Copy)]
struct Line {
    start: Rational,
    slope: Rational,
}

impl Line {
    /// The line whose slope is the median of all slopes between two points, through the median of what is left.
    fn of_medians(points: &[(Rational, Rational)]) -> Option<Self> {
        let mut slopes = Vec::new();
        for (place, (x, y)) in points.iter().enumerate() {
            for (other_x, other_y) in points.iter().skip(place + 1).filter(|(other, _)| other != x) {
                slopes.push(other_y.minus(*y)?.over(other_x.minus(*x)?)?);
            }
        }
        let slope = median(slopes)?;
        let starts = points.iter().map(|(x, y)| y.minus(slope.times(*x)?)).collect::<Option<Vec<_>>>()?;
        Some(Self { start: median(starts)?, slope })
    }

    /// The line with the least sum of squares.
    fn of_squares(points: &[(Rational, Rational)]) -> Option<Self> {
        let count = Rational::from(points.len() as u64);
        let sum = |terms: &dyn Fn(&(Rational, Rational)) -> Option<Rational>| {
            points.iter().try_fold(Rational::ZERO, |sum, point| sum.plus(terms(point)?))
        };
        let (mean_x, mean_y) = (sum(&|(x, _)| Some(*x))?.over(count)?, sum(&|(_, y)| Some(*y))?.over(count)?);
        // About the means, where numbers stay small.
        let along = sum(&|(x, y)| x.minus(mean_x)?.times(y.minus(mean_y)?))?;
        let square = sum(&|(x, _)| x.minus(mean_x)?.times(x.minus(mean_x)?))?;
        let slope = along.over(square)?;
        Some(Self { start: mean_y.minus(slope.times(mean_x)?)?, slope })
    }

    fn at(self, x: Rational) -> Result<Rational> {
        self.slope.times(x).and_then(|rise| self.start.plus(rise)).or_overflow("level")
    }

    fn back(self, y: Rational) -> Result<Rational> {
        y.minus(self.start).and_then(|rise| rise.over(self.slope)).or_overflow("pulse")
    }

    fn miss(self, (x, y): (Rational, Rational)) -> Result<Rational> {
        y.minus(self.at(x)?).or_overflow("level").map(Rational::magnitude)
    }
}

/// The middle one; of an even number the mean of the two.
fn median(mut values: Vec<Rational>) -> Option<Rational> {
    values.sort_unstable();
    let last = values.len().checked_sub(1)?;
    let (low, high) = (values.get(last / 2)?, values.get(last.div_ceil(2))?);
    low.plus(*high)?.over(Rational::whole(2))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::load::Servo;

    fn servo() -> Kind {
        let span = Range { low: us(900), high: us(2100) };
        let travel = "0deg..120deg".to_owned().try_into().unwrap();
        Kind::Servo(Servo { span, travel, dead_band: None, frame: None })
    }

    fn us(microseconds: i128) -> Time {
        Time::new(Rational::new(microseconds, 1_000_000).unwrap())
    }

    fn seen(pairs: &[(i128, &str)]) -> Vec<Observation> {
        let one = |(pulse, level): &(i128, &str)| Observation {
            pulse: us(*pulse),
            level: servo().read_level(level).unwrap(),
        };
        pairs.iter().map(one).collect()
    }

    #[test]
    fn a_servo_that_is_off_gets_its_own_ends() {
        // 0.1 degrees a microsecond, 3 degrees too far: nought is at 930 us.
        let found = calibrate(&servo(), &seen(&[(1000, "7deg"), (1500, "57deg"), (2000, "107deg")])).unwrap();
        assert_eq!(found.span, Range { low: us(930), high: us(2130) });
        assert!(found.findings.is_empty() && found.points.iter().all(|(_, _, out)| !out));
    }

    #[test]
    fn least_squares_of_four_points_by_hand() {
        // x = 0, 1, 2, 3 ms beyond 1 ms; y = 0, 1.1, 1.9, 3: slope 0.98 (sum of dx dy 4.9 over 5), mean 1.5 at 1.5.
        let pairs = [(1000, "0deg"), (2000, "1.1deg"), (3000, "1.9deg"), (4000, "3deg")];
        let found = calibrate(&servo(), &seen(&pairs)).unwrap();
        // 0.98 degrees a millisecond, in turns a second.
        assert_eq!(found.slope, Rational::new(98, 36).unwrap());
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
        let found = calibrate(&servo(), &seen(&pairs)).unwrap();
        assert_eq!(found.points.iter().filter(|(_, _, out)| *out).count(), 1);
        assert!(found.points[3].2 && found.span.low == us(900));
    }

    #[test]
    fn a_bend_is_told() {
        let pairs = [(1000, "0deg"), (1250, "10deg"), (1500, "30deg"), (1750, "60deg"), (2000, "100deg")];
        let found = calibrate(&servo(), &seen(&pairs)).unwrap();
        assert_eq!(found.findings.len(), 1);
    }

    #[test]
    fn too_little_is_refused() {
        for pairs in [vec![], vec![(1500, "60deg")], vec![(1500, "60deg"), (1500, "61deg")]] {
            assert!(calibrate(&servo(), &seen(&pairs)).is_err());
        }
        assert!(calibrate(&servo(), &seen(&[(1000, "60deg"), (2000, "60deg")])).is_err());
        assert!(calibrate(&Kind::Plain, &[]).is_err());
    }
}

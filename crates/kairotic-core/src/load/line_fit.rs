//! The straight line through what was observed, without what is far from it.

use crate::error::{Error, OrOverflow, Result};
use crate::quantity::Rational;

/// An observation so many times further from the line than the median is left out of it.
const FAR: i64 = 5;
/// Nearer than this share of all that was observed, nothing is left out, and a line fits.
const NEAR: (i128, i128) = (2, 100);
/// With fewer observations none is left out.
const ENOUGH: usize = 5;

/// A line through points.
#[derive(Debug, Clone, PartialEq)]
pub(crate) struct LineFit {
    pub(crate) line: FittedLine,
    /// Whether each point was left out.
    pub(crate) far: Vec<bool>,
    /// How far the furthest point of those that were not is off the line.
    pub(crate) miss: Rational,
    /// How far it may be.
    pub(crate) near: Rational,
}

impl LineFit {
    /// Fits a line: first one through the medians, which names what is far from it, then least squares through the rest.
    ///
    /// # Errors
    /// [`Error::NoCalibration`] for points that are not at two different places, and for a level line.
    pub(crate) fn of(points: &[(Rational, Rational)], through: Through) -> Result<Self> {
        let refused = |why: &str| Error::NoCalibration { why: why.to_owned() };
        let two = points.iter().any(|(x, _)| points.first().is_some_and(|(first, _)| first != x));
        let rough = FittedLine::of_medians(points, through).filter(|_| two);
        let rough = rough.ok_or_else(|| refused("it takes at least two different pulses or duties"))?;
        let distances = points.iter().map(|point| rough.miss(*point)).collect::<Result<Vec<Rational>>>()?;
        let range = points.iter().map(|(_, seen)| *seen);
        let spread = range.clone().max().zip(range.min()).and_then(|(most, least)| most.minus(least));
        let near = spread.zip(Rational::new(NEAR.0, NEAR.1)).and_then(|(spread, share)| spread.times(share));
        let near = near.or_overflow("level")?;
        let far = median(distances.clone())
            .and_then(|middle| middle.times(Rational::whole(FAR)))
            .or_overflow("level")?;
        // Among a few nobody can say which is the odd one.
        let enough = points.len() >= ENOUGH;
        let far: Vec<bool> =
            distances.iter().map(|distance| enough && *distance > far && *distance > near).collect();
        let kept = points.iter().zip(&far).filter(|(_, far)| !**far).map(|(point, _)| *point);
        let kept: Vec<(Rational, Rational)> = kept.collect();
        let line = FittedLine::of_squares(&kept, through).or_overflow("line")?;
        if line.slope.is_zero() {
            return Err(refused("the pulse changes nothing"));
        }
        let misses = kept.iter().map(|point| line.miss(*point)).collect::<Result<Vec<Rational>>>()?;
        let miss = misses.into_iter().max().unwrap_or(Rational::ZERO);
        Ok(Self { line, far, miss, near })
    }
}

/// Where a line has to go through.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Through {
    Anything,
    /// Nothing comes of nothing: only the slope is open.
    Origin,
}

/// `seen = start + slope · given`.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) struct FittedLine {
    start: Rational,
    pub(crate) slope: Rational,
}

impl FittedLine {
    /// The line whose slope is the median of all slopes between two points, through the median of what is left.
    fn of_medians(points: &[(Rational, Rational)], through: Through) -> Option<Self> {
        if through == Through::Origin {
            let slopes = points.iter().filter(|(x, _)| !x.is_zero()).map(|(x, y)| y.over(*x));
            let slope = median(slopes.collect::<Option<Vec<_>>>()?)?;
            return Some(Self { start: Rational::ZERO, slope });
        }
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
    fn of_squares(points: &[(Rational, Rational)], through: Through) -> Option<Self> {
        let count = Rational::from(points.len() as u64);
        let sum = |terms: &dyn Fn(&(Rational, Rational)) -> Option<Rational>| {
            points.iter().try_fold(Rational::ZERO, |sum, point| sum.plus(terms(point)?))
        };
        // About the means, where numbers stay small and the line goes through them.
        let (mean_x, mean_y) = match through {
            Through::Anything => {
                (sum(&|(x, _)| Some(*x))?.over(count)?, sum(&|(_, y)| Some(*y))?.over(count)?)
            }
            Through::Origin => (Rational::ZERO, Rational::ZERO),
        };
        let along = sum(&|(x, y)| x.minus(mean_x)?.times(y.minus(mean_y)?))?;
        let square = sum(&|(x, _)| x.minus(mean_x)?.times(x.minus(mean_x)?))?;
        let slope = along.over(square)?;
        Some(Self { start: mean_y.minus(slope.times(mean_x)?)?, slope })
    }

    pub(crate) fn at(self, x: Rational) -> Result<Rational> {
        self.slope.times(x).and_then(|rise| self.start.plus(rise)).or_overflow("level")
    }

    /// The place where the line has a value.
    pub(crate) fn back(self, y: Rational) -> Result<Rational> {
        y.minus(self.start).and_then(|rise| rise.over(self.slope)).or_overflow("pulse")
    }

    /// How far a point is from the line.
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

    fn points(pairs: &[(i128, i128)]) -> Vec<(Rational, Rational)> {
        pairs
            .iter()
            .map(|(x, y)| (Rational::new(*x, 1000).unwrap(), Rational::new(*y, 10).unwrap()))
            .collect()
    }

    #[test]
    fn least_squares_of_four_points_by_hand() {
        // x = 0, 1, 2, 3 thousandths beyond 1; y = 0, 1.1, 1.9, 3: slope 0.98 (sum of dx dy 4.9 over 5), mean 1.5 at 1.5.
        let four = points(&[(1000, 0), (1001, 11), (1002, 19), (1003, 30)]);
        let fit = LineFit::of(&four, Through::Anything).unwrap();
        assert_eq!(fit.line.slope, Rational::whole(980));
        assert_eq!(
            fit.line.at(Rational::new(10015, 10_000).unwrap()).unwrap(),
            Rational::new(15, 10).unwrap()
        );
        // The four are off by 0.03, 0.09, -0.09 and -0.03 of it.
        assert_eq!(fit.miss, Rational::new(9, 100).unwrap());
    }

    #[test]
    fn least_squares_through_the_origin_by_hand() {
        // Sum of x y over the sum of x x: (1·2 + 2·5 + 3·7) / 14 = 33/14, in tenths a thousandth.
        let three = points(&[(1, 2), (2, 5), (3, 7)]);
        let fit = LineFit::of(&three, Through::Origin).unwrap();
        assert_eq!(fit.line.slope, Rational::new(3300, 14).unwrap());
        assert_eq!(fit.line.at(Rational::ZERO).unwrap(), Rational::ZERO);
    }

    #[test]
    fn what_is_far_from_the_others_is_left_out() {
        let six = points(&[(1000, 100), (1200, 300), (1400, 500), (1600, 990), (1800, 900), (2000, 1100)]);
        let fit = LineFit::of(&six, Through::Anything).unwrap();
        assert_eq!(fit.far, [false, false, false, true, false, false]);
        assert_eq!((fit.line.slope, fit.miss), (Rational::whole(100), Rational::ZERO));
    }

    #[test]
    fn too_little_is_refused() {
        for pairs in [&[][..], &[(1500, 60)], &[(1500, 60), (1500, 61)], &[(1000, 60), (2000, 60)]] {
            assert!(LineFit::of(&points(pairs), Through::Anything).is_err());
        }
        assert!(LineFit::of(&points(&[(5, 6), (5, 6)]), Through::Origin).is_err());
    }
}

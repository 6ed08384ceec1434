//! The Allan deviation of a signal's edges, over spans that double: the overlapping one, whose spans begin at every edge, or
//! at every eighth of a long span.

use std::collections::VecDeque;

/// Spans begin so often in the length of one.
const OVERLAP: usize = 8;
/// With data for fewer differences of spans that do not overlap, an octave is not told.
const ENOUGH: u64 = 8;

/// Second differences of edges so many periods apart.
#[derive(Debug, Clone, Default)]
struct Octave {
    /// The last edges, a step apart, over two spans.
    edges: VecDeque<u64>,
    squares: f64,
    count: u64,
}

/// How many steps a span of an octave has.
fn steps(octave: u32) -> usize {
    1 << octave.min(OVERLAP.trailing_zeros())
}

/// The sums, octave by octave.
#[derive(Debug, Clone, Default)]
pub(super) struct Octaves(Vec<Octave>);

impl Octaves {
    /// Adds the edge that has so many periods before it; edges have to come without a gap.
    pub(super) fn add(&mut self, place: u64, at: u64) {
        for octave in 0..=(place.trailing_zeros() + OVERLAP.trailing_zeros()).min(40) {
            if self.0.len() <= octave as usize {
                self.0.resize_with(octave as usize + 1, Octave::default);
            }
            let Some(sums) = self.0.get_mut(octave as usize) else { return };
            let steps = steps(octave);
            sums.edges.push_front(at);
            if let (Some(last), Some(first)) = (sums.edges.get(steps), sums.edges.get(2 * steps)) {
                let difference = at as f64 - 2.0 * *last as f64 + *first as f64;
                sums.squares += difference * difference;
                sums.count += 1;
                sums.edges.truncate(2 * steps);
            }
        }
    }

    /// Forgets the last edges, where there is a gap.
    pub(super) fn interrupt(&mut self) {
        self.0.iter_mut().for_each(|octave| octave.edges.clear());
    }

    /// Periods in a span, and the deviation of the mean frequency from one span to the next, relative.
    pub(super) fn deviations(&self, period: f64) -> Vec<(u64, f64)> {
        let enough = |octave: u32| (ENOUGH - 1) * steps(octave) as u64 + 1;
        let told = (0_u32..).zip(&self.0).filter(|(place, octave)| octave.count >= enough(*place));
        let deviation = |(place, octave): (u32, &Octave)| {
            let periods = 1_u64 << place;
            let span = periods as f64 * period;
            (periods, (octave.squares / (2.0 * octave.count as f64)).sqrt() / span)
        };
        told.map(deviation).collect()
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    /// The definition, edge by edge: second differences of spans of `2^octave` periods, which begin at every edge, and from
    /// sixteen periods on at every eighth of one.
    fn by_definition(edges: &[u64], octave: u32, period: f64) -> Option<f64> {
        let span = 1_usize << octave;
        let begins =
            (0..edges.len()).step_by((span / 8).max(1)).take_while(|begin| begin + 2 * span < edges.len());
        let at = |place: usize| edges[place] as f64;
        let squares: Vec<f64> =
            begins.map(|begin| (at(begin + 2 * span) - 2.0 * at(begin + span) + at(begin)).powi(2)).collect();
        // Eight differences of spans that do not overlap.
        let apart = (span / (span / 8).max(1)) * 7 + 1;
        (squares.len() >= apart).then(|| {
            (squares.iter().sum::<f64>() / (2.0 * squares.len() as f64)).sqrt() / (span as f64 * period)
        })
    }

    proptest! {
        #[test]
        fn every_octave_is_what_its_definition_says(
            periods in proptest::collection::vec(900_u64..1100, 10..400), gap in any::<bool>(),
        ) {
            let edges: Vec<u64> = std::iter::once(0).chain(periods.iter().scan(0, |at, period| {
                *at += period;
                Some(*at)
            })).collect();
            let mut octaves = Octaves::default();
            if gap {
                // What came before a gap does not matter after it.
                (0..2).for_each(|place| octaves.add(place, place * 5));
                octaves.interrupt();
            }
            (0..).zip(&edges).for_each(|(place, at)| octaves.add(place, *at));
            let found = octaves.deviations(1000.0);
            let expected: Vec<(u64, f64)> =
                (0..12).filter_map(|octave| Some((1 << octave, by_definition(&edges, octave, 1000.0)?))).collect();
            prop_assert_eq!(found.len(), expected.len());
            for (found, expected) in found.iter().zip(&expected) {
                prop_assert_eq!(found.0, expected.0);
                prop_assert!((found.1 - expected.1).abs() <= 1e-9 * expected.1, "{:?} {:?}", found, expected);
            }
        }
    }
}

//! The Allan deviation of a signal's edges, over spans that double: the overlapping one, whose spans begin at every edge, or
//! at every eighth of a long span.

/// Spans begin so often in the length of one.
const OVERLAP: usize = 8;
/// With data for fewer differences of spans that do not overlap, an octave is not told.
const ENOUGH: u64 = 8;

/// The octaves whose spans begin at every edge: they look back on the same edges.
const FINE: u32 = OVERLAP.trailing_zeros() + 1;

/// The most octaves with spans of more periods.
const COARSE: usize = 41 - FINE as usize;

/// Edges that the fine octaves look back on: two of their longest spans.
const LOOK_BACK: usize = 2 * OVERLAP;

/// Edges that are kept: more than two spans of steps.
const KEPT: usize = 32;

/// The last edges, a step apart.
#[derive(Debug, Clone, Default)]
struct LastEdges {
    edges: [u64; KEPT],
    /// Where the last one is.
    last: usize,
    count: usize,
}

impl LastEdges {
    #[inline]
    fn push(&mut self, at: u64) {
        self.last = (self.last + 1) % KEPT;
        if let Some(place) = self.edges.get_mut(self.last) {
            *place = at;
        }
        self.count = (self.count + 1).min(KEPT);
    }

    /// So many of the last edges, first to last; fewer where there are not so many.
    fn last(&self, count: usize) -> Vec<u64> {
        let backwards = (0..count.min(self.count)).rev();
        backwards.filter_map(|by| self.edges.get((self.last + KEPT - by) % KEPT).copied()).collect()
    }

    /// The second difference of spans of so many steps that ends at the last edge, where there are edges for two of them.
    #[inline]
    fn difference(&self, steps: usize) -> Option<f64> {
        if self.count <= 2 * steps {
            return None;
        }
        let back = |by: usize| self.edges.get((self.last + KEPT - by) % KEPT).copied();
        Some(back(0)? as f64 - 2.0 * back(steps)? as f64 + back(2 * steps)? as f64)
    }
}

/// Second differences of edges so many periods apart.
#[derive(Debug, Clone, Copy, Default)]
struct Octave {
    squares: f64,
    count: u64,
}

impl Octave {
    #[inline]
    fn add(&mut self, difference: f64) {
        self.squares += difference * difference;
        self.count += 1;
    }
}

/// How many steps a span of an octave has.
fn steps(octave: u32) -> usize {
    1 << octave.min(OVERLAP.trailing_zeros())
}

/// The sums, octave by octave.
#[derive(Debug, Clone, Default)]
pub(super) struct Octaves {
    /// Every edge, for the fine octaves.
    edges: LastEdges,
    fine: [Octave; FINE as usize],
    /// The others, each with edges of its own.
    coarse: Vec<(LastEdges, Octave)>,
}

impl Octaves {
    /// Adds the edge that has so many periods before it; edges have to come without a gap.
    #[inline]
    pub(super) fn add(&mut self, place: u64, at: u64) {
        self.edges.push(at);
        for (octave, sums) in (0..).zip(&mut self.fine) {
            if let Some(difference) = self.edges.difference(steps(octave)) {
                sums.add(difference);
            }
        }
        let coarse = place.trailing_zeros().min(COARSE as u32) as usize;
        if self.coarse.len() < coarse {
            self.coarse.resize_with(coarse, Default::default);
        }
        for (edges, sums) in self.coarse.iter_mut().take(coarse) {
            edges.push(at);
            if let Some(difference) = edges.difference(OVERLAP) {
                sums.add(difference);
            }
        }
    }

    /// Adds edges in a row, the first of which has so many periods before it.
    pub(super) fn add_all(&mut self, place: u64, edges: &[u64]) {
        let history = self.edges.last(LOOK_BACK);
        if history.len() < LOOK_BACK || self.coarse.len() < COARSE {
            (place..).zip(edges).for_each(|(place, at)| self.add(place, *at));
            return;
        }
        let line: Vec<f64> = history.iter().chain(edges).map(|at| *at as f64).collect();
        for back in line.array_windows::<{ LOOK_BACK + 1 }>() {
            let [e0, .., e8, _, _, _, e12, _, e14, e15, now] = back;
            for (sums, difference) in self.fine.iter_mut().zip([
                now - 2.0 * e15 + e14,
                now - 2.0 * e14 + e12,
                now - 2.0 * e12 + e8,
                now - 2.0 * e8 + e0,
            ]) {
                sums.add(difference);
            }
        }
        edges.iter().skip(edges.len().saturating_sub(KEPT)).for_each(|at| self.edges.push(*at));
        for (octave, (last, sums)) in (1..).zip(&mut self.coarse) {
            let step = 1_u64 << octave;
            let first = (place.wrapping_neg() & (step - 1)) as usize;
            for at in edges.iter().skip(first).step_by(step as usize) {
                last.push(*at);
                if let Some(difference) = last.difference(OVERLAP) {
                    sums.add(difference);
                }
            }
        }
    }

    /// Forgets the last edges, where there is a gap.
    pub(super) fn interrupt(&mut self) {
        self.edges.count = 0;
        self.coarse.iter_mut().for_each(|(edges, _)| edges.count = 0);
    }

    /// Periods in a span, and the deviation of the mean frequency from one span to the next, relative.
    pub(super) fn deviations(&self, period: f64) -> Vec<(u64, f64)> {
        let enough = |octave: u32| (ENOUGH - 1) * steps(octave) as u64 + 1;
        let all = self.fine.iter().chain(self.coarse.iter().map(|(_, octave)| octave));
        let told = (0_u32..).zip(all).filter(|(place, octave)| octave.count >= enough(*place));
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

    proptest! {
        #[test]
        fn edges_in_a_row_are_as_they_are_one_by_one(
            parts in proptest::collection::vec(
                (proptest::collection::vec(900_u64..1100, 1..300), proptest::option::weighted(0.3, 1_u64..9)), 1..6),
        ) {
            let (mut one_by_one, mut in_rows) = (Octaves::default(), Octaves::default());
            let (mut place, mut at) = (0, 1 << 52);
            for octaves in [&mut one_by_one, &mut in_rows] {
                octaves.add(place, at);
            }
            for (periods, gap) in &parts {
                let edges: Vec<u64> = periods.iter().map(|period| { at += period; at }).collect();
                in_rows.add_all(place + 1, &edges);
                edges.iter().for_each(|at| { place += 1; one_by_one.add(place, *at) });
                if let Some(gap) = gap {
                    (place, at) = (place + gap, at + gap * 1000);
                    for octaves in [&mut one_by_one, &mut in_rows] {
                        octaves.interrupt();
                        octaves.add(place, at);
                    }
                }
            }
            // To the last digit.
            prop_assert_eq!(one_by_one.deviations(1000.0), in_rows.deviations(1000.0));
        }
    }

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

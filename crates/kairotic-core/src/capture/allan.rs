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

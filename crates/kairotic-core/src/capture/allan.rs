//! The Allan deviation of a signal's edges, over spans that double.

/// With fewer differences an octave is not told.
const ENOUGH: u64 = 8;

/// Second differences of edges so many periods apart.
#[derive(Debug, Clone, Default)]
struct Octave {
    before: Option<(u64, Option<u64>)>,
    squares: f64,
    count: u64,
}

/// The sums, octave by octave.
#[derive(Debug, Clone, Default)]
pub(super) struct Octaves(Vec<Octave>);

impl Octaves {
    /// Adds the edge that has so many periods before it; edges have to come without a gap.
    pub(super) fn add(&mut self, place: u64, at: u64) {
        for octave in 0..=place.trailing_zeros().min(40) as usize {
            if self.0.len() <= octave {
                self.0.resize_with(octave + 1, Octave::default);
            }
            let Some(sums) = self.0.get_mut(octave) else { return };
            if let Some((last, Some(second))) = sums.before {
                let difference = at as f64 - 2.0 * last as f64 + second as f64;
                sums.squares += difference * difference;
                sums.count += 1;
            }
            sums.before = Some((at, sums.before.map(|(last, _)| last)));
        }
    }

    /// Forgets the last edges, where there is a gap.
    pub(super) fn interrupt(&mut self) {
        self.0.iter_mut().for_each(|octave| octave.before = None);
    }

    /// Periods in a span, and the deviation of the mean frequency from one span to the next, relative.
    pub(super) fn deviations(&self, period: f64) -> Vec<(u64, f64)> {
        let told = self.0.iter().enumerate().filter(|(_, octave)| octave.count >= ENOUGH);
        let deviation = |(place, octave): (usize, &Octave)| {
            let periods = 1_u64 << place;
            let span = periods as f64 * period;
            (periods, (octave.squares / (2.0 * octave.count as f64)).sqrt() / span)
        };
        told.map(deviation).collect()
    }
}

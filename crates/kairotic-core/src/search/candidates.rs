//! The search: every divider of every mode, in whole numbers, with a bound that proves when nothing better follows.
//!
//! With `T = f_src / F` the wanted number of source clocks in a period, a division `D` asks for `N* = T / D` ticks. The
//! legal top that is nearest in frequency becomes a candidate, and where that one does not make every signal exact, the
//! nearest one within the tolerance that does ([`exact_top`](super::exact_top)). All numbers are
//! integers scaled by the division's fraction bits; nothing is rounded and nothing is reduced, which makes a divider
//! cost some hundreds of nanoseconds (`benches/search.rs`).

use std::cmp::Ordering;

pub(crate) mod window;

use self::window::PeriodWindow;
use super::candidate::Candidate;
use super::exact_top::Lattice;
use super::rank::{self, Prefer};
use super::shortlist::Shortlist;
use crate::error::{Error, Result};
use crate::part::{CompareLaw, LinearLaw, Mode, PeriodLaw, TopSource};
use crate::setting::active::{self, Ruler, Wanted};
use crate::setting::divider::Dividers;

/// One mode as the search sees it.
#[derive(Debug)]
pub(crate) struct Frame<'t> {
    /// Position in the timer's list of modes.
    pub(crate) index: usize,
    /// The mode.
    pub(crate) mode: &'t Mode,
    /// Bits after the point of a division, dither included.
    pub(crate) fraction_bits: u32,
    /// Smallest and largest top.
    pub(crate) tops: (u64, u64),
    /// The wanted signals, each with the largest compare value of its channel.
    pub(crate) signals: Vec<(Wanted, u64)>,
    /// The used span, with the largest compare value of its channel.
    pub(crate) span: Option<(Wanted, Wanted, u64)>,
    /// What the ticks of a period that makes every signal exact are a multiple of, where there is such a number.
    pub(crate) multiple: Option<u128>,
}

/// What the search needs besides the modes.
#[derive(Debug)]
pub(crate) struct Search {
    /// The timer's divisions.
    pub(crate) dividers: Dividers,
    /// Numerator of the wanted number of source clocks in a period.
    pub(crate) clocks: u128,
    /// Its denominator.
    pub(crate) clocks_scale: u128,
    /// The tolerated relative deviation of the frequency, as a fraction.
    pub(crate) within: (u128, u128),
    /// Numerator and denominator of nanoseconds in a source clock.
    pub(crate) clock_ns: (u128, u128),
    /// What to put first instead of the score.
    pub(crate) prefer: Option<Prefer>,
    /// Whether every setting is wanted, not just the best.
    pub(crate) all: bool,
    /// The fewest steps that will do.
    pub(crate) min_steps: u64,
    /// The window, where any frequency in it will do.
    pub(crate) window: Option<PeriodWindow>,
}

/// The best that is held so far within the tolerance, as far as it tells when to stop.
#[derive(Debug, Default)]
pub(crate) struct Held {
    /// The highest score; zero where nothing is held.
    pub(crate) score: u128,
    /// The highest score outside the tolerance.
    pub(crate) outside: u128,
    /// The most steps.
    steps: u64,
    /// The smallest division that meets everything.
    perfect: Option<u64>,
    /// The smallest division whose tick has one digit and that meets the frequency.
    roundest: Option<u64>,
}

impl Held {
    pub(crate) fn take(&mut self, candidate: &Candidate) {
        if !candidate.within {
            self.outside = self.outside.max(rank::score(candidate));
            return;
        }
        self.score = self.score.max(rank::score(candidate));
        self.steps = self.steps.max(candidate.steps);
        let smaller =
            |known: Option<u64>| Some(known.map_or(candidate.scaled, |least| least.min(candidate.scaled)));
        if candidate.frequency_exact && candidate.signals_exact && candidate.signal_error.0 == 0 {
            self.perfect = smaller(self.perfect);
        }
        if candidate.tick_digits == 1 && candidate.deviation == 0 {
            self.roundest = smaller(self.roundest);
        }
    }
}

impl Search {
    /// The candidates that matter, best first.
    pub(crate) fn run(&self, frames: &[Frame<'_>]) -> Result<Vec<Candidate>> {
        let mut found = Shortlist::new(self.prefer, self.all);
        let mut best = Held::default();
        // Usual modes first: they score higher, and a high score ends the other loops early.
        for usual in [true, false] {
            for frame in frames.iter().filter(|frame| frame.mode.usual == usual) {
                self.run_mode(frame, &mut found, &mut best)?;
            }
        }
        Ok(found.ranked())
    }

    fn run_mode(&self, frame: &Frame<'_>, found: &mut Shortlist, best: &mut Held) -> Result<()> {
        if let Some(window) = self.window {
            return self.run_window(frame, window, found, best);
        }
        let ticks = |top| frame.mode.period.ticks(top).ok_or_else(overflow);
        let (fewest, most) = (ticks(frame.tops.0)?, ticks(frame.tops.1)?);
        // N* = clocks * 2^k / (clocks_scale * scaled) lies within the legal tops from `first` up to `end`.
        let wanted = self.scaled_clocks(frame)?;
        let bound = |ticks: u64| self.clocks_scale.checked_mul(ticks.into()).ok_or_else(overflow);
        let first = self.dividers.at_least(wanted.div_ceil(bound(most)?));
        let end = match bound(fewest)? {
            0 => self.dividers.len(),
            smallest => self.dividers.at_least(wanted / smallest + 1),
        };
        for index in first..end {
            let scaled = self.dividers.scaled(index);
            if self.can_stop(frame, scaled, best)? {
                break;
            }
            for candidate in self.candidates(frame, index)? {
                best.take(&candidate);
                found.push(candidate);
            }
        }
        // Divisions outside that range can only do their nearest legal top; the further away, the worse.
        self.edge(frame, (0..first).rev(), frame.tops.1, found)?;
        let beyond = end.max(first)..self.dividers.len();
        let useful =
            |index: &usize| !self.can_stop(frame, self.dividers.scaled(*index), best).unwrap_or(false);
        self.edge(frame, beyond.take_while(useful), frame.tops.0, found)
    }

    /// Takes divisions whose ideal top is out of reach: at least one, and on as long as they are within the tolerance.
    fn edge(
        &self,
        frame: &Frame<'_>,
        indexes: impl Iterator<Item = usize>,
        top: u64,
        found: &mut Shortlist,
    ) -> Result<()> {
        for index in indexes {
            let candidate = self.judge(frame, index, top)?;
            let within = candidate.within;
            let exact = if within { self.exact(frame, &candidate)? } else { None };
            found.push(candidate);
            exact.into_iter().for_each(|candidate| found.push(candidate));
            if !within {
                break;
            }
        }
        Ok(())
    }

    /// Whether this division and all larger ones are beaten by what is held, even if they were exact in everything.
    fn can_stop(&self, frame: &Frame<'_>, scaled: u64, best: &Held) -> Result<bool> {
        let best_score = best.score;
        if self.all || best_score == 0 {
            return Ok(false);
        }
        match self.prefer {
            None => {}
            // Nothing is better than what is met in everything, and of equals the smaller division leads.
            Some(Prefer::Exact) => return Ok(best.perfect.is_some_and(|least| least < scaled)),
            Some(Prefer::RoundTick) => return Ok(best.roundest.is_some_and(|least| least < scaled)),
            Some(Prefer::Fine) => {
                let steps = self.steps_at_best(frame, scaled)?;
                return Ok(steps < best.steps);
            }
        }
        // A frequency that is no whole number of source clocks cannot be exact; signals always may be.
        let exactness = 1 + u32::from(self.clocks_scale == 1);
        let steps = self.steps_at_best(frame, scaled)?;
        Ok(rank::best_possible(steps, exactness, frame.mode.usual) < best_score)
    }

    /// No division from this one on gives more steps.
    fn steps_at_best(&self, frame: &Frame<'_>, scaled: u64) -> Result<u64> {
        let CompareLaw::Linear(law) = &frame.mode.compare else { return Ok(1) };
        let wanted = self.scaled_clocks(frame)?;
        let ideal = wanted / self.clocks_scale.checked_mul(scaled.into()).ok_or_else(overflow)?;
        // A top within the tolerance that makes signals exact may give so many more.
        let (off, of) = self.within;
        let more = if frame.signals.is_empty() || off >= of { 0 } else { rank::share(ideal, off, of - off) };
        let ticks = u64::try_from(ideal + more).map_err(|_| overflow())?;
        let ticks = ticks.saturating_add(1 + u64::from(frame.mode.period.per_top));
        let ruler = Ruler {
            scaled,
            fraction_bits: frame.fraction_bits,
            dither_bits: frame.mode.dither_bits(),
            top: 0,
            ticks,
        };
        let span = frame.span.map(|(low, high, _)| (low, high));
        active::most_steps(law, ruler, span).ok_or_else(overflow)
    }

    /// The candidates of one division: the top nearest in frequency; and the nearest within the tolerance that makes every
    /// signal exact, where that one does not.
    fn candidates(&self, frame: &Frame<'_>, index: usize) -> Result<impl Iterator<Item = Candidate> + use<>> {
        let unit = self
            .clocks_scale
            .checked_mul(self.dividers.scaled(index).into())
            .and_then(|unit| unit.checked_mul(frame.mode.period.per_top.into()))
            .ok_or_else(overflow)?;
        let besides = unit / u128::from(frame.mode.period.per_top) * u128::from(frame.mode.period.plus);
        let wanted = self.scaled_clocks(frame)?;
        let (least, most) = (u128::from(frame.tops.0), u128::from(frame.tops.1));
        let floor = wanted.saturating_sub(besides) / unit;
        // Both fit a u64, since the limits do.
        let (below, above) = (floor.clamp(least, most) as u64, (floor + 1).clamp(least, most) as u64);
        let nearer =
            if above == below || self.is_lower_nearer(frame, index, below, above)? { below } else { above };
        let leading = self.judge(frame, index, nearer)?;
        let exact = self.exact(frame, &leading)?;
        Ok([Some(leading), exact].into_iter().flatten())
    }

    /// The top nearest to that of a candidate, within the tolerance, that makes every signal exact where the candidate does
    /// not.
    fn exact(&self, frame: &Frame<'_>, leading: &Candidate) -> Result<Option<Candidate>> {
        let CompareLaw::Linear(law) = &frame.mode.compare else { return Ok(None) };
        if frame.signals.is_empty() || leading.signals_exact {
            return Ok(None);
        }
        let Some(multiple) = frame.multiple else { return Ok(None) };
        let (least, most) = self.tops_within(frame, leading.scaled)?;
        let PeriodLaw { per_top, plus } = frame.mode.period;
        let ticks = |top: u128| top * u128::from(per_top) + u128::from(plus);
        // Most divisions have no such number of ticks within the tolerance: the lattice need not be known.
        if least > most || ticks(most) / multiple * multiple < ticks(least) {
            return Ok(None);
        }
        let ruler = self.ruler(frame, leading.scaled, leading.top)?;
        let signals = frame.signals.iter().map(|(wanted, _)| wanted);
        let Some(lattice) = Lattice::of(law, frame.mode.period, ruler, signals) else { return Ok(None) };
        let below = lattice.at_most(leading.top.into()).filter(|top| *top >= least);
        let above = Some(lattice.at_least(u128::from(leading.top) + 1)).filter(|top| *top <= most);
        let down = below.map(|top| (top, (top - least) / lattice.step, false));
        let up = above.map(|top| (top, (most - top) / lattice.step, true));
        let mut best: Option<Candidate> = None;
        for (start, further, rising) in [down, up].into_iter().flatten() {
            let point = |steps: u128| {
                let by = steps * lattice.step;
                u64::try_from(if rising { start + by } else { start - by }).map_err(|_| overflow())
            };
            let Some(steps) = self.first_exact(frame, leading.division, law, further, point)? else {
                continue;
            };
            let found = self.judge(frame, leading.division, point(steps)?)?;
            let nearer = |held: &Candidate| rank::compare_deviation(&found, held) != Ordering::Greater;
            // Equals go to the larger top, and tops that are above come last.
            if found.within && best.as_ref().is_none_or(nearer) {
                best = Some(found);
            }
        }
        Ok(best)
    }

    /// How many steps of a lattice it takes to the first point that makes every signal exact, of so many. A gain leaves out all
    /// but one of as many points as it is large, so that those tell. Beyond them only the largest compare value can be in the
    /// way, of near points and not of far ones.
    fn first_exact(
        &self,
        frame: &Frame<'_>,
        division: usize,
        law: &LinearLaw,
        further: u128,
        point: impl Fn(u128) -> Result<u64>,
    ) -> Result<Option<u128>> {
        let exact = |steps| Ok::<bool, Error>(self.judge(frame, division, point(steps)?)?.signals_exact);
        let turns = u128::from(law.gain.unsigned_abs());
        for steps in 0..turns.min(further + 1) {
            if exact(steps)? {
                return Ok(Some(steps));
            }
        }
        let last = further.saturating_sub(turns - 1).max(turns);
        for end in last..=further {
            if exact(end)? {
                // The nearest of the same turn: what is in the way ends somewhere in between.
                let (mut near, mut far) = (end % turns, end);
                while far - near > turns {
                    let middle = near + (far - near) / 2 / turns * turns;
                    if exact(middle)? { far = middle } else { near = middle }
                }
                return Ok(Some(far));
            }
        }
        Ok(None)
    }

    /// The smallest and the largest legal top whose frequency is within the tolerance; the former above the latter where none
    /// is.
    fn tops_within(&self, frame: &Frame<'_>, scaled: u64) -> Result<(u128, u128)> {
        let wanted = self.scaled_clocks(frame)?;
        let unit = self.clocks_scale.checked_mul(scaled.into()).ok_or_else(overflow)?;
        let (off, of) = self.within;
        let PeriodLaw { per_top, plus } = frame.mode.period;
        let (per_top, plus) = (u128::from(per_top), u128::from(plus));
        // Realised clocks from wanted · of / (of + off) to wanted · of / (of - off).
        let fewest = rank::share(wanted, of, of.checked_add(off).ok_or_else(overflow)?);
        let most = if off < of { rank::share(wanted, of, of - off) } else { u128::MAX };
        let (fewest, most) = (fewest / unit, (most / unit).saturating_add(1));
        let least = (fewest.saturating_sub(plus) / per_top).max(frame.tops.0.into());
        Ok((least, (most.saturating_sub(plus) / per_top).min(frame.tops.1.into())))
    }

    /// Whether the lower top's frequency is nearer than the upper's; equals go to the larger top.
    fn is_lower_nearer(&self, frame: &Frame<'_>, index: usize, below: u64, above: u64) -> Result<bool> {
        let scaled = self.dividers.scaled(index);
        let fraction =
            |top| self.deviation(frame, frame.mode.period.ticks(top).ok_or_else(overflow)?, scaled);
        let (lower, upper) = (fraction(below)?, fraction(above)?);
        Ok(rank::compare_fractions(lower, upper) == Ordering::Less)
    }

    /// How far a period is off, and how long it is: a fraction, but for a constant factor.
    fn deviation(&self, frame: &Frame<'_>, ticks: u64, scaled: u64) -> Result<(u128, u128)> {
        let period = u128::from(ticks) * u128::from(scaled);
        let realised = period.checked_mul(self.clocks_scale).ok_or_else(overflow)?;
        Ok((self.scaled_clocks(frame)?.abs_diff(realised), period))
    }

    /// What the compare values of one division, scaled, and one top are measured in.
    pub(crate) fn ruler(&self, frame: &Frame<'_>, scaled: u64, top: u64) -> Result<Ruler> {
        let ticks = frame.mode.period.ticks(top).ok_or_else(overflow)?;
        let (fraction_bits, dither_bits) = (frame.fraction_bits, frame.mode.dither_bits());
        Ok(Ruler { scaled, fraction_bits, dither_bits, top, ticks })
    }

    pub(crate) fn judge(&self, frame: &Frame<'_>, index: usize, top: u64) -> Result<Candidate> {
        let scaled = self.dividers.scaled(index);
        let ruler = self.ruler(frame, scaled, top)?;
        let (deviation, period) = self.deviation(frame, ruler.ticks, scaled)?;
        let realised = period.checked_mul(self.clocks_scale).ok_or_else(overflow)?;
        let within = rank::wide(deviation, self.within.1) <= rank::wide(realised, self.within.0);
        let mut candidate = Candidate {
            mode: frame.index,
            division: index,
            scaled,
            top,
            deviation,
            period,
            within,
            steady: active::is_whole(ruler),
            frequency_exact: deviation == 0 && active::is_whole(ruler),
            signals_exact: true,
            signal_error: (0, 1),
            steps: 1,
            tick_digits: self.tick_digits(scaled),
            usual: frame.mode.usual,
            costs_channel: matches!(frame.mode.top, TopSource::Compare { .. }),
        };
        match &frame.mode.compare {
            CompareLaw::Toggle => {
                candidate.signals_exact = period.is_multiple_of(2 << frame.fraction_bits);
            }
            CompareLaw::Linear(law) => judge_signals(frame, law, ruler, &mut candidate)?,
        }
        candidate.within &= candidate.steps >= self.min_steps;
        Ok(candidate)
    }

    /// `T * 2^k`: the wanted number of source clocks, scaled as divisions are, times `clocks_scale`.
    fn scaled_clocks(&self, frame: &Frame<'_>) -> Result<u128> {
        self.clocks.checked_mul(1 << frame.fraction_bits).ok_or_else(overflow)
    }

    fn tick_digits(&self, scaled: u64) -> u32 {
        let (numerator, denominator) = self.clock_ns;
        let scale = denominator.checked_mul(1 << self.dividers.fraction_bits);
        match numerator.checked_mul(scaled.into()).zip(scale) {
            Some((product, scale)) if product.is_multiple_of(scale) => {
                let mut ns = product / scale;
                while ns != 0 && ns.is_multiple_of(10) {
                    ns /= 10;
                }
                ns.checked_ilog10().unwrap_or(0) + 1
            }
            _ => u32::MAX,
        }
    }
}

fn judge_signals(frame: &Frame<'_>, law: &LinearLaw, ruler: Ruler, candidate: &mut Candidate) -> Result<()> {
    for (wanted, limit) in &frame.signals {
        let nearest = active::nearest(law, *limit, ruler, *wanted).ok_or_else(overflow)?;
        candidate.signals_exact &= nearest.exact;
        let error = (nearest.error, nearest.error_scale);
        if rank::compare_fractions(error, candidate.signal_error) == Ordering::Greater {
            candidate.signal_error = error;
        }
    }
    candidate.steps = match frame.span {
        Some((low, high, limit)) => active::span_steps(law, limit, ruler, low, high),
        None => active::most_steps(law, ruler, None),
    }
    .ok_or_else(overflow)?;
    Ok(())
}

fn overflow() -> Error {
    Error::overflow("ratio of clock and frequency")
}

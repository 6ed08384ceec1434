//! The cheapest arithmetic for a map that is exact enough and fits the word, with the proof of both.

use num_traits::ToPrimitive;

use super::{Form, MOST_LOOKED_AT, Map, Word};
use crate::error::Result;
use crate::quantity::{OrOverflow, Rational};

/// A map, and what its arithmetic may do.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct MapRequest {
    /// The line.
    pub map: Map,
    /// The machine's word.
    pub word: Word,
    /// The largest error that will do, in compare steps.
    pub most: Rational,
}

/// How the largest error is known.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Proof {
    /// Every input was looked at: so many.
    EveryInput(u64),
    /// The error of a rounded line lies between those at its ends, and a rounding.
    Interval,
}

/// Arithmetic for a map, with what is proved of it.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct ScaledMap {
    /// What was asked.
    pub request: MapRequest,
    /// The arithmetic.
    pub form: Form,
    /// The largest error against the exact line, in compare steps.
    pub error: Rational,
    /// How that is known.
    pub proof: Proof,
    /// The largest number on the way.
    pub widest: u128,
    /// Whether the error is small enough; if not, it is the best of all that were tried and fit the word.
    pub met: bool,
    /// The exact compare value of each input, where they are no straight line.
    pub curve: Option<Vec<Rational>>,
}

impl ScaledMap {
    /// The exact compare value of an input of the map, which need not be whole.
    ///
    /// # Errors
    /// Numbers that do not fit.
    pub fn exact(&self, input: i64) -> Result<Rational> {
        let map = self.request.map;
        let place = usize::try_from(input.abs_diff(map.from)).ok();
        let on_curve = self.curve.as_ref().zip(place).and_then(|(curve, place)| curve.get(place));
        on_curve.map_or_else(|| map.exact(input), |exact| Ok(*exact))
    }
}

/// Tables of at most so many bytes are smaller than any code.
const SMALL_TABLE: u64 = 32;

/// Finds the arithmetic.
///
/// # Errors
/// [`Error::NoMap`](crate::Error::NoMap) for a map that is none, or whose ends do not fit the word.
pub fn scale(request: MapRequest) -> Result<ScaledMap> {
    let MapRequest { map, word, most } = request;
    let map = map.checked()?;
    let half = word.largest_signed().to_i64().unwrap_or(i64::MAX);
    let fits = match map.from {
        from if from < 0 => from >= -half - 1 && map.to <= half,
        _ => u128::from(map.to.unsigned_abs()) <= word.largest(),
    };
    if !fits {
        let why = format!("inputs of {}..{} do not fit words of {} bits", map.from, map.to, word.bits());
        return Err(crate::Error::NoMap { why });
    }
    let highest = map.first.max(map.last);
    if u128::from(highest) > word.largest() {
        let why = format!("the compare value {highest} does not fit words of {} bits", word.bits());
        return Err(crate::Error::NoMap { why });
    }
    let mut found = Vec::new();
    for form in forms(&map, word) {
        let widest = form.widest(&map);
        if widest <= word.largest() {
            let error = bound(&map, &form)?;
            found.push(ScaledMap {
                request,
                form,
                error,
                proof: Proof::Interval,
                widest,
                met: error <= most,
                curve: None,
            });
        }
    }
    // The bound may be above what there is: where all inputs are quickly looked at, the leaders are judged by them.
    if map.run() < FEW {
        look_at_leaders(&mut found, most)?;
    }
    let rank = |found: &ScaledMap| (!found.met, if found.met { found.form.cost() } else { 0 }, found.error);
    let best = found.into_iter().min_by_key(rank);
    let mut best = best.ok_or_else(|| crate::Error::NoMap {
        why: format!("its numbers do not fit words of {} bits", word.bits()),
    })?;
    if (FEW..MOST_LOOKED_AT).contains(&map.run()) {
        look(&mut best)?;
    }
    Ok(best)
}

/// So many forms are looked at of those that cost the same, those with the best bounds.
const LEADERS: usize = 16;

/// Looks at every input of the forms that may be the best: the cheapest that may meet the limit until one does and has its
/// like beside it; where none does, those with the best bounds. What is not looked at leaves.
fn look_at_leaders(found: &mut Vec<ScaledMap>, most: Rational) -> Result<()> {
    // A bound is seldom more than twice the true error and a step: what is bounded worse is not tried, proved or not.
    let twice =
        Rational::whole(2).times(most).and_then(|twice| twice.plus(Rational::ONE)).or_overflow("error")?;
    found.sort_by_key(|one| (one.error > twice, one.form.cost(), one.error));
    let may_meet: Vec<ScaledMap> = found.iter().filter(|one| one.error <= twice).cloned().collect();
    let mut looked: Vec<ScaledMap> = Vec::new();
    for alike in may_meet.chunk_by(|left, right| left.form.cost() == right.form.cost()) {
        for one in alike.iter().take(LEADERS) {
            let mut one = one.clone();
            look(&mut one)?;
            looked.push(one);
        }
        if looked.iter().any(|one| one.met) {
            break;
        }
    }
    if !looked.iter().any(|one| one.met) {
        found.sort_by_key(|one| one.error);
        looked = found.iter().take(LEADERS).cloned().collect();
        looked.iter_mut().try_for_each(look)?;
    }
    *found = looked;
    Ok(())
}

/// As many inputs are looked at for every form.
const FEW: u64 = 1 << 16;

/// Looks at every input.
fn look(found: &mut ScaledMap) -> Result<()> {
    let map = found.request.map;
    let (run, rise) = (map.run(), map.rise());
    let mut most: u128 = 0;
    for x in 0..=run {
        let exact = u128::from(x) * u128::from(rise);
        let made = u128::from(found.form.distance(&map, x)) * u128::from(run);
        most = most.max(exact.abs_diff(made));
    }
    found.error = most.to_i128().and_then(|most| Rational::new(most, run.into())).or_overflow("error")?;
    found.proof = Proof::EveryInput(run + 1);
    found.met = found.error <= found.request.most;
    Ok(())
}

/// Every arithmetic worth a look.
fn forms(map: &Map, word: Word) -> Vec<Form> {
    let (run, rise) = (map.run(), map.rise());
    let mut forms = Vec::new();
    let bytes = u64::from(word.bits() / 8);
    if run < SMALL_TABLE / bytes {
        let nearest = |x: u64| {
            let along = u128::from(x) * u128::from(rise);
            let rounded = (2 * along + u128::from(run)) / (2 * u128::from(run));
            map.beyond(u64::try_from(rounded).unwrap_or(u64::MAX))
        };
        forms.push(Form::Table((0..=run).map(nearest).collect()));
    }
    for whole in [0, rise / run] {
        // The slope that is left to multiply.
        let rest = rise - whole * run;
        // Dropped bits cost error, and make room in the word for a finer factor: what is better, the errors tell.
        for before in (0..63).take_while(|before| run >> before > 0) {
            for shift in 0..word.bits() {
                let Some(scaled) = u128::from(rest).checked_mul(1 << (before + shift)) else { break };
                let scaled = scaled / u128::from(run);
                // What is larger by far leaves the word.
                if scaled > word.largest() {
                    break;
                }
                for factor in [scaled, scaled + 1] {
                    let Ok(factor) = u64::try_from(factor) else { continue };
                    // Nought serves only where the whole part says it all: what makes the same of every input is no map.
                    if factor == 0 && (rest > 0 || before + shift > 0) {
                        continue;
                    }
                    if u128::from(run >> before) * u128::from(factor) > word.largest() {
                        continue;
                    }
                    let shape = Shape { before, factor, shift };
                    let Some((least, most)) = shape.bounds(run, rest) else { continue };
                    // Errors above and below are made alike, as far as the word has room.
                    let room = word.largest() - u128::from(run >> before) * u128::from(factor);
                    let even = u128::try_from(-(least + most) / 2).unwrap_or(0).min(room);
                    let add = u64::try_from(even).unwrap_or(0);
                    forms.push(Form::Shift { whole, before, factor, add, shift });
                }
            }
        }
        let common = gcd(rest, run);
        let (factor, divisor) = (rest / common, run / common);
        let add = divisor / 2;
        forms.push(Form::Divide { whole, factor, add, divisor });
        forms.push(Form::Remainder { whole, factor, add, divisor });
        if whole == rise / run {
            break;
        }
    }
    forms
}

/// A shift without what is added before it.
#[derive(Debug, Clone, Copy)]
struct Shape {
    before: u32,
    factor: u64,
    shift: u32,
}

impl Shape {
    /// Between what errors lie, in parts of a step: `2^shift` of them. A line that is not steep enough, or too steep,
    /// drifts until the far end; dropped bits and the rounding take something away.
    fn bounds(self, run: u64, rest: u64) -> Option<(i128, i128)> {
        let Self { before, factor, shift } = self;
        let one = 1_i128.checked_shl(shift)?;
        // At the far end, in finer parts still: those of `2^(before + shift)`.
        let made = i128::from(run).checked_mul(i128::from(factor))?;
        let exact = i128::from(rest).checked_mul(1_i128.checked_shl(before + shift)?)?;
        let drift = made.checked_sub(exact)?;
        let dropped = ((1_i128 << before) - 1) * i128::from(factor);
        let coarse = |fine: i128| fine >> before;
        let least = coarse(drift.min(0) - dropped) - (one - 1);
        // Rounded away from nought, so that nothing is missed.
        let most = -coarse(-drift.max(0));
        Some((least, most))
    }
}

/// What the largest error of a form, in compare steps, cannot exceed.
fn bound(map: &Map, form: &Form) -> Result<Rational> {
    let (run, rise) = (map.run(), map.rise());
    let (part, of) = match form {
        Form::Shift { whole, before, factor, add, shift } => {
            let shape = Shape { before: *before, factor: *factor, shift: *shift };
            let (least, most) = shape.bounds(run, rise - whole * run).or_overflow("error")?;
            let add = i128::from(*add);
            ((least + add).abs().max((most + add).abs()), 1_i128 << shift)
        }
        // Rounded from the exact quotient.
        Form::Divide { add, divisor, .. } | Form::Remainder { add, divisor, .. } => {
            let below = i128::from(divisor - 1 - add.min(&(divisor - 1)));
            (below.max(i128::from(*add)), i128::from(*divisor))
        }
        Form::Table(_) => (1, 2),
    };
    Rational::new(part, of).or_overflow("error")
}

fn gcd(left: u64, right: u64) -> u64 {
    if right == 0 { left.max(1) } else { gcd(right, left % right) }
}

#[cfg(test)]
pub(super) fn bounds_of(before: u32, factor: u64, shift: u32, run: u64, rest: u64) -> (i128, i128) {
    Shape { before, factor, shift }.bounds(run, rest).unwrap_or_default()
}

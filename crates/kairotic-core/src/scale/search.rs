//! The cheapest arithmetic for a map that is exact enough and fits the word, with the proof of both.

use serde::Serialize;

use num_traits::ToPrimitive;

use super::form::Form;
use super::halves::{self, HalvesCut};
use super::line::{Floors, ScaleLine};
use super::shift::Shifts;
use super::{MOST_LOOKED_AT, Map, Word, far};
use crate::error::{Error, OrOverflow, Result};
use crate::quantity::Rational;

/// A map, and what its arithmetic may do.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
pub struct MapRequest {
    /// The line.
    pub map: Map,
    /// The machine's word.
    pub word: Word,
    /// The largest error that will do, in compare steps.
    pub most: Rational,
}

/// How the largest error is known.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum Proof {
    /// Every input was looked at: so many.
    EveryInput(u64),
    /// The error of a rounded line lies between those at its ends, and a rounding.
    Interval,
}

/// Arithmetic for a map, with what is proved of it.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
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
    /// Whether the error is small enough; if not, it is the least of all that were tried and fit the word.
    pub met: bool,
    /// The exact compare value of each input, where they are no straight line.
    pub curve: Option<Vec<Rational>>,
}

impl ScaledMap {
    /// Whether no multiplication with a shift that fits the word has a smaller error. Of many inputs, that is not known.
    pub const fn is_decided(&self) -> bool {
        self.request.map.run() < FEW
    }

    /// The exact compare value of an input of the map.
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

/// Up to so many inputs, what every form makes of each of them is decided; beyond, by the line's ends.
pub(super) const FEW: u64 = 1 << 16;

/// Finds the arithmetic.
///
/// # Errors
/// [`Error::NoMap`] for a map that is none, or whose ends do not fit the word.
pub fn scale(request: MapRequest) -> Result<ScaledMap> {
    let MapRequest { map, word, .. } = request;
    let map = map.checked()?;
    let no_map = |why: String| Error::NoMap { why };
    let bits = word.bits();
    let half = word.largest_signed().to_i64().unwrap_or(i64::MAX);
    let fits = match map.from {
        from if from < 0 => from >= -half - 1 && map.to <= half,
        _ => u128::from(map.to.unsigned_abs()) <= word.largest(),
    };
    if !fits {
        return Err(no_map(format!("inputs of {}..{} do not fit words of {bits} bits", map.from, map.to)));
    }
    let [first, last] = map.ends();
    let highest = first.max(last).max(map.base());
    if u128::from(highest) > word.largest() {
        return Err(no_map(format!("the compare value {highest} does not fit words of {bits} bits")));
    }
    let line = ScaleLine::of(&map, word.largest())?;
    // No error is larger than the word.
    let most = line.parts_of(request.most)?.min(line.span << bits);
    let search = FormSearch { request, line, most };
    let found = if map.run() < FEW { search.decided()? } else { search.bounded()? };
    found.ok_or_else(|| no_map(format!("its numbers do not fit words of {bits} bits")))
}

/// A kind of arithmetic: its forms cost the same.
#[derive(Debug, Clone, Copy)]
enum Shape {
    Table,
    Shifts { whole: u64, drops: bool },
    Halves { whole: u64, steps: bool },
    Divide { whole: u64 },
    Remainder { whole: u64 },
}

/// Forms of one shape among which the one with the least error is decided at a stroke.
#[derive(Debug, Clone)]
enum FormFamily {
    Shifts(Shifts),
    Halves(HalvesCut),
    Single(Form),
}

struct FormSearch {
    request: MapRequest,
    line: ScaleLine,
    /// The largest error that will do, in parts of a step.
    most: i128,
}

impl FormSearch {
    /// Of few inputs: the least error of the cheapest shape that meets the limit, or where none does of all.
    fn decided(&self) -> Result<Option<ScaledMap>> {
        let shapes = self.shapes();
        let met = shapes.iter().find_map(|shape| self.least(*shape, self.most));
        if let Some((form, _)) = met {
            return self.looked_at(form).map(Some);
        }
        let mut best: Option<(Form, i128)> = None;
        for shape in shapes {
            let below =
                best.as_ref().map_or(self.line.span << self.request.word.bits(), |(_, error)| error - 1);
            best = self.least(shape, below).or(best);
        }
        best.map(|(form, _)| self.looked_at(form)).transpose()
    }

    /// Of many inputs: by what the errors at the line's ends allow, the best then looked at where that can be done.
    fn bounded(&self) -> Result<Option<ScaledMap>> {
        let MapRequest { map, word, most } = self.request;
        let mut found = far::forms(&self.line, word)?;
        let half = Rational::new(1, 2).or_overflow("error")?;
        let whole = self.line.whole();
        let divisions = [
            Shape::Divide { whole: 0 },
            Shape::Divide { whole },
            Shape::Remainder { whole: 0 },
            Shape::Remainder { whole },
        ];
        found.extend(divisions.into_iter().filter_map(|shape| Some((self.quotient(shape)?, half))));
        found.retain(|(form, _)| form.widest(&map) <= word.largest());
        let rank = |(form, error): &(Form, Rational)| {
            (*error > most, if *error > most { 0 } else { form.cost() }, *error)
        };
        let Some((form, error)) = found.into_iter().min_by_key(rank) else { return Ok(None) };
        if map.run() < MOST_LOOKED_AT {
            return self.looked_at(form).map(Some);
        }
        let widest = form.widest(&map);
        let request = self.request;
        Ok(Some(ScaledMap {
            request,
            form,
            error,
            proof: Proof::Interval,
            widest,
            met: error <= most,
            curve: None,
        }))
    }

    /// The shapes, the cheapest first.
    fn shapes(&self) -> Vec<Shape> {
        let whole = self.line.whole();
        let mut wholes = vec![0];
        // A whole part alone is a multiplication of the first kind.
        wholes.extend((whole > 0 && self.line.rest(whole) > 0).then_some(whole));
        let each = |shape: fn(u64) -> Shape| wholes.iter().map(move |whole| shape(*whole));
        let mut shapes = vec![Shape::Table];
        shapes.extend(each(|whole| Shape::Shifts { whole, drops: false }));
        shapes.extend(each(|whole| Shape::Shifts { whole, drops: true }));
        shapes.extend(each(|whole| Shape::Halves { whole, steps: false }));
        shapes.extend(each(|whole| Shape::Halves { whole, steps: true }));
        shapes.extend(each(|whole| Shape::Divide { whole }));
        shapes.extend(each(|whole| Shape::Remainder { whole }));
        shapes
    }

    /// The form of a shape with the least error, where that is at most `most` parts of a step.
    fn least(&self, shape: Shape, most: i128) -> Option<(Form, i128)> {
        let mut best: Option<(Form, i128)> = None;
        for family in self.families(shape) {
            // Most families are out at once: only those that beat the best so far are looked into.
            let below = best.as_ref().map_or(most, |(_, error)| error - 1);
            best = bisected(below, |error| self.within(&family, error)).or(best);
        }
        best
    }

    fn families(&self, shape: Shape) -> Vec<FormFamily> {
        let (line, word) = (&self.line, self.request.word);
        match shape {
            Shape::Shifts { whole, drops } => {
                let before = if drops { 1..63 } else { 0..1 };
                // What makes the same of every input is no map.
                let before = before.take_while(|before| line.run >> before > 0);
                before.map(|before| FormFamily::Shifts(Shifts { whole, before })).collect()
            }
            Shape::Halves { whole, steps } => {
                halves::cuts(line, word, whole, steps).into_iter().map(FormFamily::Halves).collect()
            }
            Shape::Table => self.table().into_iter().map(FormFamily::Single).collect(),
            Shape::Divide { .. } | Shape::Remainder { .. } => {
                self.quotient(shape).into_iter().map(FormFamily::Single).collect()
            }
        }
    }

    /// A form of a family whose error is nowhere larger than so many parts of a step.
    fn within(&self, family: &FormFamily, error: i128) -> Option<Form> {
        let (line, word) = (&self.line, self.request.word);
        match family {
            FormFamily::Shifts(shifts) => shifts.within(line, word, error),
            FormFamily::Halves(cut) => cut.within(line, word, error),
            FormFamily::Single(form) => {
                let fits = form.widest(&self.request.map) <= word.largest();
                (fits && self.error_of(form)? <= error).then(|| form.clone())
            }
        }
    }

    /// The compare values themselves, where they are few.
    fn table(&self) -> Option<Form> {
        let ScaleLine { run, offset, rise, span, .. } = self.line;
        let small = run < SMALL_TABLE / u64::from(self.request.word.bits().div_ceil(8));
        let nearest = Floors::new(2 * offset + span, 2 * rise, 2 * span);
        let value = |distance: i64| self.request.map.beyond(u64::try_from(distance).unwrap_or(u64::MAX));
        small.then(|| Form::Table((0..=run).zip(nearest).map(|(_, distance)| value(distance)).collect()))
    }

    /// The exact slope as a fraction: always the nearest compare value.
    fn quotient(&self, shape: Shape) -> Option<Form> {
        let (Shape::Divide { whole } | Shape::Remainder { whole }) = shape else { return None };
        let ScaleLine { offset, span, .. } = self.line;
        let rest = self.line.rest(whole);
        let common = num_integer::gcd(rest, span).max(1);
        let factor = u64::try_from(rest / common).ok().filter(|factor| *factor > 0)?;
        let divisor = u64::try_from(span / common).ok()?;
        let add = u64::try_from((2 * offset + span) / (2 * common)).ok()?;
        Some(match shape {
            Shape::Divide { .. } => Form::Divide { whole, factor, add, divisor },
            _ => Form::Remainder { whole, factor, add, divisor },
        })
    }

    /// The largest error of a form, in parts of a step, by every input.
    fn error_of(&self, form: &Form) -> Option<i128> {
        let ScaleLine { run, offset, rise, span, .. } = self.line;
        let (mut exact, mut most) = (offset, 0);
        for x in 0..=run {
            let made = i128::from(form.distance(&self.request.map, x)).checked_mul(span)?;
            most = most.max((made - exact).abs());
            exact += rise;
        }
        Some(most)
    }

    /// The form, with every input looked at.
    fn looked_at(&self, form: Form) -> Result<ScaledMap> {
        let request = self.request;
        let error = self
            .error_of(&form)
            .and_then(|error| Rational::new(error, self.line.span))
            .or_overflow("error")?;
        let proof = Proof::EveryInput(self.line.run + 1);
        let widest = form.widest(&request.map);
        Ok(ScaledMap { request, form, error, proof, widest, met: error <= request.most, curve: None })
    }
}

/// The least error for which there is a form, at most the given one.
fn bisected(most: i128, within: impl Fn(i128) -> Option<Form>) -> Option<(Form, i128)> {
    let mut found = within(most)?;
    let (mut low, mut high) = (0, most);
    while low < high {
        let middle = low + (high - low) / 2;
        match within(middle) {
            Some(form) => (found, high) = (form, middle),
            None => low = middle + 1,
        }
    }
    Some((found, high))
}

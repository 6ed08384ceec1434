//! From text to an exact quantity.
//!
//! ```text
//! quantity  = [sign] digits ["." digits] ["/" digits ["." digits]] [space] unit
//! digits    = digit {digit | "_"}
//! range     = quantity ".." quantity
//! tolerance = quantity ("+-" | "±") deviation
//! ```

use super::dimension::{DeviationDimension, Dimension, Unit};
use super::error::{QuantityError, Result, TextProblem};
use super::{Deviation, Quantity, Range, Rational, Tolerance};

/// Reads a quantity of dimension `D`, for example `25kHz`, `1.5 ms`, `48/7MHz` or `16_000_000Hz`.
///
/// # Errors
/// [`QuantityError::Text`] names the dimension, the text and the units that fit.
pub fn quantity<D: Dimension>(text: &str) -> Result<Quantity<D>> {
    parse(text, D::UNITS, D::ALIASES).map(Quantity::new).map_err(|problem| error::<D>(text, problem))
}

/// Reads a range such as `900us..2100us`. The ends may come in either order; the caller judges that.
///
/// # Errors
/// As [`quantity`], and when the two dots are missing.
pub fn range<D: Dimension>(text: &str) -> Result<Range<Quantity<D>>> {
    let (low, high) =
        text.split_once("..").ok_or_else(|| error::<D>(text, TextProblem::MissingSeparator("..")))?;
    Ok(Range { low: quantity(low)?, high: quantity(high)? })
}

/// Reads a quantity that may carry a tolerance, such as `48MHz` or `48MHz±50ppm` or `8MHz+-1%`.
///
/// # Errors
/// As [`quantity`]; a negative tolerance is an error too.
pub fn tolerance<D: Dimension>(text: &str) -> Result<Tolerance<Quantity<D>>> {
    let Some((nominal, deviation)) = text.split_once("+-").or_else(|| text.split_once('±')) else {
        return Ok(Tolerance { nominal: quantity(text)?, deviation: Deviation::ZERO });
    };
    let nominal = quantity(nominal)?;
    let deviation = quantity::<DeviationDimension>(deviation)?;
    if deviation < Deviation::ZERO {
        return Err(QuantityError::NotPositive { quantity: "tolerance", value: deviation.exact() });
    }
    Ok(Tolerance { nominal, deviation })
}

fn error<D: Dimension>(text: &str, problem: TextProblem) -> QuantityError {
    let units = D::UNITS.iter().map(|unit| unit.symbol).collect::<Vec<_>>().join(", ");
    QuantityError::Text { quantity: D::NAME, text: shortened(text), problem, units }
}

/// The text as a message may repeat it: whole when short, else its two ends.
fn shortened(text: &str) -> String {
    const WHOLE: usize = 40;
    let count = text.chars().count();
    if count <= WHOLE {
        return text.to_owned();
    }
    let start: String = text.chars().take(WHOLE / 2).collect();
    let end: String = text.chars().skip(count - WHOLE / 4).collect();
    format!("{start}…{end} ({count} characters)")
}

fn parse(text: &str, units: &[Unit], aliases: &[Unit]) -> std::result::Result<Rational, TextProblem> {
    let text = text.trim();
    if text.is_empty() {
        return Err(TextProblem::Empty);
    }
    let (negative, unsigned) = match text.strip_prefix('-') {
        Some(rest) => (true, rest),
        None => (false, text.strip_prefix('+').unwrap_or(text)),
    };
    let (numerator, rest) = decimal(unsigned)?;
    let (value, rest) = match rest.strip_prefix('/') {
        Some(rest) => {
            let (denominator, rest) = decimal(rest).map_err(|problem| match problem {
                TextProblem::NotANumber => TextProblem::MissingDigits,
                other => other,
            })?;
            if denominator.is_zero() {
                return Err(TextProblem::ZeroDenominator);
            }
            (numerator.over(denominator).ok_or(TextProblem::TooLarge)?, rest)
        }
        None => (numerator, rest),
    };
    let symbol = rest.trim_start();
    if symbol.is_empty() {
        return Err(TextProblem::MissingUnit);
    }
    let unit = units.iter().chain(aliases).find(|unit| unit.symbol == symbol).ok_or_else(|| {
        let nearest = units.iter().map(|unit| unit.symbol).find(|known| known.eq_ignore_ascii_case(symbol));
        TextProblem::WrongUnit { unit: shortened(symbol), nearest }
    })?;
    let signed = if negative { value.times(Rational::whole(-1)) } else { Some(value) };
    signed.and_then(|value| value.times(unit.worth)).ok_or(TextProblem::TooLarge)
}

/// Reads `digits ["." digits]` and returns what follows it.
fn decimal(text: &str) -> std::result::Result<(Rational, &str), TextProblem> {
    if !text.starts_with(|c: char| c.is_ascii_digit()) {
        return Err(TextProblem::NotANumber);
    }
    let (mut mantissa, mut rest) = digits(text, 0)?;
    let mut scale: i128 = 1;
    // One dot is a decimal point; two are a range, which has been split already.
    if let Some(fraction) = rest.strip_prefix('.') {
        let (value, after) = digits(fraction, mantissa)?;
        let places = fraction.bytes().take(fraction.len() - after.len()).filter(u8::is_ascii_digit).count();
        scale =
            u32::try_from(places).ok().and_then(|p| 10_i128.checked_pow(p)).ok_or(TextProblem::TooLarge)?;
        (mantissa, rest) = (value, after);
    }
    Ok((Rational::new(mantissa, scale).ok_or(TextProblem::TooLarge)?, rest))
}

/// Appends the digits at the start of `text` to `value`; underscores between digits group them.
fn digits(text: &str, mut value: i128) -> std::result::Result<(i128, &str), TextProblem> {
    let length = text.bytes().take_while(|b| b.is_ascii_digit() || *b == b'_').count();
    let (run, rest) = text.split_at(length);
    if run.is_empty() || run.starts_with('_') || run.ends_with('_') {
        return Err(TextProblem::MissingDigits);
    }
    for digit in run.bytes().filter(u8::is_ascii_digit) {
        value = value
            .checked_mul(10)
            .and_then(|v| v.checked_add(i128::from(digit - b'0')))
            .ok_or(TextProblem::TooLarge)?;
    }
    Ok((value, rest))
}

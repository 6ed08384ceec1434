//! Decimal numbers to whole ticks, without a detour by floats.

/// The whole number nearest to a decimal number times a power of ten; `None` for a text that is none, or too large.
pub(super) fn scaled(text: &[u8], power: i32) -> Option<i64> {
    plain(text, power).or_else(|| any(text, power))
}

/// Powers of ten.
static POWERS: [u64; 20] = {
    let mut powers = [1; 20];
    let mut rest = powers.as_mut_slice();
    let mut power = 1_u64;
    while let [first, after @ ..] = rest {
        *first = power;
        power = power.wrapping_mul(10);
        rest = after;
    }
    powers
};

/// The usual case: digits and perhaps a point, which come to a whole number that fits.
fn plain(text: &[u8], power: i32) -> Option<i64> {
    const MOST: usize = 18;
    if text.is_empty() || text.len() > MOST {
        return None;
    }
    let (mut mantissa, mut places, mut point) = (0_u64, 0_i32, false);
    for byte in text {
        let digit = byte.wrapping_sub(b'0');
        if digit < 10 {
            mantissa = mantissa * 10 + u64::from(digit);
            places += i32::from(point);
        } else if *byte == b'.' && !point && text.len() > 1 {
            point = true;
        } else {
            return None;
        }
    }
    let scale = POWERS.get(usize::try_from(power - places).ok()?)?;
    i64::try_from(mantissa.checked_mul(*scale)?).ok()
}

fn any(text: &[u8], power: i32) -> Option<i64> {
    let text = text.trim_ascii();
    let (negative, digits) = match text {
        [b'-', rest @ ..] => (true, rest),
        [b'+', rest @ ..] => (false, rest),
        rest => (false, rest),
    };
    let mut mantissa: u64 = 0;
    let (mut places, mut seen, mut point) = (0_i32, false, false);
    let mut rest = digits;
    while let [byte, after @ ..] = rest {
        match byte {
            b'0'..=b'9' => {
                seen = true;
                let next = mantissa.checked_mul(10).and_then(|tens| tens.checked_add((byte - b'0').into()));
                match next {
                    Some(next) => {
                        mantissa = next;
                        places += i32::from(point);
                    }
                    // Digits beyond the nineteenth are too fine to count, unless they stand before the point.
                    None if point => {}
                    None => return None,
                }
            }
            b'.' | b',' if !point => point = true,
            b'e' | b'E' => break,
            _ => return None,
        }
        rest = after;
    }
    let exponent = match rest {
        [] => 0,
        [_, exponent @ ..] => std::str::from_utf8(exponent).ok()?.parse::<i32>().ok()?,
    };
    let power = power.checked_add(exponent)?.checked_sub(places)?;
    let value = if power >= 0 {
        10_u64.checked_pow(power.unsigned_abs())?.checked_mul(mantissa)?
    } else {
        match 10_u64.checked_pow(power.unsigned_abs()) {
            Some(scale) => mantissa / scale + u64::from(mantissa % scale >= scale.div_ceil(2)),
            None => 0,
        }
    };
    let value = i64::try_from(value).ok().filter(|_| seen)?;
    Some(if negative { -value } else { value })
}

#[cfg(test)]
mod tests {
    use super::scaled;

    #[test]
    fn decimals_are_taken_as_they_are_written() {
        for (text, power, wanted) in [
            ("0.000123", 9, Some(123_000)),
            ("1.5e-3", 6, Some(1500)),
            ("-2", 3, Some(-2000)),
            (" 7 ", 0, Some(7)),
            ("0,25", 2, Some(25)),
            ("1.0000000000000000000001", 3, Some(1000)),
            ("2.5", 0, Some(3)),
            ("1e30", 0, None),
            (".", 0, None),
            ("", 0, None),
            ("12a", 0, None),
            ("99999999999999999999", 0, None),
        ] {
            assert_eq!(scaled(text.as_bytes(), power), wanted, "{text}");
        }
    }
}

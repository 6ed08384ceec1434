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

/// The most digits that fit whatever they are.
const MOST: usize = 18;

/// The usual case: digits and perhaps a point, which come to a whole number that fits.
fn plain(text: &[u8], power: i32) -> Option<i64> {
    let mut digits = Digits::default();
    if text.len() > MOST {
        return None;
    }
    text.iter().all(|byte| digits.add(*byte)).then(|| digits.scaled(power))?
}

/// The same at the start of some bytes, up to a separator, and where that ends; `None` for anything unusual.
pub(super) fn leading(bytes: &[u8], separator: u8, power: i32) -> Option<(i64, usize)> {
    let mut digits = Digits::default();
    let mut place = 0;
    while place <= MOST {
        if let Some(eight) = bytes.get(place..).and_then(<[u8]>::first_chunk).copied().and_then(eight) {
            digits.add_eight(eight);
            place += 8;
            continue;
        }
        let byte = *bytes.get(place)?;
        if byte == separator {
            return Some((digits.scaled(power).filter(|_| place <= MOST)?, place + 1));
        }
        if !digits.add(byte) {
            return None;
        }
        place += 1;
    }
    None
}

/// The number that eight digits make, all at once: neighbours are added in pairs, then pairs of those, then both halves.
fn eight(bytes: [u8; 8]) -> Option<u64> {
    const EACH: u64 = 0x0101_0101_0101_0101;
    let word = u64::from_le_bytes(bytes);
    // Between '0' and '9' both the byte and six more have a three in their upper half.
    let digits = |word: u64| word & (0xf0 * EACH) == 0x30 * EACH;
    if !digits(word) || !digits(word.wrapping_add(6 * EACH)) {
        return None;
    }
    let ones = word & (0x0f * EACH);
    let pairs = ones.wrapping_mul((10 << 8) + 1) >> 8 & 0x00ff_00ff_00ff_00ff;
    let fours = pairs.wrapping_mul((100 << 16) + 1) >> 16 & 0x0000_ffff_0000_ffff;
    Some(fours.wrapping_mul((10_000 << 32) + 1) >> 32)
}

/// Digits and perhaps a point.
#[derive(Default)]
struct Digits {
    mantissa: u64,
    any: bool,
    places: i32,
    point: bool,
}

impl Digits {
    /// Whether a byte goes on with it. Of [`MOST`] digits none is lost.
    #[inline]
    fn add(&mut self, byte: u8) -> bool {
        let digit = byte.wrapping_sub(b'0');
        if digit < 10 {
            self.mantissa = self.mantissa.wrapping_mul(10).wrapping_add(u64::from(digit));
            self.places = self.places.wrapping_add(i32::from(self.point));
            self.any = true;
            return true;
        }
        !std::mem::replace(&mut self.point, true) && byte == b'.'
    }

    /// Eight digits go on with it.
    #[inline]
    fn add_eight(&mut self, eight: u64) {
        self.mantissa = self.mantissa.wrapping_mul(100_000_000).wrapping_add(eight);
        self.places = self.places.wrapping_add(i32::from(self.point) * 8);
        self.any = true;
    }

    #[inline]
    fn scaled(&self, power: i32) -> Option<i64> {
        let scale = POWERS.get(usize::try_from(power - self.places).ok()?)?;
        i64::try_from(self.mantissa.checked_mul(*scale)?).ok().filter(|_| self.any)
    }
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
    use proptest::prelude::*;

    use super::{any, eight, leading, scaled};

    proptest! {
        /// Eight digits at once, and a number up to its separator, come to what the slow way makes of them.
        #[test]
        fn the_quick_ways_are_no_others(
            text in "[0-9]{0,12}\\.?[0-9]{0,12}", odd in "[0-9]{0,9}[ -~][0-9]{0,9}", power in 0_i32..13,
        ) {
            for text in [text, odd] {
                if let Some((value, end)) = leading(format!("{text};1").as_bytes(), b';', power) {
                    let number = text.split(';').next().unwrap_or_default();
                    prop_assert_eq!((Some(value), end), (any(number.as_bytes(), power), number.len() + 1), "{}", text);
                }
                if let Some(first) = text.as_bytes().first_chunk() {
                    let digits = first.iter().all(u8::is_ascii_digit);
                    let value = std::str::from_utf8(first).ok().filter(|_| digits).and_then(|text| text.parse().ok());
                    prop_assert_eq!(eight(*first), value);
                }
            }
        }
    }

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

//! Decimal numbers, eight digits at a time: nearly half of a dump's bytes are digits of times.

/// A byte in each of eight.
const fn each(byte: u8) -> u64 {
    u64::from_le_bytes([byte; 8])
}

/// The number that some bytes begin with, modulo 2^64, and how many digits it has.
#[inline]
pub(super) fn leading(bytes: &[u8]) -> (u64, usize) {
    const TENS: [u64; 9] = [1, 10, 100, 1_000, 10_000, 100_000, 1_000_000, 10_000_000, 100_000_000];
    let (mut number, mut count, mut rest) = (0_u64, 0, bytes);
    while let Some((eight, after)) = rest.split_first_chunk::<8>() {
        let values = u64::from_le_bytes(*eight) ^ each(b'0');
        // The highest bit of a byte that is no digit; of those behind the first, which may carry, none counts.
        let others = (values | values.wrapping_add(each(0x76))) & each(0x80);
        let digits = (others.trailing_zeros() / 8) as usize;
        let Some(unit) = TENS.get(digits).filter(|_| digits > 0) else { return (number, count) };
        // Zeros before the digits change nothing.
        let aligned = values << (64 - 8 * digits);
        number = number.wrapping_mul(*unit).wrapping_add(of_eight(aligned));
        count += digits;
        if digits < 8 {
            return (number, count);
        }
        rest = after;
    }
    for digit in rest.iter().map_while(|byte| byte.checked_sub(b'0').filter(|digit| *digit < 10)) {
        number = number.wrapping_mul(10).wrapping_add(digit.into());
        count += 1;
    }
    (number, count)
}

/// The number whose eight digits are the bytes, the first of them the lowest byte: neighbours are joined to pairs, and pairs
/// to fours, in one multiplication each.
const fn of_eight(values: u64) -> u64 {
    const PAIR: u64 = 0x0000_00ff_0000_00ff;
    let pairs = values.wrapping_mul(10).wrapping_add(values >> 8);
    let first = (pairs & PAIR).wrapping_mul(100 + (1_000_000 << 32));
    let second = ((pairs >> 16) & PAIR).wrapping_mul(1 + (10_000 << 32));
    first.wrapping_add(second) >> 32
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    proptest! {
        #[test]
        fn a_number_is_what_its_digits_say(number in any::<u64>(), digits in 1_usize..20, rest in "[^0-9]?.{0,20}") {
            let number = format!("{number:020}")[20 - digits..].to_owned();
            let rest = if rest.starts_with(|letter: char| letter.is_ascii_digit()) { format!("x{rest}") } else { rest };
            let text = format!("{number}{rest}");
            prop_assert_eq!(leading(text.as_bytes()), (number.parse().unwrap(), digits));
        }

        #[test]
        fn what_begins_with_no_digit_is_no_number(bytes in proptest::collection::vec(any::<u8>(), 0..20)) {
            let expected = bytes.iter().take_while(|byte| byte.is_ascii_digit()).count();
            prop_assert_eq!(leading(&bytes).1, expected);
        }
    }
}

//! Whole numbers of common units: `khz(25)`, `us(1500)`, `percent(35)`. Anything else is read from text.

use super::{Deviation, Duty, Frequency, Rational, Time};

/// Hertz.
pub fn hz(number: u32) -> Frequency {
    Frequency::new(parts(number, 1, 1))
}

/// Kilohertz.
pub fn khz(number: u32) -> Frequency {
    Frequency::new(parts(number, 1_000, 1))
}

/// Megahertz.
pub fn mhz(number: u32) -> Frequency {
    Frequency::new(parts(number, 1_000_000, 1))
}

/// Milliseconds.
pub fn ms(number: u32) -> Time {
    Time::new(parts(number, 1, 1_000))
}

/// Microseconds.
pub fn us(number: u32) -> Time {
    Time::new(parts(number, 1, 1_000_000))
}

/// Nanoseconds.
pub fn ns(number: u32) -> Time {
    Time::new(parts(number, 1, 1_000_000_000))
}

/// Per cent of a period.
pub fn percent(number: u32) -> Duty {
    Duty::new(parts(number, 1, 100))
}

/// Parts per million.
pub fn ppm(number: u32) -> Deviation {
    Deviation::new(parts(number, 1, 1_000_000))
}

/// Only a divisor of zero has no quotient, and none of those above is.
fn parts(number: u32, times: i128, over: i128) -> Rational {
    Rational::new(i128::from(number) * times, over).unwrap_or(Rational::ZERO)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn units_are_what_their_text_says() {
        assert_eq!([hz(25_000), khz(25)], ["25kHz".parse().unwrap(); 2]);
        assert_eq!(mhz(u32::MAX), "4294967295MHz".parse().unwrap());
        assert_eq!([ms(3), us(3_000), ns(3_000_000)], ["3ms".parse().unwrap(); 3]);
        assert_eq!((percent(35), ppm(100)), ("35%".parse().unwrap(), "0.01%".parse().unwrap()));
    }
}

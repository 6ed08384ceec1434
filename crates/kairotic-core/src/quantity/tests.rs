//! The grammar of quantities, line by line, and the way there and back.

use num_rational::BigRational;
use proptest::prelude::*;

use super::error::TextProblem;
use super::{Deviation, Duty, Frequency, Quantity, QuantityError, Rational, Time, parse};

/// One test for each line: name, dimension, text, numerator and denominator in base units.
macro_rules! accepted {
    ($($name:ident: $dimension:ty, $text:literal => $numerator:literal / $denominator:literal;)*) => {
        mod accepted {
            use super::*;
            $(#[test]
            fn $name() {
                let value = Rational::new($numerator, $denominator).unwrap();
                assert_eq!($text.parse::<$dimension>(), Ok(Quantity::new(value)));
            })*
        }
    };
}

/// One test for each line: name, dimension, text, what is wrong with it.
macro_rules! refused {
    ($($name:ident: $dimension:ty, $text:expr => $problem:pat,)*) => {
        mod refused {
            use super::*;
            $(#[test]
            fn $name() {
                match $text.parse::<$dimension>() {
                    Err(QuantityError::Text { problem: $problem, .. }) => {}
                    other => panic!("{other:?}"),
                }
            })*
        }
    };
}

accepted! {
    kilohertz: Frequency, "25kHz" => 25_000 / 1;
    space_before_the_unit: Frequency, "25 kHz" => 25_000 / 1;
    space_around: Frequency, "  25 kHz " => 25_000 / 1;
    megahertz: Frequency, "48MHz" => 48_000_000 / 1;
    gigahertz: Frequency, "1GHz" => 1_000_000_000 / 1;
    millihertz: Frequency, "250mHz" => 1 / 4;
    microhertz_with_the_micro_sign: Frequency, "5µHz" => 1 / 200_000;
    decimal: Frequency, "32.768kHz" => 32_768 / 1;
    fraction: Frequency, "1/3kHz" => 1_000 / 3;
    fraction_of_megahertz: Frequency, "48/7MHz" => 48_000_000 / 7;
    fraction_of_decimals: Frequency, "1.5/0.5Hz" => 3 / 1;
    grouped: Frequency, "16_000_000Hz" => 16_000_000 / 1;
    grouped_after_the_point: Frequency, "0.000_001MHz" => 1 / 1;
    plus_sign: Frequency, "+50Hz" => 50 / 1;
    negative: Time, "-1.5ms" => -3 / 2_000;
    seconds: Time, "2s" => 2 / 1;
    milliseconds: Time, "1.5ms" => 3 / 2_000;
    microseconds: Time, "900us" => 9 / 10_000;
    microseconds_with_the_micro_sign: Time, "900µs" => 9 / 10_000;
    microseconds_with_the_greek_letter: Time, "900μs" => 9 / 10_000;
    nanoseconds: Time, "500ns" => 1 / 2_000_000;
    picoseconds: Time, "250ps" => 1 / 4_000_000_000;
    percent: Duty, "35%" => 7 / 20;
    third_of_a_percent: Duty, "1/3%" => 1 / 300;
    zero: Duty, "0%" => 0 / 1;
    parts_per_million: Deviation, "50ppm" => 1 / 20_000;
    parts_per_billion: Deviation, "50ppb" => 1 / 20_000_000;
    deviation_in_percent: Deviation, "1%" => 1 / 100;
}

refused! {
    empty: Frequency, "" => TextProblem::Empty,
    blank: Frequency, "   " => TextProblem::Empty,
    no_unit: Frequency, "25" => TextProblem::MissingUnit,
    no_number: Frequency, "kHz" => TextProblem::NotANumber,
    only_a_sign: Frequency, "-" => TextProblem::NotANumber,
    two_signs: Frequency, "--5Hz" => TextProblem::NotANumber,
    time_for_frequency: Frequency, "20ms" => TextProblem::WrongUnit { nearest: None, .. },
    wrong_case: Frequency, "25khz" => TextProblem::WrongUnit { nearest: Some("kHz"), .. },
    wrong_case_of_mega: Frequency, "48mhz" => TextProblem::WrongUnit { nearest: Some("MHz"), .. },
    exponent: Frequency, "1e6Hz" => TextProblem::WrongUnit { .. },
    nothing_after_the_point: Time, "1.ms" => TextProblem::MissingDigits,
    nothing_before_the_point: Time, ".5ms" => TextProblem::NotANumber,
    nothing_after_the_slash: Time, "1/ms" => TextProblem::MissingDigits,
    group_at_the_end: Time, "1_ms" => TextProblem::MissingDigits,
    group_at_the_start: Time, "_1ms" => TextProblem::NotANumber,
    over_zero: Time, "1/0ms" => TextProblem::ZeroDenominator,
    range_for_one: Time, "1..2ms" => TextProblem::MissingDigits,
    words_behind_it: Duty, "35% or so" => TextProblem::WrongUnit { .. },
    four_hundred_digits: Frequency, format!("{}Hz", "9".repeat(400)) => TextProblem::TooLarge,
    four_hundred_places: Frequency, format!("0.{}1Hz", "0".repeat(400)) => TextProblem::TooLarge,
    four_hundred_digits_below: Frequency, format!("1/{}Hz", "7".repeat(400)) => TextProblem::TooLarge,
}

#[test]
fn a_complaint_names_the_quantity_the_text_and_the_units() {
    let error = "25".parse::<Frequency>().unwrap_err();
    assert_eq!(error.to_string(), "expected a frequency, found `25`: the unit is missing");
    assert_eq!(error.hint().unwrap(), "units that fit here: GHz, MHz, kHz, Hz, mHz, uHz");
}

#[test]
fn a_long_text_is_shortened_in_a_complaint() {
    let message = format!("{}Hz", "9".repeat(400)).parse::<Frequency>().unwrap_err().to_string();
    assert!(message.contains("(402 characters)") && message.len() < 160, "{message}");
}

#[test]
fn ranges_and_tolerances_are_read() {
    let span = parse::range("900us..2100us").unwrap();
    assert_eq!((span.low, span.high), ("900us".parse::<Time>().unwrap(), "2.1ms".parse().unwrap()));
    for text in ["48MHz+-50ppm", "48MHz±50ppm", "48 MHz ± 50 ppm"] {
        let clock = parse::tolerance(text).unwrap();
        assert_eq!(
            (clock.nominal, clock.deviation),
            ("48MHz".parse::<Frequency>().unwrap(), "50ppm".parse().unwrap())
        );
    }
    assert_eq!(parse::tolerance::<super::FrequencyDimension>("48MHz").unwrap().deviation, Deviation::ZERO);
}

#[test]
fn broken_ranges_and_tolerances_are_refused() {
    type T = super::TimeDimension;
    type F = super::FrequencyDimension;
    let separator = TextProblem::MissingSeparator("..");
    assert!(
        matches!(parse::range::<T>("900us"), Err(QuantityError::Text { problem, .. }) if problem == separator)
    );
    assert!(parse::range::<T>("900us..").is_err());
    assert!(parse::range::<T>("900..2100us").is_err());
    assert!(parse::tolerance::<F>("48MHz+-").is_err());
    assert!(matches!(parse::tolerance::<F>("48MHz+--5ppm"), Err(QuantityError::NotPositive { .. })));
}

#[test]
fn quantities_are_shown_in_the_unit_that_fits() {
    let shown = |text: &str| text.parse::<Frequency>().unwrap().exact();
    assert_eq!(shown("25000Hz"), "25 kHz");
    assert_eq!(shown("0.5Hz"), "500 mHz");
    assert_eq!(shown("999.5kHz"), "999.5 kHz");
    assert_eq!(shown("800/7Hz"), "800/7 Hz");
    assert_eq!(shown("0MHz"), "0 Hz");
    assert_eq!("1/32768s".parse::<Time>().unwrap().rounded(4), "30.52 us");
    assert_eq!("35.1%".parse::<Duty>().unwrap().exact(), "35.1 %");
    // For a person a fraction is rounded: 800/7 = 114.285714285714...
    assert_eq!("800/7Hz".parse::<Frequency>().unwrap().told(), "114.285714 Hz");
    assert_eq!("6103515625366247/61035156250000Hz".parse::<Frequency>().unwrap().to_string(), "100 Hz");
}

/// The same number without limits.
fn big(value: Rational) -> BigRational {
    BigRational::new(value.numerator().into(), value.denominator().into())
}

/// Whether a number without limits is what a checked operation answered: the same number, or none where it does not
/// fit. The operation may also answer none where only a step on the way does not fit, but then the parts are large.
fn agrees(limited: Option<Rational>, unlimited: &BigRational, operands: [Rational; 2]) -> bool {
    match limited {
        // Both are reduced, or their parts are not the same.
        Some(limited) => {
            *unlimited.numer() == limited.numerator().into()
                && *unlimited.denom() == limited.denominator().into()
        }
        None => operands.iter().any(|operand| {
            operand.numerator().unsigned_abs().max(operand.denominator().unsigned_abs()) > 1 << 62
        }),
    }
}

/// Any fraction that can be held.
fn any_fraction() -> impl Strategy<Value = Rational> {
    let part = || prop_oneof![-1000_i128..1000, any::<i64>().prop_map(i128::from), any::<i128>()];
    (part(), part())
        .prop_filter_map("not held", |(numerator, denominator)| Rational::new(numerator, denominator))
}

/// Fractions whose exact text is within the 127 bits that it can be read back with.
fn fractions() -> impl Strategy<Value = Rational> {
    let decimal = (-1_000_000_000_000_i128..1_000_000_000_000, 0_u32..12)
        .prop_map(|(mantissa, places)| Rational::new(mantissa, 10_i128.pow(places)).unwrap());
    let any = (-1_000_000_000_000_i128..1_000_000_000_000, 1_i128..1_000_000_000)
        .prop_map(|(numerator, denominator)| Rational::new(numerator, denominator).unwrap());
    prop_oneof![decimal, any]
}

proptest! {
    #[test]
    fn checked_operations_agree_with_unlimited_numbers(left in any_fraction(), right in any_fraction()) {
        let (a, b) = (big(left), big(right));
        prop_assert!(agrees(left.plus(right), &(&a + &b), [left, right]));
        prop_assert!(agrees(left.minus(right), &(&a - &b), [left, right]));
        prop_assert!(agrees(left.times(right), &(&a * &b), [left, right]));
        if right.is_zero() {
            prop_assert_eq!(left.over(right), None);
        } else {
            prop_assert!(agrees(left.over(right), &(&a / &b), [left, right]));
        }
        prop_assert_eq!(left.cmp(&right), a.cmp(&b));
        prop_assert_eq!(big(Rational::new(left.floor(), 1).unwrap()), a.floor());
        prop_assert_eq!(left.is_whole(), a.is_integer());
    }

    #[test]
    fn rounded_text_is_near_the_number(value in fractions(), digits in 2_usize..9) {
        let text = Frequency::new(value).rounded(digits);
        let back = text.parse::<Frequency>().unwrap().value();
        let off = back.minus(value).unwrap().magnitude().approx();
        // Half a unit in the last digit, with room for the float's own rounding.
        prop_assert!(off <= value.magnitude().approx() * 0.500_001 * 10_f64.powi(1 - digits as i32), "{} for {:?}", text, value);
    }

    #[test]
    fn exact_text_reads_back_as_the_same_quantity(value in fractions()) {
        prop_assert_eq!(Frequency::new(value).exact().parse(), Ok(Frequency::new(value)));
        prop_assert_eq!(Time::new(value).exact().parse(), Ok(Time::new(value)));
        prop_assert_eq!(Duty::new(value).exact().parse(), Ok(Duty::new(value)));
        prop_assert_eq!(Deviation::new(value).exact().parse(), Ok(Deviation::new(value)));
        // What a person reads is never a fraction, and right to nine digits.
        let told = [Frequency::new(value).told(), Time::new(value).told(), Duty::new(value).told()];
        prop_assert!(told.iter().all(|text| !text.contains('/')), "{told:?}");
        let read: Frequency = told[0].parse().unwrap();
        prop_assert!((read.value().approx() - value.approx()).abs() <= value.approx().abs() * 1e-8, "{told:?}");
    }

    #[test]
    fn no_text_makes_the_parser_panic(text in "\\PC*", near in "[-+]?[0-9_]{0,45}[./]{0,2}[0-9_]{0,45} ?[a-zA-Zµ%]{0,4}(\\.\\.|\\+-)?") {
        for text in [&text, &near] {
            let quantity = text.parse::<Time>();
            let _ = parse::range::<super::TimeDimension>(text);
            let _ = parse::tolerance::<super::FrequencyDimension>(text);
            if let Ok(quantity) = quantity {
                prop_assert_eq!(quantity.exact().parse(), Ok(quantity));
            }
        }
    }
}

#[test]
fn a_test_that_fails_shows_quantities_exactly() {
    let third: Frequency = Quantity::new(Rational::new(1000, 3).unwrap());
    assert_eq!(format!("{third:?}"), "1000/3 Hz");
    assert_eq!(format!("{:?}", "1.5ms".parse::<Time>().unwrap()), "1.5 ms");
}

#[test]
fn a_long_text_is_repeated_by_its_two_ends() {
    let repeated = |text: &str| match text.parse::<Frequency>() {
        Err(QuantityError::Text { text, .. }) => text,
        other => panic!("{other:?}"),
    };
    let forty = "abcdefghijklmnopqrstuvwxyz01234567890123";
    assert_eq!(repeated(forty), forty);
    // Twenty characters from the one end, ten from the other: the last of `567890123!` is the new one.
    assert_eq!(repeated(&format!("{forty}!")), "abcdefghijklmnopqrst…567890123! (41 characters)");
}

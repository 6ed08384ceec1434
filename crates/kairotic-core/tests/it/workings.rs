//! The arithmetic that is written out, worked out again from its own text.

use kairotic_core::explain::ArithmeticLine;
use kairotic_core::quantity::{Rational, Time};
use kairotic_core::target::Active;
use proptest::prelude::*;

use crate::catalogue::{TIMERS, part};
use crate::invariants::wanted;
use crate::request::{Request, decoded, derive, derived, read_back, request};

/// A sum as people read it: brackets, then times and over, then plus and minus; units are factors.
struct Text<'t> {
    left: &'t str,
}

impl Text<'_> {
    fn takes(&mut self, token: &str) -> bool {
        let rest = self.left.trim_start();
        let found = rest.strip_prefix(token);
        self.left = found.unwrap_or(rest);
        found.is_some()
    }

    fn sum(&mut self) -> Option<f64> {
        let mut value = self.product()?;
        loop {
            if self.takes("+ ") {
                value += self.product()?;
            } else if self.takes("- ") {
                value -= self.product()?;
            } else {
                return Some(value);
            }
        }
    }

    fn product(&mut self) -> Option<f64> {
        let mut value = self.factor()?;
        loop {
            if self.takes("×") {
                value *= self.factor()?;
            } else if self.takes("/") {
                value /= self.factor()?;
            } else {
                return Some(value);
            }
        }
    }

    fn factor(&mut self) -> Option<f64> {
        if self.takes("(") {
            let value = self.sum()?;
            return self.takes(")").then_some(value);
        }
        let rest = self.left.trim_start();
        let end = rest.find(|one: char| !one.is_ascii_digit() && !".-".contains(one)).unwrap_or(rest.len());
        let (number, after) = rest.split_at(end);
        self.left = after;
        let unit = [
            ("MHz", 1e6),
            ("kHz", 1e3),
            ("GHz", 1e9),
            ("Hz", 1.0),
            ("ms", 1e-3),
            ("us", 1e-6),
            ("ns", 1e-9),
            ("ps", 1e-12),
            ("min", 60.0),
            ("s", 1.0),
            ("%", 0.01),
            ("(fixed)", 1.0),
        ];
        let number: f64 = number.parse().ok()?;
        Some(
            unit.into_iter().find(|(name, _)| self.takes(name)).map_or(number, |(_, factor)| number * factor),
        )
    }
}

/// Whether every side of a line's equations makes the same, to the seven digits and more that rounded numbers have.
fn holds(line: &ArithmeticLine) -> bool {
    if line.name == "score" {
        return true;
    }
    // Words stand behind the last number only; a number that is rounded itself is marked before it stands in a sum.
    let words = [" ticks", " source clocks a period", " on average"];
    let sum = words.iter().fold(line.sum.as_str(), |sum, words| sum.strip_suffix(words).unwrap_or(sum));
    let sum = sum.replace("/ ≈ ", "/ ");
    let side = |text: &str| {
        let mut text = Text { left: text };
        text.sum()
            .filter(|_| text.left.trim().is_empty())
            .unwrap_or_else(|| panic!("{line:?}: {}", text.left))
    };
    let values: Vec<f64> = sum.strip_prefix("≈ ").unwrap_or(&sum).split(['=', '≈']).map(side).collect();
    let near = |pair: &[f64]| (pair[0] - pair[1]).abs() <= 1e-7 * pair[0].abs().max(pair[1].abs());
    values.windows(2).all(near)
}

proptest! {
    #[test]
    fn what_is_written_out_is_so((part, timer, request) in wanted(), pulses in any::<bool>(), dither in any::<bool>()) {
        let mut request = Request { dither, ..request };
        if pulses {
            let Ok(period) = request.target.wanted_period() else { return Ok(()) };
            for ask in &mut request.target.asks {
                if let Active::Duty(duty) = ask.active {
                    ask.active = Active::Pulse(Time::new(duty.value().times(period.value()).unwrap()));
                }
            }
        }
        let Ok(derivation) = derive(part, &request) else { return Ok(()) };
        for line in derivation.explain().unwrap() {
            prop_assert!(holds(&line), "{}: {:?}", timer.path(), line);
        }
        let setting = &derivation.best.setting;
        for line in read_back(part, &derivation.timer, setting).unwrap().explain().unwrap() {
            prop_assert!(holds(&line), "{}: {:?}", timer.path(), line);
        }
    }
}

fn lines(all: &[ArithmeticLine]) -> Vec<(&str, &str)> {
    all.iter().map(|line| (line.name.as_str(), line.sum.as_str())).collect()
}

#[test]
fn a_derivation_goes_from_the_clock_to_the_pulse() {
    let all = derived("stm32f411/tim3", "100MHz", "50Hz", &["1500us"]).explain().unwrap();
    let expected = [
        ("clocks wanted", "100 MHz / 50 Hz = 2000000 source clocks a period"),
        ("ideal ticks", "2000000 / 40 = 50000"),
        ("divider", "40"),
        ("ticks", "49999 + 1 = 50000"),
        ("clocks made", "40 × 50000 = 2000000"),
        ("frequency", "100 MHz / 2000000 = 50 Hz"),
        ("wanted on 1", "1.5 ms × 100 MHz / 40 = 3750 ticks"),
        ("active on 1", "3750 ticks"),
        ("score", "log2(50000) + 1 (exact frequency) + 1 (exact signals) = 17.61"),
    ];
    assert_eq!(lines(&all), expected);
    // With nothing asked there is no signal to miss; a mode that is not usual costs a point.
    let plain = derived("stm32f411/tim3", "100MHz", "50Hz", &[]).explain().unwrap();
    assert_eq!(
        lines(&plain).last().unwrap().1,
        "log2(62500) + 1 (exact frequency) + 1 (no signal to miss) = 17.93"
    );
    let mode = Some("phase-icr".to_owned());
    let phase = Request { mode, ..request("timer1", "16MHz", "1kHz", &["25%"]) };
    let all = derive(part("atmega328p"), &phase).unwrap().explain().unwrap();
    let score = "log2(8000) + 1 (exact frequency) + 1 (exact signals) - 1 (not a usual mode) = 13.97";
    assert_eq!(lines(&all)[3..5], [("ticks", "2 × 8000 = 16000"), ("clocks made", "1 × 16000 = 16000")]);
    assert_eq!(lines(&all)[7..], [("active on a", "2 × 2000 = 4000 ticks"), ("score", score)]);
}

#[test]
fn what_has_parts_stands_in_brackets() {
    // 170 MHz / 44.1 kHz in sixteenths of a tick.
    let dithered = Request { dither: true, ..request("tim3", "170MHz", "44.1kHz", &["25%"]) };
    let all = derive(part("stm32g474"), &dithered).unwrap().explain().unwrap();
    let expected = [
        ("ticks", "(61662 + 16) / 16 = 3854 + 7/8 on average"),
        ("clocks made", "1 × (3854 + 7/8) = 3854.875"),
        ("frequency", "170 MHz / 3854.875 ≈ 44100.0032 Hz"),
        ("wanted on 1", "25 % × (3854 + 7/8) = 963.71875 ticks"),
        ("active on 1", "15419 / 16 = 963.6875 ticks"),
    ];
    assert_eq!(lines(&all)[3..8], expected);
    let reading =
        decoded("rp2040/slice0", "125MHz", "DIV.INT=2 DIV.FRAC=8 TOP=999 CC.A=250").explain().unwrap();
    let expected = [
        ("divider", "2 + 1/2"),
        ("ticks", "999 + 1 = 1000"),
        ("clocks made", "(2 + 1/2) × 1000 = 2500"),
        ("frequency", "125 MHz / 2500 = 50000 Hz"),
        ("active on a", "250 ticks"),
        ("pulse on a", "250 × (2 + 1/2) / 125 MHz = 0.000005 s"),
    ];
    assert_eq!(lines(&reading), expected);
}

#[test]
fn a_timer_without_dividers_divides_by_one() {
    for (part, timer) in TIMERS.iter().filter(|(_, timer)| timer.block.dividers.is_empty()) {
        let mut request = request(&timer.name, "1MHz", "1kHz", &[]);
        request.base = timer.base.as_ref().map(|base| base.name.clone());
        let Ok(derivation) = derive(part, &request) else { continue };
        let fixed = timer.block.fixed_divider;
        let expected = if fixed == 1 { "1".to_owned() } else { format!("{fixed} (fixed)") };
        let found = derivation.explain().unwrap().into_iter().find(|line| line.name == "divider").unwrap();
        assert_eq!(found.sum, expected, "{}", timer.path());
    }
}

#[test]
fn dither_moves_edges_by_a_tick_in_a_pattern() {
    let dithered = Request { dither: true, ..request("tim3", "170MHz", "44.1kHz", &["25%"]) };
    let best = derive(part("stm32g474"), &dithered).unwrap().best;
    // Fourteen periods of sixteen are a tick longer; the pulse of 963 + 11/16 repeats after sixteen.
    let jitter = best.setting.jitter.unwrap();
    let tick = Time::new(Rational::new(1, 170_000_000).unwrap());
    assert_eq!((jitter.peak_to_peak, jitter.pulses, jitter.repeats), (tick, tick, 16));
    let rms = (14.0 / 16.0 * 2.0 / 16.0_f64).sqrt() / 170e6;
    assert!((jitter.rms / rms - 1.0).abs() < 1e-12, "{jitter:?}");
    let timer = part("stm32g474").timer("tim3", None).unwrap();
    let writes = best.setting.writes(&timer).unwrap();
    let note = |name: &str| writes.iter().find(|write| write.name() == name).map(|write| write.note.clone());
    assert_eq!(note("ARR").as_deref(), Some("3854 + 7/8 ticks a period on average"));
    // 3854.5 ticks are half of the pattern: after two it repeats, by the top alone.
    let half = Request { dither: true, ..request("tim3", "170MHz", "340000000/7709Hz", &[]) };
    let jitter = derive(part("stm32g474"), &half).unwrap().best.setting.jitter.unwrap();
    assert_eq!((jitter.peak_to_peak, jitter.pulses, jitter.repeats), (tick, Time::ZERO, 2));
}

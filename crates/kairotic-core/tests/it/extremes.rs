//! Numbers at the edge of what can be held: an answer or a complaint, never a panic, whatever comes together.

use kairotic_core::part::{Assignment, TimerUse};
use kairotic_core::quantity::{Deviation, Duty, Frequency, Range, Rational, Time, Tolerance};
use kairotic_core::search::{Prefer, TimeBaseRequest, derive_time_base};
use kairotic_core::target::{Active, Aim, Ask, Span, Target};
use proptest::prelude::*;
use proptest::sample::Index;

use crate::catalogue::TIMERS;

use crate::request::{Readout, Request, decode, derive};

/// Fractions over the whole range, dense near zero, near one and at the ends.
fn wild() -> impl Strategy<Value = Rational> {
    let digits =
        || (0_u32..38, 1_i128..10).prop_map(|(places, digit)| digit.saturating_mul(10_i128.pow(places)));
    let whole = || prop_oneof![digits(), 1_i128..1000, Just(i128::MAX), any::<u64>().prop_map(i128::from)];
    (whole(), whole(), prop::bool::weighted(0.05)).prop_map(|(numerator, denominator, negative)| {
        let sign = if negative { -1 } else { 1 };
        Rational::new(numerator * sign, denominator.max(1)).unwrap()
    })
}

/// As [`wild`], but often of a size that a timer can do something with.
fn likely(scale: i128) -> impl Strategy<Value = Rational> {
    prop_oneof![
        wild(),
        (1_i128..1_000_000_007, 1_i128..1_000_003).prop_map(move |(numerator, denominator)| Rational::new(
            numerator * scale,
            denominator
        )
        .unwrap())
    ]
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(1500))]
    #[test]
    fn derive_never_panics(
        timer in any::<Index>(),
        clock in likely(100),
        tolerance in wild(),
        aim in likely(1),
        as_period in any::<bool>(),
        actives in prop::collection::vec((wild(), any::<bool>()), 0..3),
        span in prop::option::of((wild(), wild(), any::<bool>())),
        within in wild(),
        prefer in prop::option::weighted(0.1, prop::sample::select(vec![Prefer::Exact, Prefer::Fine, Prefer::RoundTick])),
    ) {
        let (part, timer) = timer.get(&TIMERS);
        let active = |(value, pulse): &(Rational, bool)| {
            if *pulse { Active::Pulse(Time::new(*value)) } else { Active::Duty(Duty::new(*value)) }
        };
        let span = span.map(|(low, high, pulse)| match pulse {
            true => Span::Pulse(Range { low: Time::new(low), high: Time::new(high) }),
            false => Span::Duty(Range { low: Duty::new(low), high: Duty::new(high) }),
        });
        let clock = Some(Tolerance { nominal: Frequency::new(clock), deviation: Deviation::new(tolerance) });
        let base = timer.base.as_ref().map(|base| base.name.clone());
        let request = Request {
            timer: timer.name.clone(),
            base: base.clone(),
            channel: None,
            clock,
            target: Target {
                asks: actives.iter().map(|ask| Ask { channel: None, active: active(ask), start: None }).collect(),
                span,
                within: Deviation::new(within),
                ..Target::of(if as_period { Aim::Period(Time::new(aim)) } else { Aim::Frequency(Frequency::new(aim)) })
            },
            mode: None,
            prefer,
            dither: false,
            all: false,
            allow_overclock: true,
        };
        if let Ok(derivation) = derive(part, &request) {
            let _ = derivation.explain();
        }
        let request = TimeBaseRequest {
            on: TimerUse { base, clock, allow_overclock: true, ..TimerUse::of(part, &timer.name) },
            tick: Time::new(aim),
            within: Deviation::new(within),
            mode: None,
            all: false,
        };
        if let Ok(time_base) = derive_time_base(&request) {
            let _ = time_base.explain();
        }
    }

    #[test]
    fn decode_never_panics(
        timer in any::<Index>(),
        clock in likely(100),
        expect in prop::option::of(likely(1)),
        within in wild(),
        values in prop::collection::vec((any::<Index>(), prop_oneof![0_u64..20, any::<u64>()]), 1..12),
    ) {
        let (part, timer) = timer.get(&TIMERS);
        let names = timer.register_names();
        let fitted = |(index, value): (Index, u64)| {
            let name = index.get(&names).clone();
            let largest = timer.field(&name).unwrap().largest();
            // Mostly within the register: what does not fit is refused at once.
            Assignment { value: if value % 16 == 0 { value } else { value & largest }, name }
        };
        let request = Readout {
            timer: timer.name.clone(),
            base: None,
            channel: None,
            clock: Some(Tolerance { nominal: Frequency::new(clock), deviation: Deviation::new(within) }),
            assignments: values.into_iter().map(fitted).collect(),
            expect: expect.map(Frequency::new),
            within: Deviation::new(within),
            allow_overclock: true,
        };
        if let Ok(reading) = decode(part, &request) {
            let _ = reading.explain();
        }
    }
}

//! The search against trying everything: every division, every top, every compare value of small timers, judged by the
//! ranking rule in exact fractions. Nothing here is shared with the search but the family file's numbers.

use std::cmp::{Ordering, Reverse};
use std::sync::LazyLock;

use kairotic_core::part::{Channel, CompareLaw, LinearLaw, Mode, Part, Timer, TopSource};
use kairotic_core::quantity::{Deviation, Duty, Frequency, Range, Rational, Time, Tolerance};
use kairotic_core::search::{Derivation, Prefer, RankedSetting};
use kairotic_core::target::{Active, Aim, Ask, Span, Target};
use kairotic_formats::part_file;
use kairotic_formats::text_file::Source;
use proptest::prelude::*;
use proptest::test_runner::TestCaseError;

use crate::request::{Request, derive, request};

static SHRUNKEN: LazyLock<Part> = LazyLock::new(|| {
    let bytes = include_bytes!("shrunken.toml").to_vec();
    part_file::read(&Source { file: "shrunken.toml".to_owned(), bytes }, &|_| None).unwrap()
});

fn ratio(numerator: i128, denominator: i128) -> Rational {
    Rational::new(numerator, denominator).unwrap()
}

/// One division, top and set of compare values with everything that the rule looks at.
#[derive(Debug, Clone)]
struct Tried {
    mode: usize,
    divider: Rational,
    top: u64,
    compares: Vec<Option<u64>>,
    error: Rational,
    within: bool,
    frequency_exact: bool,
    signals_exact: bool,
    signal_error: Rational,
    steps: u64,
    usual: bool,
    costs_channel: bool,
    tick_digits: usize,
}

impl Tried {
    fn score(&self) -> u128 {
        let bonus = [self.frequency_exact, self.signals_exact, self.usual];
        u128::from(self.steps) << bonus.iter().filter(|held| **held).count()
    }

    fn rank(&self, other: &Self, prefer: Option<Prefer>) -> Ordering {
        let better = match prefer {
            _ if !self.within && !other.within && self.error != other.error => self.error.cmp(&other.error),
            None => other.score().cmp(&self.score()),
            Some(Prefer::Fine) => other.steps.cmp(&self.steps),
            Some(Prefer::RoundTick) => self.tick_digits.cmp(&other.tick_digits),
            Some(Prefer::Exact) => {
                (self.error, !self.frequency_exact, self.signal_error, !self.signals_exact).cmp(&(
                    other.error,
                    !other.frequency_exact,
                    other.signal_error,
                    !other.signals_exact,
                ))
            }
        };
        let tie =
            |tried: &Self| (tried.error, tried.divider, tried.costs_channel, tried.mode, Reverse(tried.top));
        other.within.cmp(&self.within).then(better).then(tie(self).cmp(&tie(other)))
    }
}

/// Every product of the dividers' divisions.
fn divisions(timer: &Timer) -> Vec<Rational> {
    let mut products = vec![Rational::from(timer.block.fixed_divider)];
    for stage in &timer.block.dividers {
        let steps: Vec<Rational> = (0..64).filter_map(|code| stage.steps.meaning(code)).collect();
        products = products
            .iter()
            .flat_map(|product| steps.iter().map(|step| product.times(*step).unwrap()))
            .collect();
    }
    products.sort();
    products.dedup();
    products
}

struct Bench<'t> {
    timer: &'t Timer,
    clock: Rational,
    target: &'t Target,
}

impl Bench<'_> {
    /// Everything that the rule admits.
    fn everything(&self) -> Vec<Tried> {
        let mut all = Vec::new();
        for (index, mode) in self.timer.block.modes.iter().enumerate() {
            let free: Vec<&Channel> = self.timer.free_channels(mode).collect();
            let half = ratio(1, 2);
            let square = !self.target.asks.is_empty()
                && self.target.span.is_none()
                && self.target.asks.iter().all(|ask| match ask.active {
                    Active::Duty(duty) => duty.value() == half,
                    Active::Pulse(pulse) => pulse.value() == self.period().times(half).unwrap(),
                });
            if free.len() < self.target.asks.len() || (mode.compare == CompareLaw::Toggle && !square) {
                continue;
            }
            for divider in divisions(self.timer) {
                all.extend(self.admitted(index, mode, &free, divider));
            }
        }
        all
    }

    fn period(&self) -> Rational {
        match self.target.aim {
            Aim::Frequency(frequency) => Rational::ONE.over(frequency.value()).unwrap(),
            Aim::Period(period) => period.value(),
            Aim::Window(window) => Rational::ONE.over(window.low.value()).unwrap(),
        }
    }

    /// The top nearest in frequency; and, where that one does not make every signal exact, the nearest one within the
    /// tolerance that does.
    fn admitted(&self, index: usize, mode: &Mode, free: &[&Channel], divider: Rational) -> Vec<Tried> {
        let (least, most) = self.timer.top_limits(mode).unwrap();
        let error = |top: u64| {
            let period = divider.times(ticks(mode, top).into()).unwrap().over(self.clock).unwrap();
            self.period().over(period).unwrap().minus(Rational::ONE).unwrap().magnitude()
        };
        // Of the same error, the larger top.
        let mut tops: Vec<(Rational, Reverse<u64>)> =
            (least..=most).map(|top| (error(top), Reverse(top))).collect();
        tops.sort_unstable();
        let tried = |place: usize| self.tried(index, mode, free, divider, tops[place].1.0);
        let leading = tried(0);
        let wants =
            mode.compare != CompareLaw::Toggle && !self.target.asks.is_empty() && !leading.signals_exact;
        let inside = tops.iter().take_while(|(error, _)| *error <= self.target.within.value()).count();
        let exact = (1..inside).filter(|_| wants).map(tried).find(|tried| tried.signals_exact);
        std::iter::once(leading).chain(exact).collect()
    }

    fn tried(&self, index: usize, mode: &Mode, free: &[&Channel], divider: Rational, top: u64) -> Tried {
        let count = ticks(mode, top);
        let clocks = divider.times(count.into()).unwrap();
        let frequency = self.clock.over(clocks).unwrap();
        let error = frequency.times(self.period()).unwrap().minus(Rational::ONE).unwrap().magnitude();
        let mut tried = Tried {
            mode: index,
            divider,
            top,
            compares: Vec::new(),
            error,
            within: error <= self.target.within.value(),
            frequency_exact: error.is_zero() && clocks.is_whole(),
            signals_exact: true,
            signal_error: Rational::ZERO,
            steps: 1,
            usual: mode.usual,
            costs_channel: matches!(mode.top, TopSource::Compare { .. }),
            tick_digits: round_digits(divider.over(self.clock).unwrap()),
        };
        let CompareLaw::Linear(law) = &mode.compare else {
            tried.compares = self.target.asks.iter().map(|_| Some(0)).collect();
            tried.signals_exact = clocks.over(Rational::whole(2)).unwrap().is_whole();
            return tried;
        };
        for (ask, channel) in self.target.asks.iter().zip(free) {
            let wanted = self.clocks_of(ask.active, clocks);
            let (active, compare) = self
                .reachable(mode, law, channel, top)
                .map(|(ticks, compare)| (ticks.times(divider).unwrap(), compare))
                .min_by_key(|(active, _)| (active.minus(wanted).unwrap().magnitude(), *active))
                .unwrap();
            let off = active.minus(wanted).unwrap().magnitude();
            tried.compares.push(Some(compare));
            tried.signal_error = tried.signal_error.max(off);
            // A duty is exact only where the period is the same every time.
            let steady = clocks.is_whole() || matches!(ask.active, Active::Pulse(_));
            tried.signals_exact &= off.is_zero() && active.is_whole() && steady;
        }
        tried.steps = match self.target.span {
            None => count * u64::from(law.per_tick) / u64::from(law.gain.unsigned_abs()),
            Some(span) => {
                let ends = [span.low(), span.high()].map(|end| self.clocks_of(end, clocks));
                let inside = self
                    .reachable(mode, law, free[0], top)
                    .filter(|(ticks, _)| (ends[0]..=ends[1]).contains(&ticks.times(divider).unwrap()));
                (inside.count() as u64).saturating_sub(1)
            }
        };
        tried
    }

    /// The active ticks that a channel can be given, each with its compare value.
    fn reachable<'l>(
        &self,
        mode: &'l Mode,
        law: &'l LinearLaw,
        channel: &Channel,
        top: u64,
    ) -> impl Iterator<Item = (Rational, u64)> + 'l {
        let limit = self.timer.compare_limit(mode, channel).unwrap();
        let longest = Rational::from(ticks(mode, top));
        (0..=limit).filter_map(move |compare| {
            let active = ratio(law.sub_ticks(top, compare), law.per_tick.into());
            (Rational::ZERO..=longest).contains(&active).then_some((active, compare))
        })
    }

    /// Wanted source clocks.
    fn clocks_of(&self, active: Active, period: Rational) -> Rational {
        match active {
            Active::Duty(duty) => duty.value().times(period).unwrap(),
            Active::Pulse(pulse) => pulse.value().times(self.clock).unwrap(),
        }
    }
}

fn ticks(mode: &Mode, top: u64) -> u64 {
    u64::from(mode.period.per_top) * top + u64::from(mode.period.plus)
}

/// Significant digits of a whole number of nanoseconds; the most there could be where it is not whole.
fn round_digits(tick: Rational) -> usize {
    let ns = tick.times(ratio(1_000_000_000, 1)).unwrap();
    if ns.is_whole() { ns.numerator().to_string().trim_end_matches('0').len() } else { usize::MAX }
}

fn is_same(choice: &RankedSetting, tried: &Tried, timer: &Timer) -> Result<(), TestCaseError> {
    let setting = &choice.setting;
    let compares: Vec<Option<u64>> = setting.outputs.iter().map(|output| output.compare).collect();
    let found = (setting.plan.mode.as_str(), setting.divider, setting.plan.top, compares, choice.steps());
    let mode = timer.block.modes[tried.mode].name.as_str();
    prop_assert_eq!(found, (mode, tried.divider, tried.top, tried.compares.clone(), tried.steps));
    prop_assert_eq!(choice.fit.frequency_exact, tried.frequency_exact);
    prop_assert_eq!(choice.signals_exact(), tried.signals_exact);
    prop_assert_eq!(choice.fit.within, tried.within);
    Ok(())
}

/// A share of the period in eightieths, as a duty or as a time.
fn active(eightieths: i128, as_pulse: bool, period: Rational) -> Active {
    let share = ratio(eightieths, 80);
    if as_pulse {
        Active::Pulse(Time::new(share.times(period).unwrap()))
    } else {
        Active::Duty(Duty::new(share))
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(2500))]
    #[test]
    fn derive_finds_what_trying_everything_finds(
        timer in prop::sample::select(vec!["whole", "fractional", "tapped", "quarters"]),
        clock in prop_oneof![Just(1000_i128), Just(48_000), Just(1_000_000), 100_i128..5000],
        // Wanted source clocks in a period, in thirds.
        thirds in prop_oneof![
            (1_i128..=20, 2_i128..=32).prop_map(|(division, count)| division * count * 3),
            6_i128..3000,
        ],
        asks in prop::collection::vec((prop_oneof![Just(40), 0_i128..=80], any::<bool>()), 0..3),
        span in prop::option::weighted(0.3, (0_i128..40, 40_i128..=80, any::<bool>())),
        within in prop::sample::select(vec!["0ppm", "100ppm", "2%", "30%"]),
        prefer in prop::option::weighted(0.25, prop::sample::select(vec![Prefer::Exact, Prefer::Fine, Prefer::RoundTick])),
        all in prop::bool::weighted(0.2),
    ) {
        let timer = SHRUNKEN.timer(timer, None).unwrap();
        let clock = ratio(clock, 1);
        let period = ratio(thirds, 3).over(clock).unwrap();
        let asks = asks.iter().map(|(share, pulse)| Ask { channel: None, active: active(*share, *pulse, period), start: None });
        let span = span.map(|(low, high, pulse)| match (active(low, pulse, period), active(high, pulse, period)) {
            (Active::Duty(low), Active::Duty(high)) => Span::Duty(Range { low, high }),
            (Active::Pulse(low), Active::Pulse(high)) => Span::Pulse(Range { low, high }),
            _ => unreachable!("both ends are of one kind"),
        });
        let target = Target {
            asks: asks.collect(),
            span,
            within: within.parse().unwrap(),
            ..Target::period(Time::new(period))
        };
        let request = Request {
            timer: timer.name.clone(),
            base: None,
            channel: None,
            clock: Some(Tolerance { nominal: Frequency::new(clock), deviation: Deviation::ZERO }),
            target: target.clone(),
            mode: None,
            prefer,
            dither: false,
            all,
            allow_overclock: false,
        };
        let bench = Bench { timer: &timer, clock, target: &target };
        let mut everything = bench.everything();
        everything.sort_by(|left, right| left.rank(right, prefer));
        match derive(&SHRUNKEN, &request) {
            Ok(derivation) => {
                is_same(&derivation.best, &everything[0], &timer)?;
                if all && everything[0].within {
                    let rest: Vec<&Tried> = everything.iter().skip(1).filter(|tried| tried.within).collect();
                    prop_assert_eq!(derivation.others.len(), rest.len());
                    for (choice, tried) in derivation.others.iter().zip(rest) {
                        is_same(choice, tried, &timer)?;
                    }
                }
            }
            // Out of reach, or more signals than channels.
            Err(_) => prop_assert!(everything.first().is_none_or(|best| !best.within)),
        }
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(1200))]
    #[test]
    fn in_a_window_nothing_scores_higher(
        timer in prop::sample::select(vec!["whole", "fractional", "tapped", "quarters"]),
        thirds in 6_i128..3000,
        width in 101_i128..200,
        duties in prop::collection::vec(1_i128..80, 0..3),
        bits in 0_u32..6,
    ) {
        let timer = SHRUNKEN.timer(timer, None).unwrap();
        let clock = ratio(1000, 1);
        let low = clock.over(ratio(thirds, 3)).unwrap();
        let high = low.times(ratio(width, 100)).unwrap();
        let mut request = request(&timer.name, "1kHz", "1Hz", &[]);
        request.target.aim = Aim::Window(Range { low: Frequency::new(low), high: Frequency::new(high) });
        request.target.asks = duties
            .iter()
            .map(|duty| Ask { channel: None, active: active(*duty, false, Rational::ONE), start: None })
            .collect();
        request.target.min_steps = 1 << bits;
        let bench = Bench { timer: &timer, clock, target: &request.target };
        let mut best: Option<u128> = None;
        for (index, mode) in timer.block.modes.iter().enumerate() {
            let free: Vec<&Channel> = timer.free_channels(mode).collect();
            let square = !duties.is_empty() && duties.iter().all(|duty| *duty == 40);
            if free.len() < duties.len() || (mode.compare == CompareLaw::Toggle && !square) {
                continue;
            }
            let (least, most) = timer.top_limits(mode).unwrap();
            for (divider, top) in divisions(&timer).into_iter().flat_map(|by| (least..=most).map(move |top| (by, top))) {
                let clocks = divider.times(ticks(mode, top).into()).unwrap();
                let frequency = clock.over(clocks).unwrap();
                if !(low..=high).contains(&frequency) {
                    continue;
                }
                let mut tried = bench.tried(index, mode, &free, divider, top);
                if tried.steps >= request.target.min_steps {
                    // Any frequency of the window is met; what counts is that all periods are the same.
                    tried.frequency_exact = clocks.is_whole();
                    best = best.max(Some(tried.score()));
                }
            }
        }
        match derive(&SHRUNKEN, &request) {
            Ok(Derivation { best: found, timer, .. }) if found.fit.within => {
                let usual = timer.block.modes.iter().any(|mode| mode.name == found.setting.plan.mode && mode.usual);
                let bonus = [found.fit.frequency_exact, found.signals_exact(), usual];
                let score = u128::from(found.steps()) << bonus.iter().filter(|held| **held).count();
                prop_assert_eq!(Some(score), best);
                prop_assert!((low..=high).contains(&found.setting.frequency.value()));
            }
            _ => prop_assert_eq!(best, None),
        }
    }
}

#[test]
fn a_duty_of_periods_that_vary_is_never_called_exact() {
    // 10 ticks of 1 1/4 clocks are 12.5 clocks: periods of 12 and 13. 40 % are 4 ticks, always 5 clocks.
    let mut wanted = request("fractional", "1kHz", "80Hz", &["40%"]);
    wanted.all = true;
    let derivation = derive(&SHRUNKEN, &wanted).unwrap();
    let choices = std::iter::once(&derivation.best).chain(&derivation.others);
    let mut seen = 0;
    for choice in choices.filter(|choice| choice.setting.outputs[0].duty.value() == ratio(2, 5)) {
        assert!(!choice.fit.frequency_exact && !choice.signals_exact(), "{:?}", choice.setting.plan);
        seen += usize::from(choice.setting.divider == ratio(5, 4));
    }
    assert!(seen > 0);
    // As a time, the pulse is exact: it is 5 clocks every time.
    let mut wanted = request("fractional", "1kHz", "80Hz", &["5ms"]);
    wanted.all = true;
    let derivation = derive(&SHRUNKEN, &wanted).unwrap();
    let mut choices = std::iter::once(&derivation.best).chain(&derivation.others);
    assert!(choices.any(|choice| choice.setting.divider == ratio(5, 4) && choice.signals_exact()));
}

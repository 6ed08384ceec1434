//! Budgets: contributions worked out by hand, populations against what theory says, and the clock that a measurement
//! tells of.

use kairotic_core::accuracy::{
    BenchMeasurement, Budget, ErrorSource, MeasuredError, MeasuredQuantity, population,
};
use kairotic_core::finding::Severity;
use kairotic_core::load::{Kind, Load, Servo};
use kairotic_core::quantity::{Deviation, LoadLevel, Range, Rational, Time};
use kairotic_core::requirement::Verdict;
use kairotic_core::signal::{Conditions, Need, Needs};

use crate::catalogue::part;
use crate::request::{Planned, Request, budget, measured, request};

fn fraction(numerator: i128, denominator: i128) -> Rational {
    Rational::new(numerator, denominator).unwrap()
}

fn range<Q: std::str::FromStr<Err = kairotic_core::quantity::QuantityError>>(
    low: &str,
    high: &str,
) -> Range<Q> {
    Range { low: low.parse().unwrap(), high: high.parse().unwrap() }
}

/// A servo of 10 us a degree.
fn servo() -> Load {
    let (span, travel) = (range("900us", "2100us"), range("0deg", "120deg"));
    Load {
        name: "shutter".into(),
        kind: Kind::Servo(Servo { span, travel, dead_band: None, frame: None, slew: None }),
        tolerance: None,
    }
}

/// A pulse in a frame of 20 ms from a clock of 8 MHz, whose divider by 8 makes ticks of a microsecond.
fn of_a_servo(pulse: &str, clock: &str) -> Planned {
    let mut derive = request("timer1", "8MHz", "50Hz", &[pulse]);
    derive.clock.as_mut().unwrap().deviation = clock.parse().unwrap();
    Planned { derive, conditions: Conditions::default(), needs: Needs::default(), load: Some(servo()) }
}

fn made(request: &Planned) -> Budget {
    budget(part("atmega328p"), request).unwrap()
}

#[test]
fn one_per_cent_of_clock_is_15_us_of_a_servo_s_pulse() {
    let budget = made(&of_a_servo("1500us", "1%"));
    assert_eq!(budget.derivation.best.setting.tick, "1us".parse().unwrap());
    let [clock] = budget.contributions.as_slice() else { panic!("{:?}", budget.contributions) };
    assert_eq!(clock.cause, ErrorSource::Tolerance);
    // 1500 / 1.01 - 1500 = -1500/101 us and 1500 / 0.99 - 1500 = 1500/99 us.
    let micro = 1_000_000;
    let pulse =
        Range { low: Time::new(fraction(-1500, 101 * micro)), high: Time::new(fraction(1500, 99 * micro)) };
    assert_eq!(clock.reach.pulse, pulse);
    assert_eq!(budget.totals.worst.pulse, pulse);
    assert_eq!(clock.reach.duty, range("0%", "0%"));
    // 10 us a degree, in turns.
    let level = clock.level.unwrap();
    assert_eq!(level.low.value(), fraction(-150, 101 * 360));
    assert_eq!(level.high.value(), fraction(150, 99 * 360));
    assert_eq!((level.low.rounded(4), level.high.rounded(4)), ("-1.485 deg".into(), "1.515 deg".into()));
}

#[test]
fn a_pulse_that_is_not_whole_is_rounded() {
    let budget = made(&of_a_servo("1500.4us", "0%"));
    let [compare] = budget.contributions.as_slice() else { panic!("{:?}", budget.contributions) };
    assert_eq!(compare.cause, ErrorSource::Compare);
    assert_eq!(compare.reach.pulse, range("-0.4us", "-0.4us"));
    // Less than nothing of 20 ms, and 0.04 degrees.
    assert_eq!(compare.reach.duty.low.value(), fraction(-4, 200_000));
    assert_eq!(compare.level.unwrap().low.value(), fraction(-4, 100 * 360));
    assert!(!budget.clock_known);
}

#[test]
fn a_duty_takes_its_pulse_along_when_the_period_is_rounded() {
    // 8 MHz / 3 kHz is 2666 2/3 clocks: a period of 2667, a pulse of 800 for 800.1.
    let derive = request("timer1", "8MHz", "3kHz", &["30%"]);
    let derive = Request {
        target: kairotic_core::target::Target { within: "200ppm".parse().unwrap(), ..derive.target },
        ..derive
    };
    let request = Planned { derive, load: None, ..of_a_servo("1500us", "0%") };
    let budget = made(&request);
    let of = |cause: ErrorSource| budget.contributions.iter().find(|one| one.cause == cause).unwrap();
    let second = |numerator, denominator: i128| Time::new(fraction(numerator, denominator * 8_000_000));
    // 30 % of 2667 - 2666 2/3 clocks, and 800 - 800.1 clocks.
    assert_eq!(of(ErrorSource::Period).reach.pulse.low, second(1, 10));
    assert_eq!(of(ErrorSource::Compare).reach.pulse.low, second(-1, 10));
    assert_eq!(budget.totals.worst.pulse, range("0us", "0us"));
    assert_eq!(of(ErrorSource::Period).reach.duty, range("0%", "0%"));
}

#[test]
fn the_ends_add_up_at_worst_and_the_squares_in_the_likely_case() {
    let mut request = of_a_servo("1500us", "1%");
    request.conditions.ageing = Some("1%".parse().unwrap());
    request.conditions.edges = Some("3us".parse().unwrap());
    request.conditions.pll = Some("100ns".parse().unwrap());
    let budget = made(&request);
    let worst = budget.totals.worst.pulse;
    // Twice the clock's 1500/99 us, 3 us of edges and three times 0.1 us.
    assert_eq!(
        worst.high.value().times(1_000_000_u32.into()).unwrap(),
        fraction(3000, 99).plus(fraction(33, 10)).unwrap()
    );
    let micros = |time: Time| time.value().approx() * 1e6;
    let (low, high) = (-1500.0 / 101.0, 1500.0 / 99.0_f64);
    let middle = 3.0 + 2.0 * (low + high) / 2.0;
    // A rectangle's standard deviation is its width over the root of twelve.
    let reach = 2.0 * (2.0 * (high - low).powi(2) / 12.0 + 0.1_f64.powi(2)).sqrt();
    let likely = budget.totals.likely.reach.pulse;
    assert!((micros(likely.low) - (middle - reach)).abs() < 1e-6, "{likely:?}");
    assert!((micros(likely.high) - (middle + reach)).abs() < 1e-6, "{likely:?}");
}

#[test]
fn requirements_are_met_marginal_and_missed() {
    let mut request = of_a_servo("1500us", "1%");
    request.conditions.ageing = Some("1%".parse().unwrap());
    // At worst 30.3 us, likely 2 · 15 · sqrt(2 / 3) = 24.5 us.
    let standing = |request: &mut Planned, pulse: &str| {
        request.needs.pulse = Some(pulse.parse().unwrap());
        let budget = made(request);
        assert_eq!(budget.checks.len(), 1);
        (budget.checks[0].outcome, budget.findings)
    };
    assert_eq!(standing(&mut request, "31us").0, Verdict::Met);
    assert_eq!(standing(&mut request, "27us").0, Verdict::Marginal);
    let (missed, findings) = standing(&mut request, "20us");
    assert_eq!(missed, Verdict::Missed);
    let found = findings.iter().find(|finding| finding.name() == "clock-error-above-need").unwrap();
    assert_eq!(found.severity(), Severity::Error);
    // The same in degrees: 3.03 of 2.
    request.needs = Needs { level: Some(LoadLevel::Angle("2deg".parse().unwrap())), ..Needs::default() };
    let judged = &made(&request).checks[0];
    assert_eq!((judged.requirement, judged.outcome), (Need::Level, Verdict::Missed));
    assert_eq!(judged.share.unwrap(), fraction(3000, 99).over(fraction(20, 1)).unwrap());
}

#[test]
fn a_crystal_is_the_remedy_for_an_internal_oscillator() {
    // After reset the part runs from its internal oscillator, which the catalogue knows.
    let mut request = of_a_servo("1500us", "0%");
    request.derive = Request { timer: "tim3".into(), clock: None, ..request.derive };
    let budget = budget(part("stm32f411"), &request).unwrap();
    let causes: Vec<ErrorSource> = budget.contributions.iter().map(|one| one.cause).collect();
    assert_eq!(causes, [ErrorSource::Tolerance, ErrorSource::Temperature]);
    // 1 % at 25 °C; -8 % to +4.5 % over temperature, of which that is a part.
    assert_eq!(budget.contributions[1].reach.frequency, range("-7%", "3.5%"));
    let remedy = budget.remedy.unwrap();
    assert!(remedy.change.to_string().contains("crystal within 100 ppm"), "{remedy:?}");
    // 1500 us / 0.9999 - 1500 us.
    assert_eq!(remedy.worst.value(), fraction(1500, 9999 * 1_000_000));
}

#[test]
fn a_value_that_takes_effect_at_once_can_make_a_pulse_too_long() {
    let derive = request("timer0", "16MHz", "1kHz", &["30%"]);
    let request = Planned { derive, load: None, ..of_a_servo("1500us", "0%") };
    let nrf = part("nrf52832");
    let plain = budget(nrf, &request).unwrap();
    // A period of 1 ms, 0.3 ms of which are wanted.
    assert_eq!(plain.update.glitch, Some("700us".parse().unwrap()));
    let found = plain.findings.iter().find(|finding| finding.name() == "update-not-buffered").unwrap();
    assert!(found.remedy().contains("timer pwm0 buffers it"), "{found:?}");
    // Whatever its own channel is called: the other timer has none of that name.
    let mut sixth = request.clone();
    sixth.derive = Request { timer: "timer3".into(), channel: Some("5".into()), ..request.derive.clone() };
    let found = budget(nrf, &sixth).unwrap().findings;
    let found = found.iter().find(|finding| finding.name() == "update-not-buffered").unwrap();
    assert!(found.remedy().contains("timer pwm0 buffers it"), "{found:?}");
    // An interrupt that writes while the output is still active does no harm.
    let conditions = Conditions { latency: Some(range("1us", "299us")), ..Conditions::default() };
    let late = Conditions { latency: Some(range("1us", "300us")), ..Conditions::default() };
    assert_eq!(budget(nrf, &Planned { conditions, ..request.clone() }).unwrap().update.glitch, None);
    assert!(budget(nrf, &Planned { conditions: late, ..request }).unwrap().update.glitch.is_some());
}

#[test]
fn half_the_boards_meet_half_of_a_uniform_tolerance() {
    let mut request = of_a_servo("1500us", "1%");
    request.needs.frequency = Some("0.5%".parse().unwrap());
    let budget = made(&request);
    let drawn = population(&budget, &request.needs, 10_000, 1, 2).unwrap();
    let share = drawn.shares[0];
    assert!(share.interval.0 < 0.5 && 0.5 < share.interval.1, "{share:?}");
    // Wilson's interval for 10 000 draws of one half is a hundredth either way.
    assert!((share.interval.1 - share.interval.0 - 0.0196).abs() < 0.0002, "{share:?}");
    assert_eq!(drawn.spread.iter().map(|bin| bin.boards).sum::<u32>(), 10_000);
    // Ten microseconds a degree, a degree is 1/360: the standard deviation of a rectangle of 30 us.
    let wanted = 3.0 / 12.0_f64.sqrt() / 360.0;
    assert!(
        (drawn.standard_deviation.value() / wanted - 1.0).abs() < 0.03,
        "{} {wanted}",
        drawn.standard_deviation.value()
    );
    // The same boards whatever the number of threads; others with another seed.
    for threads in [1, 3, 64] {
        assert_eq!(population(&budget, &request.needs, 10_000, 1, threads).unwrap(), drawn);
    }
    assert_ne!(population(&budget, &request.needs, 10_000, 2, 2).unwrap().mean, drawn.mean);
    assert!(population(&made(&of_a_servo("1500us", "0%")), &Needs::default(), 9, 1, 1).is_err());
}

#[test]
fn a_load_s_own_tolerance_counts_in_its_unit_alone() {
    let mut request = of_a_servo("1500us", "0%");
    request.load.as_mut().unwrap().tolerance = Some("1%".parse().unwrap());
    let budget = made(&request);
    // A hundredth of 120 degrees.
    assert_eq!(budget.totals.worst_level.unwrap().high.told(), "1.2 deg");
    assert_eq!(budget.totals.worst.pulse, range("0us", "0us"));
    let drawn = population(&budget, &Needs::default(), 2000, 7, 2).unwrap();
    assert!(
        drawn.quantiles[2].value() * 360.0 < 1.2 && drawn.quantiles[2].value() * 360.0 > 1.1,
        "{drawn:?}"
    );
}

#[test]
fn boards_differ_about_what_rounding_and_edges_make() {
    // 1500.4 us become 1500 us, the driver adds 3 us: the boards lie about 2.6 us, at 10 us a degree.
    let mut request = of_a_servo("1500.4us", "10ppm");
    request.conditions.edges = Some("3us".parse().unwrap());
    let budget = made(&request);
    let drawn = population(&budget, &Needs::default(), 1000, 3, 2).unwrap();
    assert!((drawn.mean.value() * 360.0 - 0.26).abs() < 0.0001, "{}", drawn.mean.value() * 360.0);
    // About their mean, they are spread by the clock alone: a rectangle of 10 ppm of 1500 us to either side.
    let spread = 0.003 / 12.0_f64.sqrt();
    assert!(
        (drawn.standard_deviation.value() * 360.0 / spread - 1.0).abs() < 0.1,
        "{}",
        drawn.standard_deviation.value() * 360.0
    );
    let level = budget.totals.worst_level.unwrap();
    assert!((level.low.value().approx() * 360.0 - 0.2585).abs() < 0.0001, "{level:?}");
}

#[test]
fn what_is_measured_tells_of_the_clock() {
    let request = of_a_servo("1500us", "0%");
    let measured_as = |measured| BenchMeasurement { measured, uncertainty: "0.1%".parse().unwrap() };
    let slow = MeasuredQuantity::Frequency("49.2Hz".parse().unwrap());
    let clock = measured(part("atmega328p"), &request, &measured_as(slow)).unwrap();
    // 49.2 of 50.
    assert_eq!(clock.error, Deviation::new(fraction(-8, 500)));
    assert_eq!(clock.clock, "7.872MHz".parse().unwrap());
    // 7.872 MHz / 8 / 50 Hz = 19680 ticks, 1.5 ms of them 1476.
    let setting = &clock.after.best.setting;
    assert_eq!((setting.ticks, setting.outputs[0].ticks), (19_680, Rational::whole(1476)));
    // A pulse of 1500 us that came out as 1519 us tells of a clock slower by 19 of 1519.
    let long = MeasuredQuantity::Pulse("1519us".parse().unwrap());
    let clock = measured(part("atmega328p"), &request, &measured_as(long)).unwrap();
    assert_eq!(clock.error, Deviation::new(fraction(-19, 1519)));
}

#[test]
fn a_fractional_divider_contributes_a_source_clock() {
    // 125 MHz / 1.5 kHz are 83 333.3 clocks, more than a slice counts in one: the divider has sixteenths, and hands out whole
    // clocks of 8 ns.
    let mut derive = request("slice0", "125MHz", "1500Hz", &["30%"]);
    derive.target.within = "10ppm".parse().unwrap();
    let request = Planned { derive, conditions: Conditions::default(), needs: Needs::default(), load: None };
    let budget = budget(part("rp2040"), &request).unwrap();
    let setting = &budget.derivation.best.setting;
    let period = setting.divider.times(setting.ticks.into()).unwrap();
    assert!(!period.is_whole(), "{:?}", setting.plan);
    let found = budget.contributions.iter().find(|one| one.cause == ErrorSource::Fraction).unwrap();
    let clock = Time::new(self::fraction(1, 125_000_000));
    let Range { low, high } = found.reach.pulse;
    assert!(low < high && high.value().minus(low.value()) <= Some(clock.value()), "{low} {high}");
    // The roundings only move the pulse: nothing else spreads it.
    let worst = budget.totals.worst.pulse;
    assert_eq!(worst.high.value().minus(worst.low.value()), high.value().minus(low.value()));
}

/// What the remedy says and what is left of the pulse's worst case, in nanoseconds.
fn remedied(part_name: &str, request: &Planned) -> Option<(String, Rational)> {
    let remedy = budget(part(part_name), request).unwrap().remedy?;
    let registers = remedy.registers.map(|(divider, top)| {
        let (register, top) = top.unwrap();
        format!(": divide by {divider}, {register} {top}")
    });
    let says = format!("{}{}", remedy.change, registers.unwrap_or_default());
    Some((says, remedy.worst.value().times(Rational::whole(1_000_000_000)).unwrap()))
}

#[test]
fn a_crystal_leaves_nothing_of_what_the_oscillator_did() {
    let mut request = of_a_servo("1500us", "0%");
    request.derive = Request { timer: "tim3".into(), clock: None, ..request.derive };
    request.conditions = Conditions {
        ageing: Some("2%".parse().unwrap()),
        temperature: Some(range("-3%", "3%")),
        trim: Some("0.5%".parse().unwrap()),
        edges: Some("1us".parse().unwrap()),
        ..Conditions::default()
    };
    let (says, worst) = remedied("stm32f411", &request).unwrap();
    assert!(says.contains("crystal within 100 ppm"), "{says}");
    // 1500 us / 0.9999 less 1500 us, and the driver's 1 us, which no crystal changes.
    assert_eq!(worst, fraction(1_500_000, 9999).plus(fraction(1000, 1)).unwrap());
}

#[test]
fn another_timer_of_the_part_is_tried_and_its_registers_told() {
    // 8 MHz in 16 bits are ticks of 500 ns at least: 1500.3 us become 1500.5. In 32 bits they are 125 ns: 1500.25.
    let derive = request("tim3", "8MHz", "50Hz", &["1500.3us"]);
    let request = Planned { derive, load: None, ..of_a_servo("1500us", "0%") };
    let found = remedied("stm32f411", &request);
    assert_eq!(found, Some(("timer tim2: divide by 1, ARR 159999".to_owned(), fraction(50, 1))));
    // Nothing is better than nothing off, and nothing is said where nothing is off.
    let exact = Planned { derive: self::request("tim2", "8MHz", "50Hz", &["1500.25us"]), ..request };
    assert_eq!(remedied("stm32f411", &exact), None);
}

#[test]
fn the_highest_clock_is_as_far_off_as_the_oscillator_that_it_comes_from() {
    // tim3 of 16 bits at 8 MHz, 100 kHz: 80 clocks. 3.3 us are 26.4 of them: 26, 50 ns off. At 100 MHz they are 330.
    let mut derive = request("tim3", "8MHz", "100kHz", &["3.3us"]);
    derive.clock.as_mut().unwrap().deviation = "100ppm".parse().unwrap();
    let request = Planned { derive, load: None, ..of_a_servo("1500us", "0%") };
    let (says, worst) = remedied("stm32f411", &request).unwrap();
    assert_eq!(says, "a clock of 100 MHz: divide by 1, ARR 999");
    // What is left is the clock's: 3.3 us / 0.9999 less 3.3 us.
    assert_eq!(worst, fraction(3300, 9999));
}

#[test]
fn a_limit_that_the_clock_just_meets_is_no_finding() {
    let findings = |needs: Needs| {
        let found = made(&Planned { needs, ..of_a_servo("1500us", "1%") }).findings;
        found.iter().map(|finding| finding.name()).collect::<Vec<_>>()
    };
    let frequency = |text: &str| Needs { frequency: text.parse().ok(), ..Needs::default() };
    let clock = |text: &str| Needs { clock: text.parse().ok(), ..Needs::default() };
    for needs in [frequency("1%"), clock("1%")] {
        assert!(!findings(needs).contains(&"clock-error-above-need"));
    }
    for needs in [frequency("0.9999%"), clock("0.9999%")] {
        assert!(findings(needs).contains(&"clock-error-above-need"));
    }
    // 1500 us / 0.99 less 1500 us is 1500/99 us; a degree is 10 us of them.
    let pulse = |micros| Needs { pulse: Some(Time::new(micros)), ..Needs::default() };
    assert!(!findings(pulse(fraction(1500, 99_000_000))).contains(&"clock-error-above-need"));
    assert!(findings(pulse(fraction(1499, 99_000_000))).contains(&"clock-error-above-need"));
    let level = |degrees: Rational| {
        let turns = degrees.over(fraction(360, 1)).unwrap();
        let angle = kairotic_core::quantity::Angle::new(turns);
        Needs { level: Some(LoadLevel::Angle(angle)), ..Needs::default() }
    };
    assert!(!findings(level(fraction(150, 99))).contains(&"clock-error-above-need"));
    assert!(findings(level(fraction(149, 99))).contains(&"clock-error-above-need"));
}

#[test]
fn jitter_that_is_just_allowed_is_a_note() {
    // A fractional divider hands out whole clocks of 8 ns: periods differ by one of them.
    let mut derive = request("slice0", "125MHz", "1500Hz", &["30%"]);
    derive.target.within = "10ppm".parse().unwrap();
    let severity = |jitter: &str| {
        let needs = Needs { jitter: jitter.parse().ok(), ..Needs::default() };
        let request =
            Planned { derive: derive.clone(), conditions: Conditions::default(), needs, load: None };
        let findings = budget(part("rp2040"), &request).unwrap().findings;
        findings
            .iter()
            .find(|finding| finding.name() == "fractional-jitter")
            .map(|finding| finding.severity())
    };
    assert_eq!(severity("8ns"), Some(Severity::Note));
    assert_eq!(severity("7.999ns"), Some(Severity::Error));
}

#[test]
fn two_boards_are_spread_by_their_difference() {
    let budget = made(&of_a_servo("1500us", "1%"));
    for seed in 1..20 {
        let drawn = population(&budget, &Needs::default(), 2, seed, 1).unwrap();
        let [least, _, most] = drawn.quantiles.map(MeasuredError::value);
        // Of two values the deviation is their difference over the root of two, with one degree of freedom.
        assert!(
            (drawn.standard_deviation.value() - (most - least) / 2_f64.sqrt()).abs() < 1e-12,
            "{drawn:?}"
        );
        assert!((drawn.mean.value() - f64::midpoint(least, most)).abs() < 1e-12, "{drawn:?}");
    }
    // One board is spread by nothing.
    assert_eq!(population(&budget, &Needs::default(), 1, 1, 1).unwrap().standard_deviation.value(), 0.0);
}

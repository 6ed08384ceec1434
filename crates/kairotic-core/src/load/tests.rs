//! Each load there and back, and its corners, against arithmetic done here.

use proptest::prelude::*;

use super::*;
use crate::quantity::{Angle, LoadLevel, Range, Rational, Voltage};

fn ratio(numerator: i128, denominator: i128) -> Rational {
    Rational::new(numerator, denominator).unwrap()
}

fn share(numerator: i128, denominator: i128) -> LoadLevel {
    LoadLevel::Share(Duty::new(ratio(numerator, denominator)))
}

fn us(microseconds: i128) -> Time {
    Time::new(ratio(microseconds, 1_000_000))
}

fn servo(travel: &str) -> Kind {
    let frame = Some("40Hz..60Hz".to_owned().try_into().unwrap());
    Kind::Servo(Servo {
        span: Range { low: us(900), high: us(2100) },
        travel: travel.to_owned().try_into().unwrap(),
        dead_band: None,
        frame,
        slew: None,
    })
}

fn controller(neutral: Option<i128>) -> Kind {
    let span = Range { low: us(1000), high: us(2000) };
    Kind::SpeedController(SpeedController {
        span,
        neutral: neutral.map(us),
        arming: None,
        teach_hold: None,
        frame: None,
    })
}

fn motor(full: Option<&str>, wiring: Wiring) -> Motor {
    let volts = |text: &str| text.parse::<Voltage>().unwrap();
    let full = full.map(|text| text.parse().unwrap());
    Motor {
        supply: volts("24V"),
        rated: volts("9V"),
        start: "14%".parse().unwrap(),
        full,
        wiring,
        quiet: None,
        pause: None,
        kick: None,
        turning: Default::default(),
    }
}

const fn lamp(curve: Curve) -> Kind {
    Kind::Lamp(Lamp { curve, flicker_free: None })
}

fn pulse_of(kind: &Kind, level: &str) -> Time {
    match kind.active(kind.read_level(level).unwrap()).unwrap() {
        Active::Pulse(pulse) => pulse,
        Active::Duty(duty) => panic!("{duty}"),
    }
}

fn duty_of(kind: &Kind, level: &str) -> Duty {
    match kind.active(kind.read_level(level).unwrap()).unwrap() {
        Active::Duty(duty) => duty,
        Active::Pulse(pulse) => panic!("{pulse}"),
    }
}

#[test]
fn a_servo_turns_pulses_into_angles_either_way_round() {
    assert_eq!(pulse_of(&servo("0deg..120deg"), "45deg"), us(900 + 45 * 10));
    assert_eq!(pulse_of(&servo("60deg..-60deg"), "-60deg"), us(2100));
    assert_eq!(pulse_of(&servo("60deg..-60deg"), "30deg"), us(1200));
}

#[test]
fn a_controller_with_a_neutral_has_two_lines() {
    assert_eq!(pulse_of(&controller(None), "25%"), us(1250));
    // 1400 us at rest: 400 us below it, 600 us above.
    let both = controller(Some(1400));
    assert_eq!(pulse_of(&both, "-50%"), us(1200));
    assert_eq!(pulse_of(&both, "50%"), us(1700));
    assert_eq!(pulse_of(&both, "0%"), us(1400));
    assert!(controller(None).active(share(-1, 10)).is_err());
    // A step is worth more where the line is steeper: 10 us of 400 us.
    let step = both.level_of_step(Realised { duty: Duty::ZERO, pulse: us(10) }).unwrap();
    assert_eq!(step, share(10, 400));
}

#[test]
fn a_9_volt_motor_on_24_volts_has_full_throttle_at_three_eighths() {
    let vent = Kind::Motor(motor(None, Wiring::OneSwitch));
    assert_eq!(duty_of(&vent, "100%").value(), ratio(3, 8));
    assert_eq!(duty_of(&vent, "0%"), Duty::ZERO);
    // The smallest throttle starts where the motor does.
    assert_eq!(
        duty_of(&vent, "0.001%").value(),
        ratio(14, 100).plus(ratio(3750 - 1400, 10_000 * 100_000)).unwrap()
    );
    assert_eq!(
        motor(None, Wiring::OneSwitch).average(Duty::new(ratio(3, 8))).unwrap(),
        "9V".parse().unwrap()
    );
    assert!(vent.active(share(-1, 2)).is_err());
    let both = Kind::Motor(motor(None, Wiring::TwoLines));
    assert_eq!(duty_of(&both, "-100%").value(), ratio(3, 8));
    assert_ne!(Wiring::TwoLines.lines(ratio(1, 2)), Wiring::TwoLines.lines(ratio(-1, 2)));
}

#[test]
fn a_perceptual_lamp_follows_the_cie_curve() {
    let lamp = lamp(Curve::Perceptual);
    // L* = 50 is ((50 + 16) / 116)^3 of the light; L* = 8 is where the straight part meets the curve.
    assert_eq!(duty_of(&lamp, "50%").value(), ratio(66 * 66 * 66, 116 * 116 * 116));
    assert_eq!(duty_of(&lamp, "8%").value(), ratio(216, 24389));
    assert_eq!(duty_of(&lamp, "4%").value(), ratio(108, 24389));
    assert_eq!(duty_of(&lamp, "100%").value(), Rational::ONE);
    // The smallest step of 1/1000 is on the straight part: 24389 / 2700 of it.
    let step = lamp.level_of_step(Realised { duty: Duty::new(ratio(1, 1000)), pulse: us(1) }).unwrap();
    assert!((step.value().approx() - 0.024389 / 2.7).abs() < 1e-8, "{step:?}");
}

#[test]
fn a_heater_of_18_ohm_on_12_volts_makes_8_watts() {
    let heater =
        Kind::Heater(Heater { supply: "12V".parse().unwrap(), resistance: "18ohm".parse().unwrap() });
    assert_eq!(heater.levels().unwrap()[1].told(), "8 W");
    assert_eq!(duty_of(&heater, "3W").value(), ratio(3, 8));
    assert!(heater.active(heater.read_level("9W").unwrap()).is_err());
    assert!(heater.read_level("50%").is_err());
}

#[test]
fn a_fan_stands_below_its_slowest() {
    let fan = Kind::Fan(Fan {
        window: None,
        lowest: "20%".parse().unwrap(),
        slowest: "10%".parse().unwrap(),
        pulses_per_turn: Some(2),
        kick: None,
        turning: Default::default(),
    });
    assert_eq!(duty_of(&fan, "5%"), Duty::ZERO);
    assert_eq!(duty_of(&fan, "10%").value(), ratio(1, 5));
    // Half of the way from 10 % to 100 % is half of the way from 20 % to 100 %.
    assert_eq!(duty_of(&fan, "55%").value(), ratio(3, 5));
    let speed = |percent: i128| {
        fan.level(Realised { duty: Duty::new(ratio(percent, 100)), pulse: Time::ZERO }).unwrap()
    };
    assert_eq!([speed(0), speed(19), speed(20)], [share(0, 1), share(0, 1), share(1, 10)]);
    assert_eq!([speed(60), speed(100)], [share(55, 100), share(1, 1)]);
}

#[test]
fn a_lamp_s_brightness_is_exact_at_its_ends() {
    let lamp = lamp(Curve::Perceptual);
    let of = |duty: Rational| lamp.level(Realised { duty: Duty::new(duty), pulse: Time::ZERO }).unwrap();
    assert_eq!([of(Rational::ZERO), of(Rational::ONE)], [share(0, 1), share(1, 1)]);
    assert_eq!(of(ratio(216, 24389)), share(8, 100));
    // A little below is rounded down by a millionth of a per cent.
    assert_eq!(of(ratio(21_599_999, 2_438_900_000)), share(7_999_999, 100_000_000));
}

proptest! {
    #[test]
    fn every_load_finds_its_way_back(which in 0_usize..8, part in 0_i128..=1000) {
        let kinds = [
            servo("0deg..120deg"), servo("90deg..-30deg"), controller(None), controller(Some(1460)),
            Kind::Motor(motor(None, Wiring::OneSwitch)), lamp(Curve::Linear), Kind::Plain(Plain),
            Kind::Heater(Heater { supply: "24V".parse().unwrap(), resistance: "7ohm".parse().unwrap() }),
        ];
        let kind = &kinds[which];
        let [low, high] = kind.levels().unwrap();
        let length = high.value().minus(low.value()).unwrap();
        let level = low.with(low.value().plus(length.times(ratio(part, 1000)).unwrap()).unwrap());
        let realised = match kind.active(level).unwrap() {
            Active::Pulse(pulse) => Realised { duty: Duty::ZERO, pulse },
            Active::Duty(duty) => Realised { duty, pulse: Time::ZERO },
        };
        prop_assert_eq!(kind.level(realised).unwrap(), level);
    }

    #[test]
    fn a_perceptual_lamp_finds_its_way_back_to_a_millionth(part in 0_i128..=100_000) {
        let level = share(part, 100_000);
        let lamp = lamp(Curve::Perceptual);
        let Active::Duty(duty) = lamp.active(level).unwrap() else { panic!() };
        let back = lamp.level(Realised { duty, pulse: Time::ZERO }).unwrap();
        let off = level.less(back).unwrap().value();
        prop_assert!(off >= Rational::ZERO && off < ratio(1, 100_000_000), "{off}");
    }
}

#[test]
fn levels_outside_the_load_are_refused_with_its_ends() {
    let error = servo("0deg..120deg").active(LoadLevel::Angle(Angle::new(ratio(1, 2)))).unwrap_err();
    assert_eq!(error.to_string(), "expected angle between 0 deg and 120 deg, found 180 deg");
}

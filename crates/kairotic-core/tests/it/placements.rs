//! Where the signals of random boards come out, against trying every way: whether there is one, and that nothing of a
//! conflict can be spared.

use std::collections::{BTreeMap, BTreeSet, HashSet};

use kairotic_core::Error;
use kairotic_core::board::{Asked, Board, BoardClock, Placed, Signal, TimerOutput, layout, plan};
use kairotic_core::part::{Part, TimerUse};
use kairotic_core::quantity::units::{hz, khz, percent};
use kairotic_core::search::derive;
use kairotic_core::target::{Active, Aim, Ask, Target};
use proptest::prelude::*;

use crate::catalogue::part;

/// A signal with a duty of so many percent.
fn signal(name: String, place: Placed, frequency: u32, duty: u32) -> Signal {
    let asked = Some(Asked::Active(Active::Duty(percent(duty))));
    Signal { asked, ..Signal::new(name, place, Aim::Frequency(hz(frequency))) }
}

fn on(text: &str) -> Placed {
    let (timer, channel) =
        text.split_once('/').map_or((text, None), |(timer, channel)| (timer, Some(channel)));
    Placed {
        on: Some(TimerOutput { timer: timer.to_owned(), channel: channel.map(ToOwned::to_owned) }),
        pin: None,
    }
}

fn at(pin: &str) -> Placed {
    Placed { on: None, pin: Some(pin.to_owned()) }
}

/// One way to place a signal: its output, the counter that makes it, its pin.
type Way = (String, String, Option<String>);

/// Everything that a part allows, by its tables alone.
struct Bench {
    part: &'static Part,
    /// Whether a timer whose channel is its top has to be looked at.
    tops: bool,
    /// Whether a base counter is one that timers share, and no way of counting of their own.
    shared: bool,
}

impl Bench {
    fn ways(&self, signal: &Signal) -> Vec<Way> {
        let outputs = self.part.pinout.as_ref().map(|pinout| pinout.outputs()).unwrap_or_default();
        let mut ways = Vec::new();
        for instance in &self.part.timers {
            for view in self.part.views(instance).unwrap() {
                let target = Target::of(signal.aim).duty(percent(30));
                let base = view.base.as_ref().map(|base| base.name.clone());
                let reached = TimerUse { base: base.clone(), ..TimerUse::of(self.part, &view.name) };
                let open = signal.place.is_open();
                // What is left open does not go to a timer that cannot make it.
                if open && derive(&reached, &target).is_err() {
                    continue;
                }
                for channel in &view.block.channels {
                    let output = format!("{}/{}", view.name, channel.label);
                    let pins: BTreeSet<&String> =
                        outputs.iter().filter(|one| one.output() == output).map(|one| &one.pin).collect();
                    let suits = signal.place.on.as_ref().is_none_or(|on| {
                        on.timer == view.name
                            && on.channel.as_ref().is_none_or(|label| *label == channel.label)
                    });
                    if !suits {
                        continue;
                    }
                    let counter = base.clone().filter(|_| self.shared).unwrap_or_else(|| view.name.clone());
                    match &signal.place.pin {
                        Some(pin) if pins.contains(pin) => ways.push((output, counter, Some(pin.clone()))),
                        Some(_) => {}
                        None if pins.is_empty() => ways.push((output, counter, None)),
                        None => ways.extend(
                            pins.into_iter().map(|pin| (output.clone(), counter.clone(), Some(pin.clone()))),
                        ),
                    }
                }
            }
        }
        ways
    }

    /// Whether all signals can be placed: every way of the first with every way of the second and so on, but that the same
    /// places are looked at once whichever signals of one frequency have them.
    fn can_place(&self, signals: &[&Signal]) -> bool {
        let mut states: HashSet<BTreeSet<(Way, String)>> = HashSet::from([BTreeSet::new()]);
        for signal in signals {
            let ways = self.ways(signal);
            let wanted = format!("{:?} {:?}", signal.aim, signal.asked);
            let mut next = HashSet::new();
            for state in &states {
                for way in &ways {
                    let mut more = state.clone();
                    more.insert((way.clone(), wanted.clone()));
                    if more.len() > state.len() && self.is_sound(&more) {
                        next.insert(more);
                    }
                }
            }
            states = next;
        }
        !states.is_empty()
    }

    fn is_sound(&self, state: &BTreeSet<(Way, String)>) -> bool {
        let outputs: BTreeSet<&String> = state.iter().map(|((output, ..), _)| output).collect();
        let pins: Vec<&String> = state.iter().filter_map(|((.., pin), _)| pin.as_ref()).collect();
        let distinct: BTreeSet<&&String> = pins.iter().collect();
        let mut counters: BTreeMap<&String, &str> = BTreeMap::new();
        let alike = state.iter().all(|((_, counter, _), wanted)| {
            let aim = wanted.split(" Some").next().unwrap();
            *counters.entry(counter).or_insert(aim) == aim
        });
        outputs.len() == state.len()
            && distinct.len() == pins.len()
            && alike
            && self.has_routes(state)
            && self.has_tops(state)
    }

    /// Whether one value of a remap field suits all channels of its timer.
    fn has_routes(&self, state: &BTreeSet<(Way, String)>) -> bool {
        let remaps = self.part.pinout.iter().flat_map(|pinout| &pinout.remaps);
        remaps.into_iter().all(|remap| {
            remap.routes.iter().any(|route| {
                state.iter().all(|((output, _, pin), _)| match output.split_once('/') {
                    Some((timer, channel)) if *timer == remap.timer => {
                        pin.is_none() || route.pins.get(channel) == pin.as_ref()
                    }
                    _ => true,
                })
            })
        })
    }

    /// Whether each timer makes all its signals, where a top may take a channel.
    fn has_tops(&self, state: &BTreeSet<(Way, String)>) -> bool {
        if !self.tops {
            return true;
        }
        let timers: BTreeSet<&str> =
            state.iter().map(|((output, ..), _)| output.split('/').next().unwrap()).collect();
        timers.into_iter().all(|timer| {
            let here: Vec<&(Way, String)> =
                state.iter().filter(|((output, ..), _)| output.split('/').next() == Some(timer)).collect();
            // That one signal alone cannot be made is told of its setting.
            if here.len() < 2 {
                return true;
            }
            let frequency = FREQUENCIES
                .iter()
                .find(|one| here[0].1.starts_with(&format!("{:?} ", Aim::Frequency(hz(**one)))));
            let asks = here.iter().map(|((output, ..), _)| Ask {
                channel: output.split('/').nth(1).map(ToOwned::to_owned),
                active: Active::Duty(percent(30)),
                start: None,
            });
            let target = Target { asks: asks.collect(), ..Target::frequency(hz(*frequency.unwrap())) };
            let within = |target: &Target| {
                derive(&TimerUse::of(self.part, timer), target).map(|found| found.best.fit.within)
            };
            let alone = target
                .asks
                .iter()
                .any(|ask| within(&Target { asks: vec![ask.clone()], ..target.clone() }) == Ok(true));
            // What one of them cannot even alone is told of that one.
            let hopeless = target
                .asks
                .iter()
                .any(|ask| within(&Target { asks: vec![ask.clone()], ..target.clone() }).is_err());
            hopeless || within(&target).is_ok_and(|within| within || !alone)
        })
    }
}

const FREQUENCIES: [u32; 4] = [1000, 2000, 7000, 30_000];

/// What is said of a signal's place, as numbers that fit any part: of which kind, and which of them.
fn placed(part: &Part, kind: u8, which: usize) -> Placed {
    let timer = &part.timers[which % part.timers.len()];
    let view = part.instantiate(timer, None).unwrap();
    let channels = &view.block.channels;
    let label = &channels[which / 7 % channels.len()].label;
    let outputs = part.pinout.as_ref().unwrap().outputs();
    let outputs: Vec<_> = outputs.iter().filter(|output| !output.channel.ends_with('n')).collect();
    let output = outputs[which % outputs.len()];
    match kind {
        0 => Placed::default(),
        1 => on(&timer.name),
        2 | 3 => on(&format!("{}/{label}", timer.name)),
        4 => at(&output.pin),
        _ => Placed { pin: Some(output.pin.clone()), ..on(&output.output()) },
    }
}

proptest! {
    #![proptest_config(ProptestConfig { max_shrink_iters: 200, ..ProptestConfig::with_cases(200) })]

    #[test]
    fn boards_are_placed_as_by_trying_everything(
        chip in 0_usize..4,
        asked in proptest::collection::vec((0_u8..6, 0_usize..400, 0_usize..4, 0_u32..2), 1..13),
    ) {
        let name = ["stm32f103", "atmega328p", "pic18f45k22", "samd21g18"][chip];
        let bench = Bench { part: part(name), tops: name == "atmega328p", shared: name == "pic18f45k22" };
        // The tables grow with what is left open: a few of those will do.
        let mut open = 0;
        let mut signals = Vec::new();
        for (place, (kind, which, frequency, duty)) in asked.into_iter().enumerate() {
            let wide = kind < 2;
            open += usize::from(wide);
            let kind = if wide && open > 3 { 2 } else { kind };
            let placed = placed(bench.part, kind, which);
            signals.push(signal(format!("s{place}"), placed, FREQUENCIES[frequency], 30 + 10 * duty));
        }
        let clock = BoardClock::default();
        let board = Board { signals, ..Board::empty(name.to_owned(), clock) };
        let all: Vec<&Signal> = board.signals.iter().collect();
        let found = layout(&board, bench.part);
        match &found {
            Ok(found) => {
                prop_assert!(bench.can_place(&all), "{found:?}");
                let state: BTreeSet<(Way, String)> = found.places.iter().zip(&board.signals).map(|(place, signal)| {
                    let counter = place.base.clone().unwrap_or_else(|| place.timer.clone());
                    let output = format!("{}/{}", place.timer, place.channel);
                    let way = (output, counter, place.pin.clone());
                    assert!(bench.ways(signal).contains(&way), "{way:?} for {signal:?}");
                    (way, format!("{:?} {:?}", signal.aim, signal.asked))
                }).collect();
                prop_assert!(state.len() == all.len() && bench.is_sound(&state), "{found:?}");
            }
            Err(Error::NoPlacement(conflict)) => {
                let named = |spared: Option<&str>| -> Vec<&Signal> {
                    let conflicting = conflict.signals.iter().filter(|one| Some(one.name.as_str()) != spared);
                    conflicting.map(|one| board.signal(&one.name).unwrap()).collect()
                };
                prop_assert!(!bench.can_place(&named(None)), "{conflict}");
                for spared in &conflict.signals {
                    prop_assert!(bench.can_place(&named(Some(&spared.name))), "{conflict} without {}", spared.name);
                }
            }
            Err(Error::NoPlace { signal }) => {
                prop_assert!(!bench.can_place(&[board.signal(signal).unwrap()]), "{signal}");
            }
            Err(other) => prop_assert!(false, "{other}"),
        }
    }
}

#[test]
fn a_conflict_says_what_would_free_it() {
    let signals = vec![
        signal("lamp".to_owned(), on("tim3/1"), 1000, 30),
        signal("fan".to_owned(), on("tim3/2"), 25_000, 30),
        signal("vent".to_owned(), on("tim4/1"), 18_000, 30),
    ];
    let (part, clock) = ("stm32f411", BoardClock::default());
    let board = Board { signals, ..Board::empty(part.to_owned(), clock) };
    let Err(Error::NoPlacement(conflict)) = layout(&board, crate::catalogue::part(part)) else { panic!() };
    let named: Vec<(&str, bool)> =
        conflict.signals.iter().map(|one| (one.name.as_str(), one.instead.is_some())).collect();
    assert_eq!(named, [("lamp", true), ("fan", true)]);
}

#[test]
fn signals_of_one_counter_are_settled_together() {
    // Alone, 7 % leads to 100 ticks' multiples and a third to others: one counter serves both.
    let third = Asked::Active(Active::Duty("33.3333%".parse().unwrap()));
    let mut second = signal("b".to_owned(), on("tim2/2"), 30_000, 7);
    second.asked = Some(third);
    let signals = vec![signal("a".to_owned(), on("tim2/1"), 30_000, 7), second];
    let board = Board { signals, ..Board::empty("stm32f103".to_owned(), BoardClock::default()) };
    let planned = plan(&board, part("stm32f103")).unwrap();
    assert_eq!(planned.timers.len(), 1);
    let outputs = &planned.timers[0].setting.outputs;
    assert_eq!(outputs.iter().map(|output| output.channel.as_str()).collect::<Vec<_>>(), ["1", "2"]);
}

/// Both channels of this part have one divider, and each a range of its own.
#[test]
fn channels_of_one_divider_have_periods_of_their_own() {
    let signals = vec![
        signal("a".to_owned(), on("pwm0-1"), 25_000, 30),
        signal("b".to_owned(), on("pwm0-2"), 9000, 40),
    ];
    let clock = BoardClock { frequency: Some(khz(19_200).exactly()), ..BoardClock::default() };
    let board = Board { signals, ..Board::empty("bcm2835".to_owned(), clock) };
    let planned = plan(&board, part("bcm2835")).unwrap();
    let [first, second] = planned.timers.as_slice() else { panic!() };
    assert_eq!(first.setting.divider, second.setting.divider);
    assert_ne!(first.setting.period, second.setting.period);
}

/// A counter of 8 or 16 bits: both channels have the same one.
#[test]
fn channels_of_one_timer_count_alike() {
    let signals =
        vec![signal("a".to_owned(), on("tc3/0"), 1000, 37), signal("b".to_owned(), on("tc3/1"), 1000, 50)];
    let (part, clock) = ("samd21g18", BoardClock::default());
    let board = Board { signals, ..Board::empty(part.to_owned(), clock) };
    let planned = plan(&board, crate::catalogue::part(part)).unwrap();
    let [timer] = planned.timers.as_slice() else { panic!() };
    assert_eq!(timer.setting.outputs.len(), 2);
    let duties: Vec<f64> = timer.setting.outputs.iter().map(|output| output.duty.value().approx()).collect();
    assert!((duties[0] - 0.37).abs() < 0.01 && (duties[1] - 0.5).abs() < 0.01, "{duties:?}");
}

#[test]
fn modules_of_one_counter_get_one_period() {
    // Both modules of this part count with timer 2.
    let board = |other: u32| {
        let signals = vec![
            signal("a".to_owned(), on("ccp1/1"), 4000, 50),
            signal("b".to_owned(), on("ccp2/1"), other, 37),
        ];
        Board { signals, ..Board::empty("pic18f4550".to_owned(), BoardClock::default()) }
    };
    let planned = plan(&board(4000), part("pic18f4550")).unwrap();
    let [first, second] = planned.timers.as_slice() else { panic!() };
    assert_eq!(first.setting.period, second.setting.period);
    assert_eq!(first.setting.plan.top, second.setting.plan.top);
    assert!(matches!(layout(&board(3000), part("pic18f4550")), Err(Error::NoPlacement(_))));
}

/// One value goes to either line of a motor: a counter of 32 bits beside one of 16 would make another pulse of it.
#[test]
fn the_lines_of_a_motor_are_on_counters_that_count_alike() {
    let board = |lines: bool| {
        let mut signals = vec![
            signal("vent".to_owned(), Placed::default(), 10, 37),
            signal("back".to_owned(), on("tim2/1"), 10, 0),
        ];
        signals[0].second_line = lines.then(|| "back".to_owned());
        Board { signals, ..Board::empty("stm32f411".to_owned(), BoardClock::default()) }
    };
    let vent = |lines: bool| layout(&board(lines), part("stm32f411")).unwrap().places[0].timer.clone();
    assert!(["tim2", "tim5"].contains(&vent(true).as_str()), "{}", vent(true));
    // On a timer of another width they cannot stand.
    let mut apart = board(true);
    apart.signals[0].place = on("tim3/1");
    let Err(Error::NoPlacement(conflict)) = layout(&apart, part("stm32f411")) else { panic!() };
    assert_eq!(conflict.signals.len(), 2);
}

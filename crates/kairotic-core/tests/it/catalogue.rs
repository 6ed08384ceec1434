//! The families, and random settings of their timers.

use std::collections::BTreeSet;
use std::sync::LazyLock;

use kairotic_core::part::{Channel, Checked, CompareLaw, Part, Timer};
use kairotic_core::setting::{PlannedChannel, RegisterPlan, Setting};
use kairotic_core::target::Level;
use kairotic_parts::Catalogue;
use proptest::prelude::*;
use proptest::sample::Index;

/// Every family of the catalogue.
pub(crate) static PARTS: LazyLock<Vec<Part>> = LazyLock::new(|| {
    let catalogue = Catalogue::embedded();
    catalogue.names().map(|name| catalogue.whole_part(name).unwrap().clone()).collect()
});

/// The family of that name.
pub(crate) fn part(name: &str) -> &'static Part {
    PARTS.iter().find(|part| part.name == name).unwrap()
}

/// Every timer of every family with every base counter.
pub(crate) static TIMERS: LazyLock<Vec<(&'static Part, Timer)>> = LazyLock::new(|| {
    let views = |part: &'static Part| {
        part.timers.iter().flat_map(move |timer| part.views(timer).unwrap()).map(move |timer| (part, timer))
    };
    PARTS.iter().flat_map(views).collect()
});

/// The dice for one random setting.
#[derive(Debug, Clone)]
pub(crate) struct Dice {
    timer: Index,
    mode: Index,
    dividers: [Index; 2],
    top: Index,
    compares: [Index; 4],
    used: u16,
    low: u16,
}

/// Random dice.
pub(crate) fn dice() -> impl Strategy<Value = Dice> {
    let index = any::<Index>;
    (
        index(),
        index(),
        [index(), index()],
        index(),
        [index(), index(), index(), index()],
        any::<u16>(),
        any::<u16>(),
    )
        .prop_map(|(timer, mode, dividers, top, compares, used, low)| Dice {
            timer,
            mode,
            dividers,
            top,
            compares,
            used,
            low,
        })
}

impl Dice {
    /// A random setting whose period has at most `longest` ticks, where the mode's length can be chosen.
    pub(crate) fn setting(&self, longest: u64) -> (&'static Part, &'static Timer, Setting) {
        let (part, timer) = self.timer.get(&TIMERS);
        let mode = self.mode.get(&timer.block.modes);
        let dividers = timer.block.dividers.iter().zip(&self.dividers).map(|(stage, index)| {
            let legal: Vec<u64> = (0..70_000).filter(|code| stage.steps.meaning(*code).is_some()).collect();
            // The codes that derive writes: of equal divisions the first.
            let written = *index.get(&legal);
            *legal.iter().find(|code| stage.steps.meaning(**code) == stage.steps.meaning(written)).unwrap()
        });
        let (least, most) = timer.top_limits(mode).unwrap();
        let top = least + self.top.index((most.min(least.max(longest)) - least + 1) as usize) as u64;
        let mut channels = Vec::new();
        for (place, channel) in
            timer.free_channels(mode).enumerate().filter(|(place, _)| (self.used | 1) >> place & 1 == 1)
        {
            let is_top = timer.top_slot(mode).unwrap() == Some(timer.slot(&channel.compare).unwrap());
            let limit = timer.compare_limit(mode, channel).unwrap();
            let compare = match &mode.compare {
                _ if is_top => None,
                CompareLaw::Toggle => Some(0),
                CompareLaw::Linear(law) => {
                    let ends = [law.zero.value(top), law.full.value(top)].into_iter().flatten();
                    let last = ends.max().unwrap_or(top).min(limit);
                    Some(law.min + self.compares[place % 4].index((last - law.min) as usize + 1) as u64)
                }
            };
            let polarity = timer.block.polarity.as_ref();
            let free = polarity
                .filter(|polarity| !mode.channel_setup.iter().any(|write| write.role == polarity.role));
            let invertible = free.is_some_and(|polarity| !polarity.low.is_empty());
            // Where one field inverts every output, they all go one way.
            let field = |channel: &Channel| free.and_then(|known| channel.roles.get(&known.role).cloned());
            let shared = timer.block.channels.iter().all(|other| field(other) == field(channel));
            let place = if shared { 0 } else { place };
            let level = if invertible && self.low >> place & 1 == 1 { Level::Low } else { Level::High };
            channels.push(PlannedChannel { label: channel.label.clone(), compare, start: 0, level });
        }
        let plan = RegisterPlan {
            mode: mode.name.clone(),
            dividers: dividers.collect(),
            top,
            channels,
            dead_time: None,
        };
        (part, timer, Setting::evaluate(timer, timer.clock.default, plan).unwrap())
    }
}

#[test]
fn every_mode_has_a_fact_and_every_doubt_says_what_it_is_about() {
    for part in PARTS.iter() {
        assert!(part.facts().count() > 6, "{}", part.name);
        assert!(part.facts().all(|fact| part.documents.contains_key(&fact.document)), "{}", part.name);
    }
}

/// The parts that a test file names, as `"part/timer` or as `"part", `.
fn named(text: &str, part: &str) -> bool {
    text.contains(&format!("\"{part}/")) || text.contains(&format!("\"{part}\", "))
}

#[test]
fn what_a_part_was_held_against_is_what_the_tests_hold_it_against() {
    for part in PARTS.iter() {
        let tests =
            [(Checked::Vector, include_str!("vectors.rs")), (Checked::Example, include_str!("examples.rs"))];
        for (check, text) in tests {
            assert_eq!(part.checked.contains(&check), named(text, &part.name), "{} {check:?}", part.name);
        }
    }
}

/// Codes that a pattern is for: of each choice the first and the last, and nothing or two letters for the rest.
fn codes_of(pattern: &str) -> Vec<String> {
    let mut codes = vec![String::new()];
    let mut rest = pattern;
    while let Some(next) = rest.chars().next() {
        let (choices, length): (Vec<String>, usize) = match next {
            '[' => {
                let end = rest.find(']').unwrap();
                let inside: Vec<char> = rest[1..end].chars().filter(|letter| *letter != '-').collect();
                (vec![inside[0].to_string(), inside.last().unwrap().to_string()], end + 1)
            }
            '*' => (vec![String::new(), "XX".to_owned()], 1),
            letter => (vec![letter.to_string()], 1),
        };
        codes =
            codes.iter().flat_map(|code| choices.iter().map(move |more| format!("{code}{more}"))).collect();
        rest = &rest[length..];
    }
    codes
}

#[test]
fn no_order_code_is_that_of_two_parts() {
    let catalogue = Catalogue::embedded();
    let variants = PARTS.iter().flat_map(Part::variant_parts);
    let mut tried = 0;
    for part in PARTS.iter().cloned().chain(variants) {
        for code in part.order_codes.iter().flat_map(|pattern| codes_of(pattern.as_str())) {
            assert_eq!(catalogue.part(&code).unwrap().name, part.name, "{code}");
            tried += 1;
        }
    }
    assert!(tried > 300, "{tried}");
}

#[test]
fn a_register_map_names_every_register_once_and_whole() {
    for part in PARTS.iter() {
        let map = part.register_map();
        let mut seen = BTreeSet::new();
        for register in &map {
            // Those of pins are one for each port.
            assert!(
                register.timer.is_none() || !register.name.contains('{'),
                "{} {}",
                part.name,
                register.name
            );
            assert!(seen.insert((&register.timer, &register.name)), "{} {} twice", part.name, register.name);
        }
        for timer in &part.timers {
            assert!(
                map.iter().any(|of| of.timer.as_ref() == Some(&timer.name)),
                "{} {}",
                part.name,
                timer.name
            );
        }
    }
    // RM0383: TIM3 is at 0x40000400, CCR2 is 0x38 behind it.
    let map = part("stm32f411").register_map();
    let found = map.iter().find(|register| register.name == "TIM3_CCR2").unwrap();
    assert_eq!((found.address, found.bits, found.reset), (Some(0x4000_0438), 16, 0));
}

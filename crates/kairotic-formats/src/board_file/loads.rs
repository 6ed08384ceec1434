//! From a load's keys to the load: which keys each kind needs, may have, and does not have.

use kairotic_core::load::{
    Arming, Curve, Fan, Heater, Kind, Lamp, Load, Motor, Servo, SpeedController, Wiring,
};
use kairotic_core::part::check::Path;
use kairotic_core::quantity::{Duty, Rational};

use super::Problems;
use super::raw::RawLoad;
use super::words::LoadKind;

/// The keys of a kind, those that it needs first.
fn keys(kind: LoadKind) -> &'static [&'static str] {
    match kind {
        LoadKind::Servo => &["span", "travel", "dead-band", "frame"],
        LoadKind::SpeedController => &["span", "neutral", "arm-pulse", "arm-hold", "frame"],
        LoadKind::Motor => &["supply", "rated", "start", "full", "wiring", "quiet", "pause"],
        LoadKind::Lamp => &["curve", "flicker-free"],
        LoadKind::Heater => &["supply", "resistance"],
        LoadKind::Fan => &["window", "lowest", "slowest", "pulses-per-turn"],
        LoadKind::Plain => &[],
    }
}

/// The keys that stand in a load, besides name and kind.
fn given(raw: &RawLoad) -> Vec<&'static str> {
    [
        ("span", raw.span.is_some()),
        ("travel", raw.travel.is_some()),
        ("dead-band", raw.dead_band.is_some()),
        ("frame", raw.frame.is_some()),
        ("neutral", raw.neutral.is_some()),
        ("arm-pulse", raw.arm_pulse.is_some()),
        ("arm-hold", raw.arm_hold.is_some()),
        ("supply", raw.supply.is_some()),
        ("rated", raw.rated.is_some()),
        ("start", raw.start.is_some()),
        ("full", raw.full.is_some()),
        ("wiring", raw.wiring.is_some()),
        ("quiet", raw.quiet.is_some()),
        ("pause", raw.pause.is_some()),
        ("curve", raw.curve.is_some()),
        ("flicker-free", raw.flicker_free.is_some()),
        ("resistance", raw.resistance.is_some()),
        ("window", raw.window.is_some()),
        ("lowest", raw.lowest.is_some()),
        ("slowest", raw.slowest.is_some()),
        ("pulses-per-turn", raw.pulses_per_turn.is_some()),
    ]
    .into_iter()
    .filter(|(_, there)| *there)
    .map(|(key, _)| key)
    .collect()
}

/// Every key of a load, for the nearest of them.
pub(super) const KEYS: [&str; 24] = [
    "name",
    "kind",
    "tolerance",
    "span",
    "travel",
    "dead-band",
    "frame",
    "neutral",
    "arm-pulse",
    "arm-hold",
    "supply",
    "rated",
    "start",
    "full",
    "wiring",
    "quiet",
    "pause",
    "curve",
    "flicker-free",
    "resistance",
    "window",
    "lowest",
    "slowest",
    "pulses-per-turn",
];

/// The load, or `None` where something that it needs is missing or wrong; its name all the same.
pub(super) fn load(problems: &mut Problems, path: &Path, mut raw: RawLoad) -> (Option<String>, Option<Load>) {
    problems.unknown(path, &raw.rest, &KEYS);
    let name = problems.need(path, "name", raw.name.take()).map(|words| words.0);
    let tolerance = problems.positive_or_zero(path, "tolerance", raw.tolerance.take());
    let made = kind(problems, path, raw).zip(name.clone());
    (name, made.map(|(kind, name)| Load { name, kind, tolerance }))
}

/// What it is.
fn kind(problems: &mut Problems, path: &Path, raw: RawLoad) -> Option<Kind> {
    let there = given(&raw);
    let kind = problems.need(path, "kind", raw.kind)?;
    for key in there.iter().filter(|key| !keys(kind).contains(key)) {
        let known = keys(kind);
        let has = if known.is_empty() { "no keys of its own".to_owned() } else { known.join(", ") };
        problems.report(&path.key(*key), format!("a {} has no `{key}`; it has {has}", kind.word()));
    }
    Some(match kind {
        LoadKind::Servo => {
            let span = problems.need(path, "span", raw.span);
            let travel = problems.need(path, "travel", raw.travel);
            let dead_band = problems.take(path, "dead-band", raw.dead_band);
            let frame = problems.take(path, "frame", raw.frame);
            let (span, travel) = (problems.rising(path, "span", span)?, travel?);
            if travel.low == travel.high {
                problems.report(&path.key("travel"), "expected two different angles");
                return None;
            }
            Kind::Servo(Servo { span, travel, dead_band, frame: problems.rising(path, "frame", frame) })
        }
        LoadKind::SpeedController => {
            let span = problems.need(path, "span", raw.span);
            let neutral = problems.take(path, "neutral", raw.neutral);
            let pulse = problems.take(path, "arm-pulse", raw.arm_pulse);
            let hold = problems.take(path, "arm-hold", raw.arm_hold);
            let frame = problems.take(path, "frame", raw.frame);
            let span = problems.rising(path, "span", span)?;
            if let Some(neutral) = neutral.filter(|neutral| *neutral <= span.low || *neutral >= span.high) {
                let text = format!("expected a pulse inside {span}, found {neutral}");
                problems.report(&path.key("neutral"), text);
                return None;
            }
            if pulse.is_some() != hold.is_some() {
                problems.report(path, "`arm-pulse` and `arm-hold` belong together");
            }
            let arming = pulse.zip(hold).map(|(pulse, hold)| Arming { pulse, hold });
            let frame = problems.rising(path, "frame", frame);
            Kind::SpeedController(SpeedController { span, neutral, arming, frame })
        }
        LoadKind::Motor => {
            let supply = problems.positive(path, "supply", raw.supply);
            let rated = problems.positive(path, "rated", raw.rated);
            let start = problems.share(path, "start", raw.start);
            let full = problems.share(path, "full", raw.full);
            let wiring = problems.take(path, "wiring", raw.wiring).map_or(Wiring::OneSwitch, |wires| wires.0);
            let quiet = problems.take(path, "quiet", raw.quiet);
            let pause = problems.take(path, "pause", raw.pause);
            let (supply, rated) = (supply?, rated?);
            let motor =
                Motor { supply, rated, start: start.unwrap_or(Duty::ZERO), full, wiring, quiet, pause };
            let most = full.map(Duty::value).or_else(|| rated.value().over(supply.value()));
            if let Some(most) = most.filter(|most| motor.start.value() >= *most) {
                let text = format!(
                    "it starts at {}, which is no less than the {} of full throttle",
                    motor.start,
                    Duty::new(most).rounded(6)
                );
                problems.report(&path.key("start"), text);
                return None;
            }
            Kind::Motor(motor)
        }
        LoadKind::Lamp => {
            let curve = problems.take(path, "curve", raw.curve).map_or(Curve::Linear, |shape| shape.0);
            Kind::Lamp(Lamp { curve, flicker_free: problems.take(path, "flicker-free", raw.flicker_free) })
        }
        LoadKind::Heater => {
            let supply = problems.positive(path, "supply", raw.supply);
            let resistance = problems.positive(path, "resistance", raw.resistance);
            Kind::Heater(Heater { supply: supply?, resistance: resistance? })
        }
        LoadKind::Fan => {
            let window = problems.take(path, "window", raw.window);
            let lowest = problems.share(path, "lowest", raw.lowest).unwrap_or(Duty::ZERO);
            let slowest = problems.share(path, "slowest", raw.slowest);
            let pulses = problems.take(path, "pulses-per-turn", raw.pulses_per_turn);
            let one = Duty::new(Rational::ONE);
            let slowest = slowest.unwrap_or(lowest);
            if lowest >= one || slowest >= one {
                problems.report(&path.key("lowest"), "expected less than 100 %");
                return None;
            }
            let pulses_per_turn = pulses.and_then(|count| u32::try_from(count.0).ok());
            let window = problems.rising(path, "window", window);
            Kind::Fan(Fan { window, lowest, slowest, pulses_per_turn })
        }
        LoadKind::Plain => Kind::Plain,
    })
}

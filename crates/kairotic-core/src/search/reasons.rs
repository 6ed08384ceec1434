//! Why a setting leads, and what others are better at.

use std::cmp::Reverse;

use super::candidate::Candidate;
use super::rank::{self, Prefer};
use crate::target::{Aim, Target};

/// What a candidate is better at than the leading one.
pub(crate) fn advantages(candidate: &Candidate, leading: &Candidate) -> Vec<&'static str> {
    let nearer = rank::compare_deviation(candidate, leading).is_lt();
    [
        (candidate.steps > leading.steps, "more steps"),
        (nearer || (candidate.frequency_exact && !leading.frequency_exact), "nearer frequency"),
        (candidate.signals_exact && !leading.signals_exact, "exact signals"),
        (candidate.tick_digits < leading.tick_digits, "rounder tick"),
        (candidate.usual && !leading.usual, "usual mode"),
    ]
    .into_iter()
    .filter_map(|(better, word)| better.then_some(word))
    .collect()
}

/// The settings that a reader may want instead: the one with the most steps of each kind of exactness, the one with the
/// roundest tick, and the next in rank. All were examined, so they are within two bits of the leading one.
pub(crate) fn worth_a_look(found: &[Candidate]) -> Vec<&Candidate> {
    let Some((leading, rest)) = found.split_first() else { return Vec::new() };
    if !leading.within {
        return rest.iter().take(2).collect();
    }
    let inside = || rest.iter().filter(|candidate| candidate.within && candidate.usual);
    let finest = |exact: fn(&Candidate) -> bool| {
        inside().filter(move |candidate| exact(candidate)).min_by_key(|candidate| Reverse(candidate.steps))
    };
    let roundest = inside()
        .filter(|candidate| candidate.frequency_exact && candidate.signals_exact)
        .min_by_key(|candidate| candidate.tick_digits)
        .filter(|candidate| candidate.tick_digits < leading.tick_digits);
    let finer = [
        finest(|_| true),
        finest(|candidate| candidate.signals_exact),
        finest(|candidate| candidate.frequency_exact),
    ];
    let mut picked: Vec<&Candidate> = Vec::new();
    let better = finer.into_iter().filter(|pick| pick.is_some_and(|pick| pick.steps > leading.steps));
    for pick in better.chain([roundest, rest.iter().find(|candidate| candidate.within)]).flatten() {
        if !picked.iter().any(|known| std::ptr::eq(*known, pick)) {
            picked.push(pick);
        }
    }
    picked
}

/// Why the leading setting leads.
pub(crate) fn because(
    prefer: Option<Prefer>,
    target: &Target,
    leading: &Candidate,
    found: &[Candidate],
) -> String {
    if leading.steps < target.min_steps {
        return "no setting has as many steps as were asked for; this one comes nearest to the frequency"
            .to_owned();
    }
    if !leading.within {
        return format!(
            "no setting is within {}; this one has the smallest frequency error",
            target.within.told()
        );
    }
    if target.counter.is_some() {
        return "one period and division for all signals of the counter".to_owned();
    }
    match prefer {
        Some(Prefer::Exact) => return "the smallest error, as preferred".to_owned(),
        Some(Prefer::Fine) => return "the most steps within the tolerance, as preferred".to_owned(),
        Some(Prefer::RoundTick) => {
            return match leading.tick_digits {
                u32::MAX => {
                    "no tick is a whole number of nanoseconds; this one has the smallest error".to_owned()
                }
                _ => "the roundest tick within the tolerance, as preferred".to_owned(),
            };
        }
        None => {}
    }
    let word = match target.asks.as_slice() {
        [] => None,
        [ask] => Some(ask.active.word()),
        _ => Some("signals"),
    };
    let wave = match (leading.frequency_exact, word, leading.signals_exact) {
        (_, None, _) if matches!(target.aim, Aim::Window(_)) => "a frequency in the window".to_owned(),
        (_, Some(word), exact) if matches!(target.aim, Aim::Window(_)) => match exact {
            true => format!("a frequency in the window and exact {word}"),
            false => format!("a frequency in the window, {word} to the nearest step"),
        },
        (true, None, _) => "exact frequency".to_owned(),
        (true, Some(word), true) => format!("exact frequency and exact {word}"),
        (true, Some(word), false) => format!("exact frequency, {word} to the nearest step"),
        (false, Some(word), true) => format!("frequency within {}, exact {word}", target.within.told()),
        (false, ..) => format!("frequency within {}", target.within.told()),
    };
    let place = if target.span.is_some() { "in the span" } else { "a period" };
    // The search stops where nothing better can follow: what it did not look at has fewer steps, or is no plain mode.
    let of = if leading.usual { "a standard mode" } else { "a mode that fits" };
    let more =
        found.iter().filter(|other| other.within && other.steps > leading.steps).map(|other| other.steps);
    match more.max() {
        None => format!("{wave} with the most steps that {of} gets from this clock"),
        Some(more) => format!(
            "{wave} with {} steps {place}; others have up to {more}, but are not exact or need a special mode \
             (exactness and a standard mode each weigh one bit of resolution)",
            leading.steps
        ),
    }
}

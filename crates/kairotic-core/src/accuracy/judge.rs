//! What is required of a signal, against all that takes it away from what is wanted.

use super::conditions::Conditions;
use super::contribution::Contribution;
use super::totals::{Totals, reaches};
use crate::error::Result;
use crate::load::{Load, LoadLevel, drive};
use crate::quantity::{Dimension, OrOverflow, Quantity, Rational, Time};
use crate::requirement::{Need, Needs, verdicts};
use crate::search::Derivation;

/// How a signal stands to a requirement.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Standing {
    /// Even the worst case is allowed.
    Met,
    /// The likely case is allowed, the worst is not.
    Marginal,
    /// The likely case is not allowed.
    Missed,
}

impl Standing {
    /// The word that outputs use.
    pub const fn word(self) -> &'static str {
        match self {
            Self::Met => "met",
            Self::Marginal => "marginal",
            Self::Missed => "missed",
        }
    }
}

/// One requirement, and what there is.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Judged {
    /// What is required.
    pub need: Need,
    /// How much, as text.
    pub wanted: String,
    /// The same in base units, where it is an error.
    pub limit: Option<Rational>,
    /// The worst case, as text.
    pub worst: String,
    /// The likely case, as text; empty where there is only one case.
    pub likely: String,
    /// How it stands.
    pub standing: Standing,
    /// How much of what is allowed the worst case uses: above 1 it is more than that. `None` where nothing is allowed.
    pub used: Option<Rational>,
}

/// Holds everything against what is required.
pub(super) fn judge(
    needs: &Needs,
    derivation: &Derivation,
    totals: &Totals,
    all: &[Contribution],
    conditions: &Conditions,
    load: Option<&Load>,
) -> Result<Vec<Judged>> {
    let mut found = Vec::new();
    let (worst, likely) = (&totals.worst, &totals.likely.reach);
    if let Some(most) = needs.frequency {
        found.push(judged(Need::Frequency, most, worst.worst_frequency(), likely.worst_frequency())?);
    }
    if let Some(most) = needs.pulse {
        found.push(judged(Need::Pulse, most, worst.worst_pulse(), likely.worst_pulse())?);
    }
    if let (Some(most), Some(worst), Some(likely)) = (needs.level, totals.worst_level, totals.likely.level) {
        let [worst, likely] = [worst, likely].map(LoadLevel::further);
        let text = [most.told(), worst.rounded(4), likely.rounded(4)];
        found.push(weighed(Need::Level, most.value(), [worst.value(), likely.value()], text)?);
    }
    if let Some(most) = needs.jitter {
        let setting = &derivation.best.setting;
        let pattern = setting.jitter.map_or(Time::ZERO, |jitter| jitter.peak_to_peak.max(jitter.pulses));
        let pll = conditions.pll.unwrap_or(Time::ZERO).value();
        // From three times the RMS below to three times above; likely are twice.
        let with = |times: i64| -> Result<Time> {
            let random = pll.times(Rational::whole(times)).or_overflow("jitter")?;
            pattern.value().plus(random).or_overflow("jitter").map(Time::new)
        };
        found.push(judged(Need::Jitter, most, with(6)?, with(4)?)?);
    }
    if let Some(most) = needs.clock {
        let clock: Vec<Contribution> = all.iter().filter(|one| one.cause.is_clock()).cloned().collect();
        let [worst, likely] = reaches(&clock)?.map(|reach| reach.worst_frequency());
        let mut verdict = judged(Need::Clock, most, worst, likely)?;
        if clock.is_empty() {
            // A clock of which nothing is known meets nothing.
            verdict.standing = Standing::Missed;
            (verdict.worst, verdict.likely, verdict.used) = ("not stated".to_owned(), String::new(), None);
        }
        found.push(verdict);
    }
    let driven = load.map(|load| drive(load, &derivation.best.setting, None)).transpose()?;
    let steps = Needs { steps: needs.steps, step: needs.step, ..Needs::default() };
    for verdict in verdicts(&steps, derivation, None, driven.as_ref())? {
        let standing = if verdict.met { Standing::Met } else { Standing::Missed };
        let (need, wanted, worst, used) = (verdict.need, verdict.wanted, verdict.found, verdict.used);
        found.push(Judged { need, wanted, limit: None, worst, likely: String::new(), standing, used });
    }
    Ok(found)
}

fn judged<D: Dimension + Copy>(
    need: Need,
    most: Quantity<D>,
    worst: Quantity<D>,
    likely: Quantity<D>,
) -> Result<Judged> {
    let text = [most.told(), worst.rounded(4), likely.rounded(4)];
    weighed(need, most.value(), [worst.value(), likely.value()], text)
}

fn weighed(
    need: Need,
    most: Rational,
    [worst, likely]: [Rational; 2],
    [wanted, worst_text, likely_text]: [String; 3],
) -> Result<Judged> {
    let standing = if worst <= most {
        Standing::Met
    } else if likely <= most {
        Standing::Marginal
    } else {
        Standing::Missed
    };
    let used = if most.is_zero() { None } else { Some(worst.over(most).or_overflow("requirement")?) };
    Ok(Judged {
        need,
        wanted: format!("at most {wanted}"),
        limit: Some(most),
        worst: worst_text,
        likely: likely_text,
        standing,
        used,
    })
}

//! A mode: its top, its laws, and the points at which its output becomes constant.

use super::{PartCheck, Path};
use crate::part::{Channel, CompareLaw, ComparePoint, LinearLaw, Mode, Timer, TopSource};

/// The largest coefficient of a law. Silicon stays far below; beyond it, laws could not be played out quickly.
const LARGEST_COEFFICIENT: u32 = 64;

impl PartCheck<'_> {
    pub(super) fn mode(&mut self, path: &Path, timer: &Timer, mode: &Mode) {
        let before = self.found.len();
        self.name(&path.key("name"), &mode.name);
        self.facts(path, &mode.facts, true);
        let channels: Vec<&Channel> = timer.free_channels(mode).collect();
        if let (Some(start), true) = (&mode.start, channels.is_empty()) {
            self.report(&path.key("start"), format!("no channel has a role `{}`", start.role));
        }
        self.setups(path, timer, &mode.setup, (&mode.channel_setup, &channels));
        if !(1..=LARGEST_COEFFICIENT).contains(&mode.period.per_top) || mode.period.plus > LARGEST_COEFFICIENT
        {
            self.report(
                &path.key("period"),
                format!(
                    "expected per_top from 1 to {LARGEST_COEFFICIENT} and plus up to {LARGEST_COEFFICIENT}"
                ),
            );
        }
        let top = path.key("top");
        if timer.top_limits(mode).is_ok_and(|(min, _)| mode.period.ticks(min) == Some(0)) {
            self.report(&top, "expected a smallest top that gives at least one tick a period, found 0");
        }
        match (&mode.top, timer.top_limits(mode)) {
            (_, Err(error)) => self.report(&top, error.to_string()),
            (_, Ok((min, max))) if min > max => {
                self.report(&top, format!("expected min <= max, found {min} and {max}"));
            }
            (TopSource::Register { slot, .. }, Ok((_, max))) => self.value(&top, timer, slot, max),
            (TopSource::Compare { channel, .. }, Ok((_, max))) => {
                if let Ok(channel) = timer.channel(channel) {
                    self.value(&top, timer, &channel.compare, max);
                }
            }
            (TopSource::Fixed(_) | TopSource::PowerOfTwo { .. }, Ok(_)) => {}
        }
        let roles = [
            mode.start.as_ref().map(|start| (&start.role, 0)),
            mode.start.as_ref().and_then(|start| Some((start.end.as_ref()?, 0))),
            mode.ends.as_ref().map(|ends| (&ends.zero.role, ends.zero.value.max(ends.zero.otherwise))),
            mode.ends.as_ref().map(|ends| (&ends.full.role, ends.full.value.max(ends.full.otherwise))),
        ];
        for (role, value) in roles.into_iter().flatten() {
            self.role(path, timer, &channels, (role, value));
        }
        if mode.start.as_ref().is_some_and(|start| start.end.is_some() && !start.holds_end) {
            self.report(&path.key("start"), "expected `holds_end` where a role holds the end");
        }
        if let Some(ends) = &mode.ends {
            // What is written for one end would be written over for the other.
            if ends.zero.role == ends.full.role {
                self.report(&path.key("ends"), "expected a field of its own for each end");
            }
            let never = |law: &LinearLaw| [law.zero, law.full].contains(&ComparePoint::Never);
            if matches!(&mode.compare, CompareLaw::Linear(law) if never(law)) {
                let message = "expected a compare value for 0 % and for 100 %, which the fields stand for";
                self.report(&path.key("ends"), message);
            }
        }
        if mode.dither.is_some_and(|dither| !(1..=8).contains(&dither.bits)) {
            self.report(&path.key("dither").key("bits"), "expected 1 to 8");
        }
        if let CompareLaw::Linear(law) = &mode.compare
            && self.found.len() == before
        {
            self.linear(&path.key("compare"), timer, mode, law);
        }
    }

    /// Checks the stated 0 % and 100 % points against the law itself.
    fn linear(&mut self, path: &Path, timer: &Timer, mode: &Mode, law: &LinearLaw) {
        let point = |point: ComparePoint| match point {
            ComparePoint::Never => [0, 0],
            ComparePoint::At { per_top, plus } => [per_top, plus],
        };
        let signed = [law.gain, law.per_top, law.plus].map(i32::unsigned_abs);
        let all = signed.into_iter().chain(point(law.zero)).chain(point(law.full)).chain([law.per_tick]);
        if law.gain == 0 || law.per_tick == 0 || all.max() > Some(LARGEST_COEFFICIENT) {
            return self.report(
                path,
                format!(
                    "expected a gain other than 0, per_tick of 1 or more, and no number beyond \
                     {LARGEST_COEFFICIENT}"
                ),
            );
        }
        let Ok((_, largest)) = timer.top_limits(mode) else { return };
        let registers =
            timer.block.channels.iter().filter_map(|channel| timer.compare_limit(mode, channel).ok());
        let limit = registers.min().unwrap_or(0);
        for (key, point, at_largest, wanted) in [
            ("zero", law.zero, law.zero_at_largest_top, 0),
            ("full", law.full, law.full_at_largest_top, law.per_tick),
        ] {
            if point.value(largest).is_some_and(|compare| compare < law.min) {
                let told = format!("expected never: no compare value below {} may be written", law.min);
                self.report(&path.key("linear").key(key), told);
            }
            let active = point.value(3).map(|compare| law.sub_ticks(3, compare));
            let goal = mode.period.ticks(3).map(|ticks| i128::from(ticks) * i128::from(wanted));
            if active.is_some() && active != goal {
                self.report(
                    &path.key("linear").key(key),
                    format!("the law gives {active:?} active steps there for a top of 3, not {goal:?}"),
                );
            }
            let reached = point.value(largest).is_some_and(|compare| compare <= limit);
            if reached != at_largest {
                self.report(
                    &path.key("linear").key(format!("{key}_at_largest_top")),
                    format!(
                        "with the largest top, {largest}, {point} {} the {limit} that the compare register holds",
                        if reached { "is within" } else { "is beyond" }
                    ),
                );
            }
        }
    }
}

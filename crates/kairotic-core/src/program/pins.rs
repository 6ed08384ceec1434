//! What puts the outputs of a timer on pins.

use super::TimerPlan;
use super::draft::{Draft, KnownRegister};
use super::recipe::{Purpose, trust};
use super::step::{Action, Phase, RegisterPlace};
use crate::error::{Error, Result};
use crate::part::{BringUp, Part, PinOutput, PinRecipe, PinVars, Remap, Trust};
use crate::setting::{FieldWrite, Written};

/// Adds the steps that put a timer's used channels on their pins.
pub(super) fn steps(draft: &mut Draft<'_>, plan: &TimerPlan) -> Result<()> {
    let mut remapped = false;
    for channel in plan.used_outputs() {
        let Some(output) = pin_of(draft.part, plan, &channel)? else {
            let why = match choices(draft.part, plan, &channel) {
                Some(choices) => format!("{}/{channel} is not on a pin yet: {choices}", plan.timer.name),
                None => format!("{}/{channel} has to be put on a pin", plan.timer.name),
            };
            supply(draft, &format!("connect_{}_{channel}", plan.timer.name), why, &plan.timer.name);
            continue;
        };
        remap(draft, plan, &output, &mut remapped)?;
        one(draft, plan, &output)?;
    }
    Ok(())
}

fn supply(draft: &mut Draft<'_>, function: &str, why: String, of: &str) {
    let function = function.replace('-', "_");
    draft.step(Phase::Pin, Action::Supply { function }, why, of, Trust::Unsure);
}

/// Where a channel comes out: on the pin that was given, or on the only one that carries it.
pub(crate) fn pin_of(part: &Part, plan: &TimerPlan, channel: &str) -> Result<Option<PinOutput>> {
    let Some(pinout) = &part.pinout else { return Ok(None) };
    let given = plan.pins.get(channel);
    if pinout.is_free() {
        let output = |pin: &String| PinOutput {
            pin: pin.clone(),
            timer: plan.timer.name.clone(),
            channel: channel.to_owned(),
            by: String::new(),
        };
        return Ok(given.map(output));
    }
    let all = pinout.outputs();
    let mut here =
        all.into_iter().filter(|output| output.timer == plan.timer.name && output.channel == channel);
    match given {
        Some(pin) => {
            let found = here.find(|output| output.pin.eq_ignore_ascii_case(pin));
            let place = format!("{}/{channel}", plan.timer.path());
            let known = pinout.outputs();
            let known = known.iter().filter(|one| one.timer == plan.timer.name && one.channel == channel);
            let pins = known.map(|output| output.pin.as_str());
            found.map(Some).ok_or_else(|| Error::unknown("pin", pin, &place, pins))
        }
        None => {
            let first = here.next();
            let alone = here.all(|other| first.as_ref().is_some_and(|first| first.pin == other.pin));
            Ok(first.filter(|_| alone))
        }
    }
}

/// The pins that a channel can have, in words.
fn choices(part: &Part, plan: &TimerPlan, channel: &str) -> Option<String> {
    let pinout = part.pinout.as_ref()?;
    if pinout.is_free() {
        return Some(format!("any pin, by {}", pinout.select));
    }
    let outputs = pinout.outputs();
    let here = outputs.iter().filter(|output| output.timer == plan.timer.name && output.channel == channel);
    let told: Vec<String> = here.map(|output| format!("{} ({})", output.pin, output.by)).collect();
    (!told.is_empty()).then(|| told.join(", "))
}

/// Moves the channels of a timer, where one field moves all of them; once for a timer.
fn remap(draft: &mut Draft<'_>, plan: &TimerPlan, output: &PinOutput, done: &mut bool) -> Result<()> {
    let part = draft.part;
    let Some(pinout) = &part.pinout else { return Ok(()) };
    let Some(Remap { field, routes, .. }) = pinout.remaps.iter().find(|remap| remap.timer == plan.timer.name)
    else {
        return Ok(());
    };
    // The route has to suit every pin that was given.
    let suits = |pins: &std::collections::BTreeMap<String, String>| {
        let has = |(channel, pin): (&String, &String)| {
            pins.get(channel).is_some_and(|known| known.eq_ignore_ascii_case(pin))
        };
        plan.pins.iter().all(has) && pins.get(&output.channel) == Some(&output.pin)
    };
    let Some(route) = routes.iter().find(|route| suits(&route.pins)) else {
        let pins: Vec<String> =
            plan.pins.iter().map(|(channel, pin)| format!("{channel} on {pin}")).collect();
        return Err(Error::NoRemap { timer: plan.timer.path(), field: field.clone(), pins: pins.join(", ") });
    };
    if *done {
        return Ok(());
    }
    *done = true;
    let purpose = Purpose { phase: Phase::Pin, of: &plan.timer.name, trust: trust(&pinout.facts) };
    let means = format!("puts {} on {}", output.output(), output.pin);
    match part.bring_up_slot(std::slice::from_ref(field)) {
        Ok(_) => {
            if let Some(bring_up) = &part.bring_up {
                draft.recipe(&bring_up.remap, purpose)?;
                draft.flush(Phase::Pin);
            }
            draft.set(std::slice::from_ref(field), route.code, &means, purpose)
        }
        Err(_) => {
            let why = format!("{field} = {} {means}", route.code);
            supply(draft, &format!("remap_{}", plan.timer.name), why, &plan.timer.name);
            Ok(())
        }
    }
}

/// Connects one pin.
fn one(draft: &mut Draft<'_>, plan: &TimerPlan, output: &PinOutput) -> Result<()> {
    let part = draft.part;
    let place = output.output();
    let found: Vec<(&BringUp, &PinRecipe, PinVars)> = part
        .bring_up
        .iter()
        .flat_map(|bring_up| {
            bring_up.recipes(&output.pin, &place).map(move |(recipe, vars)| (bring_up, recipe, vars))
        })
        .collect();
    if found.is_empty() {
        let select = part.pinout.as_ref().map_or("", |pinout| pinout.select.as_str());
        let why = format!("{} has to be given {place}: {select}", output.pin);
        supply(
            draft,
            &format!("connect_{}", output.pin.to_lowercase().replace('.', "_")),
            why,
            &plan.timer.name,
        );
        return Ok(());
    }
    for (bring_up, recipe, mut vars) in found {
        let base = part.instance(&plan.timer.name)?.address;
        let numbers = [("code", code(&output.by)), ("channel", output.channel.parse().ok()), ("base", base)];
        vars.numbers
            .extend(numbers.into_iter().filter_map(|(name, number)| Some((name.to_owned(), number?))));
        vars.texts.insert("channel".to_owned(), output.channel.clone());
        for step in &recipe.steps {
            let field = bring_up.pin_field(step, &vars).ok_or_else(|| Error::BrokenPart {
                part: part.name.clone(),
                what: format!("the recipe for {} gives no {}.{}", output.pin, step.register, step.field),
            })?;
            let write = FieldWrite {
                register: field.field.register.clone(),
                field: field.field.field.clone(),
                meant: field.value.to_string(),
                written: Written::Number(field.value),
                note: field.means,
            };
            let known = KnownRegister {
                place: RegisterPlace {
                    name: field.field.register.clone(),
                    address: field.address,
                    bits: part.access_bits(&field.register),
                    access: field.register.access,
                },
                register: field.register,
                own: false,
                tracked: !step.register.contains('{'),
            };
            let marks = trust(recipe.facts.iter().chain(part.pinout.iter().flat_map(|pinout| &pinout.facts)));
            draft.field(&known, &field.field, write, &output.pin, marks)?;
        }
    }
    Ok(())
}

/// The number in the words that choose an output: `AF2` is 2, `function E` 4.
fn code(by: &str) -> Option<u64> {
    let digits: String =
        by.chars().skip_while(|c| !c.is_ascii_digit()).take_while(char::is_ascii_digit).collect();
    if let Ok(number) = digits.parse() {
        return Some(number);
    }
    let letter = by.split_whitespace().last().filter(|word| word.len() == 1)?.chars().next()?;
    letter.is_ascii_uppercase().then(|| u64::from(u32::from(letter) - u32::from('A')))
}

#[cfg(test)]
mod tests {
    use super::code;

    #[test]
    fn the_code_stands_in_the_words_of_the_pinout() {
        assert_eq!(code("AF2"), Some(2));
        assert_eq!(code("function E"), Some(4));
        assert_eq!(code("GPIOPCTL 4"), Some(4));
        assert_eq!(code("PxSEL"), None);
    }
}

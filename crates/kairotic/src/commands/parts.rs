//! `parts`: the catalogue, one part, one timer.

use kairotic_core::part::Pinout;

use crate::arguments::location::Location;
use crate::arguments::parts::{PartsArgs, WantedTimers};
use crate::fault::{Fault, Result};
use crate::format::Report;
use crate::part_library::PartLibrary;
use crate::report::found_timers::{FoundTimer, FoundTimers};
use crate::report::{PartList, PartPage, PinPage, TimerPage};

pub(super) fn run(arguments: &PartsArgs, catalogue: &PartLibrary) -> Result<Box<dyn Report>> {
    if arguments.wanted.is_given() {
        return Ok(Box::new(found(arguments, catalogue)?));
    }
    let Some(Location { part, timer, channel: None }) = &arguments.location else {
        let names = catalogue.names();
        let parts = names.iter().map(|name| catalogue.whole_part(name).cloned());
        let parts = parts.collect::<kairotic_core::Result<_>>()?;
        return Ok(Box::new(PartList { parts, unsupported: kairotic_parts::unsupported() }));
    };
    let part = catalogue.whole_part(part)?.clone();
    if arguments.pins {
        let pinout = part.pinout.clone();
        let pinout = pinout.ok_or_else(|| kairotic_core::Error::NoPinout { part: part.name.clone() })?;
        return Ok(Box::new(PinPage { part, pinout }));
    }
    let Some(timer) = timer else {
        let timers = part
            .timers
            .iter()
            .map(|instance| part.instantiate(instance, None))
            .collect::<kairotic_core::Result<_>>()?;
        return Ok(Box::new(PartPage { part, timers }));
    };
    let mut others = part.views(part.instance(timer)?)?;
    Ok(Box::new(TimerPage { timer: others.remove(0), others }))
}

/// The timers that are looked for.
fn found(arguments: &PartsArgs, catalogue: &PartLibrary) -> Result<FoundTimers> {
    let WantedTimers { pin, can, search } = &arguments.wanted;
    let of_part = arguments.location.as_ref();
    let names = match of_part {
        Some(location) => vec![catalogue.whole_part(&location.part)?.name.clone()],
        None => catalogue.names(),
    };
    let mut found = Vec::new();
    for name in &names {
        let part = catalogue.whole_part(name)?;
        for instance in &part.timers {
            if of_part
                .and_then(|location| location.timer.as_ref())
                .is_some_and(|timer| *timer != instance.name)
            {
                continue;
            }
            let views = part.views(instance)?;
            let has = |word: &String| {
                let texts = [&part.name, &part.title, &instance.name].into_iter();
                let titles = views.iter().map(|timer| &timer.block.title);
                texts.chain(titles).any(|text| text.to_lowercase().contains(&word.to_lowercase()))
            };
            let fits = views.iter().any(|timer| can.iter().all(|ability| timer.can(*ability)));
            let Some(timer) = views.first().filter(|_| fits && search.as_ref().is_none_or(has)) else {
                continue;
            };
            let of_timer = |channel: Option<String>, chosen_by: Option<String>| FoundTimer {
                part: part.name.clone(),
                timer: instance.name.clone(),
                channel,
                chosen_by,
                title: timer.block.title.clone(),
            };
            let Some(pin) = pin else {
                found.push(of_timer(None, None));
                continue;
            };
            let outputs = part.pinout.iter().flat_map(Pinout::outputs);
            let own = outputs
                .filter(|output| output.timer == instance.name && output.pin.eq_ignore_ascii_case(pin));
            found.extend(own.map(|output| of_timer(Some(output.channel), Some(output.by))));
        }
    }
    if found.is_empty() {
        let asked = pin.iter().cloned().chain(can.iter().map(ToString::to_string)).chain(search.clone());
        return Err(Fault::Usage {
            message: format!(
                "no timer that the catalogue knows has {}",
                asked.collect::<Vec<_>>().join(", ")
            ),
            hint: "ask for less; `kairotic parts` lists all parts".to_owned(),
        });
    }
    Ok(FoundTimers { pin: pin.clone(), can: can.clone(), word: search.clone(), found })
}

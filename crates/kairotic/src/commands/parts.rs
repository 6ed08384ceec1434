//! `parts`: the catalogue, one part, one timer.

use crate::arguments::location::Location;
use crate::arguments::parts::{PartsAction, PartsArgs};
use crate::fault::{Fault, Result};
use crate::format::Report;
use crate::part_library::{self, PartLibrary};
use crate::report::checked_family::CheckedFamily;
use crate::report::found_timers::FoundTimers;
use crate::report::{PartList, PartPage, PinPage, TimerPage};

pub(super) fn run(arguments: &PartsArgs, catalogue: &PartLibrary) -> Result<Box<dyn Report>> {
    if let Some(PartsAction::Check { file }) = &arguments.action {
        return Ok(Box::new(CheckedFamily { file: file.clone(), part: part_library::family_file(file)? }));
    }
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

/// The timers that are looked for, in all parts or in the one that is named.
fn found(arguments: &PartsArgs, catalogue: &PartLibrary) -> Result<FoundTimers> {
    let wanted = arguments.wanted.wanted();
    let location = arguments.location.as_ref();
    let names = match location {
        Some(location) => vec![location.part.clone()],
        None => catalogue.names(),
    };
    let mut found = Vec::new();
    for name in &names {
        found.extend(wanted.among(catalogue.whole_part(name)?)?);
    }
    if let Some(timer) = location.and_then(|location| location.timer.as_ref()) {
        found.retain(|one| one.timer == *timer);
    }
    if found.is_empty() {
        return Err(Fault::Usage {
            message: format!("no timer that the catalogue knows has {}", wanted.told()),
            hint: "ask for less; `kairotic parts` lists all parts".to_owned(),
        });
    }
    Ok(FoundTimers { wanted, found })
}

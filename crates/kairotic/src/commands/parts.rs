//! `parts`: the catalogue, one part, one timer.

use crate::arguments::location::Location;
use crate::arguments::parts::PartsArgs;
use crate::fault::Result;
use crate::format::Report;
use crate::part_library::PartLibrary;
use crate::report::{PartList, PartPage, PinPage, TimerPage};

pub(super) fn run(arguments: &PartsArgs, catalogue: &PartLibrary) -> Result<Box<dyn Report>> {
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

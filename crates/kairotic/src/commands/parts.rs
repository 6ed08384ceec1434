//! `parts`: the catalogue, one part, one timer.

use crate::arguments::parts::PartsArgs;
use crate::fault::{Fault, Result};
use crate::format::Report;
use crate::part_library::PartLibrary;
use crate::report::{PartList, PartPage, PinPage, TimerPage};

pub(super) fn run(arguments: &PartsArgs, catalogue: &PartLibrary) -> Result<Box<dyn Report>> {
    let Some(path) = arguments.path.as_ref().map(|path| path.to_lowercase()) else {
        let parts = catalogue.names().iter().map(|name| catalogue.whole_part(name)).collect::<Result<_>>()?;
        return Ok(Box::new(PartList { parts, unsupported: kairotic_parts::unsupported() }));
    };
    let (part, timer) = match path.split_once('/') {
        None => (path.as_str(), None),
        Some((part, timer)) if !timer.is_empty() && !timer.contains('/') => (part, Some(timer)),
        Some(_) => {
            return Err(Fault::Usage {
                message: format!("expected PART or PART/TIMER, found `{path}`"),
                hint: "for example `kairotic parts stm32f411/tim3`".to_owned(),
            });
        }
    };
    let part = catalogue.whole_part(part)?;
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

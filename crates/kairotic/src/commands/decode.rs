//! `decode`: from register values back to the signal.

use kairotic_core::setting;

use super::exit;
use crate::arguments::decode::DecodeArgs;
use crate::catalogue::Catalogue;
use crate::exit::Exit;
use crate::fault::Result;
use crate::render::Report;
use crate::show::decode::DecodeReport;

pub(super) fn run(arguments: &DecodeArgs, catalogue: &Catalogue) -> Result<(Box<dyn Report>, Exit)> {
    let (part, request, around) = arguments.read(catalogue)?;
    let reading = setting::decode(catalogue.part(&part)?, &request)?;
    let exit = exit(&reading.findings);
    let working = if arguments.working { reading.working()? } else { Vec::new() };
    Ok((Box::new(DecodeReport { reading, around, working }), exit))
}

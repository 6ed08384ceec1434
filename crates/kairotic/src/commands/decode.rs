//! `decode`: from register values back to the signal.

use super::exit;
use crate::arguments::decode::DecodeArgs;
use crate::exit::Exit;
use crate::fault::Result;
use crate::format::Report;
use crate::part_library::PartLibrary;
use crate::report::decode::DecodeReport;
use kairotic_core::decode;

pub(super) fn run(arguments: &DecodeArgs, catalogue: &PartLibrary) -> Result<(Box<dyn Report>, Exit)> {
    let (request, around, elsewhere) = arguments.read(catalogue)?;
    let reading = decode::decode(&request)?;
    let exit = exit(&reading.findings);
    let explanation = if arguments.explain { reading.explain()? } else { Vec::new() };
    Ok((Box::new(DecodeReport { reading, around, explanation, elsewhere }), exit))
}

//! JSON: the envelope that every result stands in, and how exact numbers are written in tables.

use kairotic_core::finding::Finding;
use serde::Serialize;

use crate::fault::Result;
use crate::hints;

/// The version of the JSON output: it goes up when a key changes its meaning or goes away.
const VERSION: u32 = 2;

/// What every object is: the version, the command that made it, its result, and what is or may be wrong with that.
#[derive(Debug, Serialize)]
struct Envelope<'r, R> {
    kairotic: u32,
    command: &'static str,
    result: R,
    findings: Vec<Told<'r>>,
}

/// A finding with its remedies in the words of the command line.
#[derive(Debug, Serialize)]
struct Told<'f> {
    #[serde(flatten)]
    finding: &'f Finding,
    remedy: String,
}

/// The object of a command's result.
///
/// # Errors
/// [`Fault::Format`](crate::fault::Fault::Format).
pub fn envelope(command: &'static str, result: impl Serialize, findings: &[Finding]) -> Result<String> {
    let told = |finding| Told { finding, remedy: hints::of_finding(finding) };
    let findings = findings.iter().map(told).collect();
    Ok(serde_json::to_string_pretty(&Envelope { kairotic: VERSION, command, result, findings })?)
}

//! SARIF 2.1.0: results with their places in files. Only what is used of it.

use serde::Serialize;

use crate::fault::Result;

/// One thing that is wrong, at its place.
#[derive(Debug, Serialize)]
#[serde(rename_all = "camelCase")]
pub struct SarifResult {
    /// The rule that it is against.
    pub rule_id: &'static str,
    /// `error`, `warning` or `note`.
    pub level: &'static str,
    /// What is wrong.
    pub message: SarifMessage,
    /// Where.
    pub locations: Vec<SarifLocation>,
    /// Where else to look.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub related_locations: Vec<SarifLocation>,
}

/// A text.
#[derive(Debug, Serialize)]
pub struct SarifMessage {
    /// The text.
    pub text: String,
}

/// A place in a file.
#[derive(Debug, Serialize)]
#[serde(rename_all = "camelCase")]
pub struct SarifLocation {
    /// The file and the place.
    pub physical_location: PhysicalLocation,
    /// What is there.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub message: Option<SarifMessage>,
}

/// A file and a place in it.
#[derive(Debug, Serialize)]
#[serde(rename_all = "camelCase")]
pub struct PhysicalLocation {
    artifact_location: ArtifactLocation,
    region: SarifRegion,
}

#[derive(Debug, Serialize)]
struct ArtifactLocation {
    uri: String,
}

#[derive(Debug, Serialize)]
#[serde(rename_all = "camelCase")]
struct SarifRegion {
    start_line: usize,
    start_column: usize,
}

#[derive(Serialize)]
struct SarifLog<'r> {
    #[serde(rename = "$schema")]
    schema: &'static str,
    version: &'static str,
    runs: [SarifRun<'r>; 1],
}

#[derive(Serialize)]
#[serde(rename_all = "camelCase")]
struct SarifRun<'r> {
    tool: SarifTool,
    column_kind: &'static str,
    results: &'r [SarifResult],
}

#[derive(Serialize)]
struct SarifTool {
    driver: SarifDriver,
}

#[derive(Serialize)]
struct SarifDriver {
    name: &'static str,
    version: &'static str,
    rules: Vec<SarifRule>,
}

#[derive(Serialize)]
#[serde(rename_all = "camelCase")]
struct SarifRule {
    id: &'static str,
    full_description: SarifMessage,
}

impl SarifLocation {
    /// A place in a file, and what is there.
    pub fn at(file: &str, (line, column): (usize, usize), message: Option<String>) -> Self {
        let artifact_location = ArtifactLocation { uri: uri(file) };
        let region = SarifRegion { start_line: line.max(1), start_column: column.max(1) };
        let message = message.map(|text| SarifMessage { text });
        Self { physical_location: PhysicalLocation { artifact_location, region }, message }
    }
}

/// The log of one run. `rules` are the names and meanings of what results may be against.
///
/// # Errors
/// [`Fault::Format`](crate::fault::Fault::Format).
pub fn log(rules: &[(&'static str, &str)], results: &[SarifResult]) -> Result<String> {
    let used = rules.iter().filter(|(name, _)| results.iter().any(|result| result.rule_id == *name));
    let rule = |(id, about): &(&'static str, &str)| SarifRule {
        id,
        full_description: SarifMessage { text: (*about).to_owned() },
    };
    let driver = SarifDriver {
        name: env!("CARGO_PKG_NAME"),
        version: env!("CARGO_PKG_VERSION"),
        rules: used.map(rule).collect(),
    };
    let run = SarifRun { tool: SarifTool { driver }, column_kind: "unicodeCodePoints", results };
    let log =
        SarifLog { schema: "https://json.schemastore.org/sarif-2.1.0.json", version: "2.1.0", runs: [run] };
    Ok(serde_json::to_string_pretty(&log)?)
}

/// A path as a reference: with `/`, and everything escaped that means something else there.
fn uri(file: &str) -> String {
    let file = file.replace('\\', "/");
    let plain = |byte: &u8| byte.is_ascii_alphanumeric() || b"-._~/".contains(byte);
    file.bytes()
        .map(|byte| if plain(&byte) { char::from(byte).to_string() } else { format!("%{byte:02X}") })
        .collect()
}

#[cfg(test)]
mod tests {
    use super::uri;

    #[test]
    fn paths_become_references() {
        assert_eq!(uri("boards/a b#1.toml"), "boards/a%20b%231.toml");
        assert_eq!(uri("boards\\dome.toml"), "boards/dome.toml");
    }
}

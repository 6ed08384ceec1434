//! Which signal of a capture is which of a plan.

/// Whether a captured signal is meant by a name: by its whole name, or by the last step of it; capitals do not matter.
pub fn is_called(captured: &str, name: &str) -> bool {
    let last = captured.rsplit('.').next().unwrap_or(captured);
    captured.eq_ignore_ascii_case(name) || last.eq_ignore_ascii_case(name)
}

/// The place in the capture of each planned signal: as it is said, else by its name. A lone planned signal is the lone
/// measured one, whatever it is called.
pub(super) fn places(
    captured: &[String],
    measured: &[u32],
    planned: &[&str],
    said: &[(u32, String)],
) -> Vec<Option<u32>> {
    let lone = match (planned, measured) {
        ([_], [place]) => Some(*place),
        _ => None,
    };
    let place = |name: &&str| {
        let said = said.iter().find(|(_, planned)| planned == name).map(|(place, _)| *place);
        let same = || (0..).zip(captured).find(|(_, captured)| captured.as_str() == *name);
        let named = || same().or_else(|| (0..).zip(captured).find(|(_, captured)| is_called(captured, name)));
        said.or_else(|| named().map(|(place, _)| place)).or(lone)
    };
    planned.iter().map(place).collect()
}

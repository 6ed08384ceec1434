//! The names that somebody may have meant.

/// Up to three names of `known` that a slip of the keyboard could have turned into `name`, best first.
pub(super) fn nearest(name: &str, known: &[String]) -> Vec<String> {
    let wanted = name.to_lowercase();
    // One measure sees a common beginning, the other letters that changed places.
    let likeness = |candidate: &str| {
        let begins = strsim::jaro_winkler(&wanted, candidate);
        let edits = strsim::normalized_damerau_levenshtein(&wanted, candidate);
        (begins > 0.8 || edits > 0.6).then_some(begins.max(edits))
    };
    let mut scored: Vec<(f64, &String)> = known
        .iter()
        .filter_map(|candidate| Some((likeness(&candidate.to_lowercase())?, candidate)))
        .collect();
    scored.sort_by(|(left, _), (right, _)| right.total_cmp(left));
    scored.into_iter().take(3).map(|(_, candidate)| candidate.clone()).collect()
}
